import type { FieldDescription, Register, Row, Schemas } from '@/api/client'
import { meant, typed } from '@/rows/typed'

export type Rules = Schemas['TransactionRules']
export type Template = Schemas['Template']

/** A line as it is typed. */
export interface Line {
  /** tells it from the others while lines come and go */
  at: number
  values: Record<string, string>
  amount: string
}

/** A transaction that is being written. */
export interface Draft {
  /** what is said once */
  values: Record<string, string>
  lines: Line[]
}

let lines = 0
export const newLine = (values: Record<string, string> = {}, amount = ''): Line => ({
  at: ++lines,
  values,
  amount,
})

export const fieldOf = (register: Register, key: string): FieldDescription =>
  register.fields.find((f) => f.key === key)!

/** What is typed of a row's values, where they are there. */
function typedOf(register: Register, keys: string[], values: Record<string, unknown>, zone: string) {
  return Object.fromEntries(
    keys.filter((k) => values[k] != null).map((k) => [k, typed(fieldOf(register, k), values[k], zone)]),
  )
}

/** Today, in the fields of a transaction that say when. */
export function today(register: Register, rules: Rules, now: string, zone: string): Record<string, string> {
  const found: Record<string, string> = {}
  for (const key of rules.shared) {
    const field = fieldOf(register, key)
    if (field.type === 'moment') found[key] = typed(field, now, zone).slice(0, 16)
    if (field.type === 'date') found[key] = typed(fieldOf(register, key), localDate(now, zone), zone)
  }
  return found
}
const localDate = (now: string, zone: string) =>
  new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short' }).format(new Date(now))

/** A transaction with two lines to be filled. */
export const emptyDraft = (register: Register, rules: Rules, now: string, zone: string): Draft => ({
  values: today(register, rules, now, zone),
  lines: [newLine(), newLine()],
})

/** Another transaction with the lines of one that is there, today. */
export const copied = (register: Register, rules: Rules, rows: Row[], now: string, zone: string): Draft => ({
  values: {
    ...typedOf(register, rules.shared, rows[0]?.values ?? {}, zone),
    ...today(register, rules, now, zone),
  },
  lines: rows.map((row) =>
    newLine(typedOf(register, rules.each, row.values, zone), String(row.values[rules.amount] ?? '')),
  ),
})

/** What a template holds, today; its dates are those of the day that it is used on. */
export const fromTemplate = (
  register: Register,
  rules: Rules,
  template: Template,
  now: string,
  zone: string,
): Draft => ({
  values: { ...typedOf(register, rules.shared, template.values, zone), ...today(register, rules, now, zone) },
  lines: template.lines.map((l) => {
    const line = l as Record<string, unknown>
    return newLine(typedOf(register, rules.each, line, zone), String(line[rules.amount] ?? ''))
  }),
})

const filled = (text?: string) => Boolean(text?.trim())
/** Whether nothing stands in a line. */
export const isBlank = (line: Line) => !filled(line.amount) && !Object.values(line.values).some(filled)
export const written = (draft: Draft) => draft.lines.filter((l) => !isBlank(l))

// ------------------------------------------------------------------ amounts, to the last unit

const AMOUNT = /^([-+−]?)(\d+)(?:\.(\d+))?$/

/** A decimal number as a whole one of its smallest unit; undefined where it is none. */
function units(text: string): { value: bigint; places: number } | undefined {
  const found = AMOUNT.exec(text.trim())
  if (!found) return undefined
  const [, sign, whole, part = ''] = found
  const value = BigInt(whole! + part)
  return { value: sign === '-' || sign === '−' ? -value : value, places: part.length }
}

/** Whether something reads as an amount: `12.50`, `-3`. */
export const isAmount = (text: string) => units(text) !== undefined

/** What amounts add up to, in as many decimals as the longest of them; those that cannot be read do not count. */
export function sum(amounts: string[]): string {
  const read = amounts.map(units).filter((u) => u !== undefined)
  const places = Math.max(0, ...read.map((u) => u.places))
  const all = read.reduce((so, u) => so + u.value * 10n ** BigInt(places - u.places), 0n)
  return decimal(all, places)
}
function decimal(value: bigint, places: number): string {
  const digits = (value < 0n ? -value : value).toString().padStart(places + 1, '0')
  const whole = digits.slice(0, digits.length - places)
  return (value < 0n ? '-' : '') + whole + (places ? `.${digits.slice(-places)}` : '')
}

/** The same amount the other way round. */
export const opposite = (amount: string) => {
  const read = units(amount)
  return read ? decimal(-read.value, read.places) : amount
}

export const isZero = (amount: string) => units(amount)?.value === 0n

// ------------------------------------------------------------------ as the API takes it

/**
 * What a draft asks for: its lines in which something stands.
 *
 * @throws Error with a sentence, where something does not read
 */
export function asked(register: Register, rules: Rules, draft: Draft, zone: string) {
  return {
    values: read(register, rules.shared, draft.values, zone),
    lines: written(draft).map((line, i) => {
      const at = `Line ${i + 1}`
      const amount = line.amount.trim()
      if (!amount) throw new Error(`${at} has no ${fieldOf(register, rules.amount).label.toLowerCase()}.`)
      if (!isAmount(amount)) throw new Error(`${at}: an amount is written like 12.50 or -12.50.`)
      try {
        return {
          ...read(register, rules.each, line.values, zone),
          [rules.amount]: amount.replace('−', '-').replace('+', ''),
        }
      } catch (e) {
        throw new Error(`${at}: ${(e as Error).message}`, { cause: e })
      }
    }),
  } as Omit<Schemas['NewTransaction'], 'reason'>
}
function read(register: Register, keys: string[], values: Record<string, string>, zone: string) {
  return Object.fromEntries(
    keys
      .filter((k) => filled(values[k]))
      .map((k) => [k, meant(fieldOf(register, k), values[k]!, zone)] as const),
  )
}
