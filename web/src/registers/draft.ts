import type { Band, FieldDescription, Register, Schemas } from '@/api/client'
import { writeOrder, type OrderKey } from '@/rows/orders'

/** A field of the catalogue as it is being written. */
export interface FieldDraft {
  given: FieldDescription
  key: string
  label: string
  description: string
  unit: string
  shown: boolean
  useful: boolean
  identifying: boolean
  correctable: boolean
  correctors: string[]
  /** the known values, one on each line */
  options: string
  bands: Band[]
  relates: { register: string; field: string }[]
  /** how it is calculated; empty where it is not */
  calculation: string
}

/** What a register is called, and how its records stand at rest, as it is being written. */
export interface NamesDraft {
  label: string
  recordLabel: string
  /** what several records are called; left empty, it is made from one */
  recordsLabel: string
  description: string
  /** the key of a date or moment, or nothing */
  mainField: string
  titleField: string
  /** the key of a number, or nothing */
  running: string
  order: OrderKey[]
  /** how its records are posted together */
  transactions: Schemas['TransactionRules'] | null
}

/** Bands to be changed, each with the name it has, so that a new one is known to be its own. */
export const named = (given: Band[]): Band[] =>
  given.map((band) => ({
    name: band.name,
    extents: band.extents.map((e) => ({ ...e, values: e.values && [...e.values] })),
    bands: named(band.bands),
    was: band.name,
  }))

/** A field of a register, to be written about. */
export const fieldDraft = (f: FieldDescription, register: Register): FieldDraft => ({
  given: f,
  key: f.key,
  label: f.label,
  description: f.description,
  unit: f.unit,
  shown: register.columns.includes(f.key),
  useful: f.useful,
  identifying: f.identifying,
  correctable: f.correctable,
  correctors: [...f.correctors],
  options: f.options.map((o) => o.value).join('\n'),
  bands: named(f.bands as Band[]),
  relates: f.relates.map((r) => ({ ...r })),
  calculation: f.calculation?.words ?? '',
})

/** What there is to be said of a register as a whole. */
export const namesDraft = (register: Register): NamesDraft => ({
  label: register.label,
  recordLabel: register.recordLabel,
  recordsLabel: register.recordsLabel,
  description: register.description,
  mainField: register.mainField ?? '',
  titleField: register.titleField,
  running: register.running ?? '',
  order: register.order.map((o) => ({ ...o })),
  transactions: register.transactions
    ? (JSON.parse(JSON.stringify(register.transactions)) as Schemas['TransactionRules'])
    : null,
})

/** A field as the server takes it. */
export const writtenField = (d: FieldDraft) => ({
  key: d.key,
  label: d.label,
  description: d.description,
  unit: d.unit,
  shown: d.shown,
  useful: d.useful,
  identifying: d.identifying,
  correctable: d.correctable,
  correctors: d.correctable ? d.correctors : [],
  options: d.options
    .split('\n')
    .map((o) => o.trim())
    .filter(Boolean),
  bands: d.bands,
  relates: d.relates.filter((r) => r.register && r.field),
  calculation: d.calculation || null,
})

/** A register as the server takes it. */
export const writtenRegister = (names: NamesDraft, fields: FieldDraft[]) => ({
  ...names,
  mainField: names.mainField || null,
  running: names.running || null,
  order: names.order.map(writeOrder),
  fields: fields.map(writtenField),
})

/** The fields whose bands are others than they were. */
export const rebanded = (fields: FieldDraft[]) =>
  fields.filter((d) => JSON.stringify(d.bands) !== JSON.stringify(named(d.given.bands as Band[])))

/** The fields that are calculated otherwise than they were. */
export const recalculated = (fields: FieldDraft[]) =>
  fields.filter((d) => d.calculation && d.calculation !== d.given.calculation?.words)
