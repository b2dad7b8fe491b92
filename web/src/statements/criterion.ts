import {
  isQuantity,
  isWrittenQuantity,
  quantityText,
  quantityWanted,
  typedQuantity,
  type Quantity,
} from './quantity'
import type { FieldDescription, Register } from '@/api/client'
import { isNumeric } from '@/platform/format'
import type { Node } from './tree'
import type { Place } from './usePlaces'

/**
 * A criterion while it is being written: what stands in each place of its editor, also in those that the test of the
 * moment does not take. The server alone says what a criterion means; here it is only taken apart and put together.
 */
export interface Draft {
  /** the key of the field; empty until one is chosen */
  field: string
  /** the test by its words, as {@link offeredTests} has them */
  test: string
  period: string
  secondPeriod: string
  /** chosen values, weekdays, months or days of the month */
  values: unknown[]
  /** a list as it was written or pasted */
  pasted: string
  /** a text, or a pattern */
  text: string
  /** whether the case of letters counts */
  exactly: boolean
  low: string
  high: string
  fromTime: string
  toTime: string
  bands: string[]
  /** whole units of a distance, as they were typed */
  count: string | number
  unit: string
  side: string
  yes: boolean
  /** the fact about the reader that the field is held against; empty for none */
  viewer: string
  /** another field of the record in the place of a value; empty for none */
  other: string
  /** what is added to that field, as it was typed */
  plus: string
  plusUnit: string
  /** the label under which whoever reads the view is asked for the value; empty when nobody is */
  ask: string
  /** the same for the second of two values */
  secondAsk: string
  /** what stands in a written list beside its values and cannot be written there: blanks and facts about the reader */
  kept: unknown[]
  /** where the values of the fields can be looked for */
  places: Place[]
  /** the key of the register whose records have the value */
  register: string
  /** what is asked of those records; every one of them where it is absent */
  where: Node | undefined
  /** whether what is typed for that cannot be read */
  unread: boolean
}

/** A test of a field, as the server describes it. */
export type Test = Register['tests'][string][number]

export const fieldOf = (register: Register, key: string) => register.fields.find((f) => f.key === key)

export const isTemporal = (field?: FieldDescription) => field?.type === 'date' || field?.type === 'moment'
/** Whether the values of the field are chosen from a list. */
export const isListed = (field?: FieldDescription) => ['choice', 'person', 'tags'].includes(field?.type ?? '')

/** Whether the field knows hours, so that phrases and distances in hours fit it; a span does as its beginning does. */
export function knowsHours(register: Register, field?: FieldDescription): boolean {
  const start = field?.ends?.start
  return (start ? fieldOf(register, start) : field)?.type === 'moment'
}

const isAsk = (value: unknown): value is Node => typeof value === 'object' && value !== null && 'ask' in value
const isViewer = (value: unknown): value is Node =>
  typeof value === 'object' && value !== null && 'viewer' in value
/** A value, or the default of the blank in its place. */
const plain = (value: unknown) => (isAsk(value) ? value.default : value)
const labelOf = (value: unknown) => (isAsk(value) ? String(value.ask) : '')
const time = (value: unknown, otherwise: string) =>
  String(plain(value) ?? (isAsk(value) ? '' : otherwise)).slice(0, 8)
/** A date phrase that is asked for as a whole: its label and its default. */
const askedPhrase = (period: unknown) => /^\{([^=}]+?)(?:\s*=\s*(.*))?\}$/.exec(String(period ?? ''))

/** A listed field takes one value or several under the same words. */
const listedWords = (words: string) => (words === 'is' ? 'is in' : words === 'is not' ? 'is not in' : words)
const singleWords = (words: string) => (words === 'is in' ? 'is' : words === 'is not in' ? 'is not' : words)

/** Takes a criterion apart, or begins a new one about a field. */
export function draftOf(register: Register, node: Node = {}, about = ''): Draft {
  const field = String(node.field ?? about)
  const value = plain(node.value)
  // Beside two times a blank for the days stands as it was written.
  const asked = node.from === undefined ? askedPhrase(node.period) : null
  const values = node.values as unknown[] | undefined
  const words = String(node.test ?? '')
  const bands = (node.bands as unknown[] | undefined) ?? []
  const first = [node.value, node.count, node.text, node.time, node.low, node.from].find(isAsk) ?? bands[0]
  const plus = node.plus as number | Node | undefined
  const draft: Draft = {
    field,
    test: isListed(fieldOf(register, field)) ? listedWords(words) : words,
    period: asked ? (asked[2] ?? 'today') : String(node.period ?? node.from ?? 'today'),
    secondPeriod: String(node.to ?? 'today'),
    values: values ? [...values] : value === undefined ? [] : [value],
    pasted: (values ?? [])
      .filter((v) => typeof v !== 'object' || isWrittenQuantity(v))
      .map(quantityText)
      .join('\n'),
    kept: [...(values ?? []), ...(bands.length > 1 ? bands : [])].filter(
      (v) => typeof v === 'object' && !isWrittenQuantity(v),
    ),
    text: String(plain(node.text) ?? node.pattern ?? (typeof value === 'string' ? value : '')),
    exactly: Boolean(node.exactly),
    low: quantityText(plain(node.low) ?? (isQuantity(value) ? value : '')),
    high: quantityText(plain(node.high) ?? ''),
    fromTime: time(node.from ?? node.time, '09:00'),
    toTime: time(node.to, '17:00'),
    bands: (bands.length > 1 ? bands : bands.map(plain)).filter((b) => typeof b === 'string'),
    count: Number(plain(node.count) ?? 30),
    unit: String(node.unit ?? 'day'),
    side: String(node.side ?? 'ago'),
    yes: node.value !== false,
    viewer: isViewer(node.value) ? String(node.value.viewer) : '',
    other: String(node.other ?? ''),
    plus: plus === undefined ? '' : isQuantity(plus) ? quantityText(plus) : String(plus.count),
    plusUnit: plus === undefined || isQuantity(plus) ? 'day' : String(plus.unit),
    ask: asked?.[1] ?? (bands.length > 1 ? '' : labelOf(first)),
    secondAsk: labelOf(node.high ?? node.to),
    places: [],
    register: String(node.register ?? ''),
    where: node.where as Node | undefined,
    unread: false,
  }
  beginTest(register, draft)
  return draft
}

/** Goes on with another field: what was written for the one before means nothing there. */
export function changeField(register: Register, draft: Draft) {
  Object.assign(draft, {
    test: '',
    ask: '',
    secondAsk: '',
    other: '',
    bands: [],
    values: [],
    kept: [],
    viewer: '',
    register: '',
    where: undefined,
    unread: false,
  })
  beginTest(register, draft)
}

/** Gives a draft with a field and no test the one that is usual for the field. */
function beginTest(register: Register, draft: Draft) {
  const field = fieldOf(register, draft.field)
  if (draft.test || !field) return
  draft.test =
    (testsOf(register, field).find((t) => t.first) ?? offeredTests(register, field)[0])?.words ?? ''
  draft.period = field.type === 'moment' ? 'last 7 days' : field.type === 'span' ? 'this week' : 'today'
}

/** The tests that fit a field; other records are asked about where there are some, or by the one that is in use. */
const testsOf = (register: Register, field?: FieldDescription, others = false): Test[] =>
  (register.tests[field?.type ?? ''] ?? []).filter((t) =>
    t.takes === 'RECORDS' ? others : field!.tests.includes(t.words),
  )

/** Where the values of the field of the moment can be looked for. */
export const placesOf = (draft: Draft) => draft.places.filter((p) => p.field === draft.field)
const asksOthers = (draft: Draft) => Boolean(draft.register) || placesOf(draft).length > 0

/**
 * The tests of a field as the editor offers them.
 *
 * @param kept a test that is offered in any case, as it is already in use
 * @param others whether its values can be looked for in other records
 */
export function offeredTests(
  register: Register,
  field: FieldDescription | undefined,
  kept = '',
  others = false,
): Test[] {
  return testsOf(register, field, others).filter(
    (t) => t.offered || t.takes === 'RECORDS' || (t.words === kept && !isListed(field)),
  )
}

/** The tests of a draft's field as the editor offers them. */
export const testsFor = (register: Register, draft: Draft, kept = '') =>
  offeredTests(register, fieldOf(register, draft.field), kept, asksOthers(draft))

/** The test of the moment. */
export const testOf = (register: Register, draft: Draft) =>
  testsOf(register, fieldOf(register, draft.field), asksOthers(draft)).find((t) => t.words === draft.test)

/** What the test of the moment takes. */
export const taken = (register: Register, draft: Draft): Test['takes'] | undefined =>
  testOf(register, draft)?.takes

/** The facts about a reader that the field can be held against. */
export const viewerValues = (register: Register, draft: Draft): string[] =>
  fieldOf(register, draft.field)?.viewerValues ?? []

/** The fields that can stand in the place of the value, and the one that does. */
export function otherFields(register: Register, draft: Draft): FieldDescription[] {
  const own = fieldOf(register, draft.field)
  const words = isListed(own) ? singleWords(draft.test) : draft.test
  const compares = testsOf(register, own).some((t) => t.words === words && t.compares)
  const others = own?.others[words] ?? []
  return compares ? register.fields.filter((f) => others.includes(f.key) || f.key === draft.other) : []
}

/** Whether another field stands in the place of the value. */
export function isBeside(register: Register, draft: Draft): boolean {
  return otherFields(register, draft).some((f) => f.key === draft.other)
}

/** The units in which something can be added to the other field. */
export function plusUnits(register: Register, draft: Draft): string[] {
  const days = ['day', 'week', 'month', 'quarter', 'year']
  const moments = [draft.field, draft.other].every((key) => fieldOf(register, key)?.type === 'moment')
  return moments ? ['minute', 'hour', ...days] : days
}

/** How many values can be left blank for whoever reads the view. */
export function blanks(register: Register, draft: Draft): 0 | 1 | 2 {
  if (isBeside(register, draft) || draft.viewer) return 0
  const field = fieldOf(register, draft.field)
  switch (taken(register, draft)) {
    case 'NUMBER':
    case 'DISTANCE':
    case 'PERIOD':
    case 'TEXT':
    case 'TIME':
      return 1
    case 'TWO_NUMBERS':
    case 'TWO_TIMES':
    case 'TIMES_ON_DAYS':
      return 2
    case 'VALUE':
      return field?.type === 'text' ? 1 : 0
    case 'VALUES':
      return isListed(field) && field?.type !== 'tags' && draft.values.length <= 1 ? 1 : 0
    case 'BANDS':
      return draft.bands.length + draft.kept.length <= 1 ? 1 : 0
    default:
      return 0
  }
}

/** A band of a field with its place among those that hold it. */
export interface BandLine {
  name: string
  /** how many bands hold it */
  depth: number
}

/** The bands of a field, those inside others after them and one step in. */
export function bandLines(field?: FieldDescription): BandLine[] {
  interface Band {
    name: string
    bands: Band[]
  }
  const walk = (bands: Band[], depth: number): BandLine[] =>
    bands.flatMap((b) => [{ name: b.name, depth }, ...walk(b.bands, depth + 1)])
  return walk((field?.bands as Band[] | undefined) ?? [], 0)
}

/** A word that can only be an identifier: figures with letters or marks, or four figures and more. */
const IDENTIFIER = /^(?=\S*\d)(?:\S*[^\d\s.,]\S*|\d{4,})$/

/**
 * The values of a pasted list, each once: lines, commas, semicolons and tabs separate them, and spaces where all that they
 * separate are identifiers, as in "D-17 D-18".
 */
export function pastedValues(raw: string): string[] {
  const pieces = raw.split(/[\r\n,;\t]+/).flatMap((piece) => {
    const words = piece.trim().split(/\s+/)
    return words.length > 1 && words.every((w) => IDENTIFIER.test(w)) ? words : [piece.trim()]
  })
  return [...new Set(pieces.filter(Boolean))]
}

function asQuantity(field: FieldDescription, raw: string): Quantity {
  const value = typedQuantity(field, raw)
  if (value === undefined) throw new Error(quantityWanted(field))
  return value
}

/** Whole units; a half of one is asked about, never rounded in silence. */
function asWhole(raw: string | number, least: number): number {
  const value = Number(String(raw).trim() || 'nothing')
  if (!Number.isInteger(value) || value < least)
    throw new Error(
      least < 0 ? 'Write a whole number, such as 3 or -3.' : 'Write how many, as a whole number such as 30.',
    )
  return value
}

/**
 * Puts a criterion together.
 *
 * @throws Error with a sentence that says what is missing
 */
export function built(register: Register, draft: Draft): Node {
  const field = fieldOf(register, draft.field)
  if (!field) throw new Error('Choose a field.')
  const base: Node = { field: draft.field, test: draft.test }
  const single = (value: unknown): Node => ({
    field: draft.field,
    test: singleWords(draft.test),
    value,
  })
  if (isBeside(register, draft)) return besideNode(field, draft, isListed(field) ? single(undefined) : base)

  const many = blanks(register, draft)
  const label = many ? draft.ask.trim() : ''
  const second = many > 1 ? draft.secondAsk.trim() : ''
  if (/[{}="\n]/.test(label + second)) throw new Error('The label of a question has no { } = or " in it.')
  const asking = (value: unknown, under = label): unknown =>
    !under ? value : value === undefined ? { ask: under } : { ask: under, default: value }
  const asNumberOrBlank = (raw: string, under = label) =>
    asking(under && !raw.trim() ? undefined : asQuantity(field, raw), under)
  const asTime = (raw: string, under = label) => {
    if (!raw && !under) throw new Error('Write a time of day, such as 14:30.')
    return asking(raw || undefined, under)
  }
  const exact = draft.exactly && field.type === 'text' ? { exactly: true } : {}

  switch (taken(register, draft)) {
    case 'NOTHING':
      return base
    case 'PERIOD':
      return label && !draft.period.trim().startsWith('{')
        ? { ...base, period: `{${label} = ${draft.period}}` }
        : { ...base, period: draft.period }
    case 'TWO_PERIODS':
      return { ...base, from: draft.period, to: draft.secondPeriod }
    case 'TIME':
      return { ...base, time: asTime(draft.fromTime) }
    case 'TWO_TIMES':
      return { ...base, from: asTime(draft.fromTime), to: asTime(draft.toTime, second) }
    case 'TIMES_ON_DAYS':
      return {
        ...base,
        from: asTime(draft.fromTime),
        to: asTime(draft.toTime, second),
        period: draft.period,
      }
    case 'WEEKDAYS':
    case 'MONTHS':
    case 'DAYS_OF_MONTH':
      if (!draft.values.length) throw new Error('Choose at least one.')
      return { ...base, values: [...draft.values] }
    case 'BANDS':
      if (label) return { ...base, bands: [asking(draft.bands[0])] }
      if (!draft.bands.length && !draft.kept.length) throw new Error('Choose at least one band.')
      return { ...base, bands: [...draft.bands, ...draft.kept] }
    case 'PATTERN':
      if (!draft.text) throw new Error('Write a regular expression, such as ^D-1\\d+$.')
      return { ...base, pattern: draft.text, ...exact }
    case 'RECORDS':
      if (!draft.register) throw new Error('Choose the register whose records have the value.')
      if (draft.unread)
        throw new Error('What is asked of them cannot be read yet. Put it right, or leave it empty.')
      return { ...base, register: draft.register, ...(draft.where ? { where: draft.where } : {}) }
    case 'DISTANCE':
      return { ...base, count: asking(asWhole(draft.count, 0)), unit: draft.unit, side: draft.side }
    case 'TEXT':
      if (!draft.text && !label) throw new Error('Write the text to look for.')
      return { ...base, text: asking(draft.text || undefined), ...exact }
    case 'NUMBER':
      return { ...base, value: asNumberOrBlank(draft.low) }
    case 'TWO_NUMBERS':
      return { ...base, low: asNumberOrBlank(draft.low), high: asNumberOrBlank(draft.high, second) }
    case 'VALUE':
      if (field.type === 'yes/no') return { ...base, value: draft.yes }
      if (draft.viewer) return { ...base, value: { viewer: draft.viewer } }
      if (!draft.text && !label) throw new Error('Write the text to compare with.')
      return { ...base, value: asking(draft.text || undefined), ...exact }
    case 'VALUES': {
      if (!isListed(field)) {
        const found = pastedValues(draft.pasted)
        if (!found.length && !draft.kept.length) throw new Error('Write or paste at least one value.')
        return {
          ...base,
          values: [...(isNumeric(field) ? found.map((v) => asQuantity(field, v)) : found), ...draft.kept],
          ...exact,
        }
      }
      if (label) return single(asking(draft.values[0]))
      if (!draft.values.length) throw new Error('Choose at least one value.')
      return draft.values.length === 1 && field.type !== 'tags'
        ? single(draft.values[0])
        : { ...base, values: [...draft.values] }
    }
    default:
      throw new Error('Choose a test.')
  }
}

/** A criterion that holds the field against another one, with something added or not. */
function besideNode(field: FieldDescription, draft: Draft, base: Node): Node {
  const node: Node = { field: base.field, test: base.test, other: draft.other }
  if (!draft.plus.trim()) return node
  return isNumeric(field)
    ? { ...node, plus: asQuantity(field, draft.plus) }
    : { ...node, plus: { count: asWhole(draft.plus, -Infinity), unit: draft.plusUnit } }
}
