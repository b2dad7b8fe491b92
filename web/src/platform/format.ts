import { durationWords } from './duration'
import { isBeyond, written } from './exact'
import type { FieldDescription } from '@/api/client'

/** The months by name. */
export const MONTH_NAMES = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
]
const MONTHS = MONTH_NAMES.map((m) => m.slice(0, 3))
const whole = new Intl.NumberFormat('en-GB')
/** As many places as there are: a number in a table is never rounded. */
const PLACES = 20
const exact = new Intl.NumberFormat('en-GB', { maximumFractionDigits: PLACES })
const plain = new Intl.NumberFormat('en-GB', { useGrouping: false, maximumFractionDigits: PLACES })
const money = new Intl.NumberFormat('en-GB', { minimumFractionDigits: 2, maximumFractionDigits: PLACES })

/** A count or number with thousands marked: `24,000`. */
export function number(value: number): string {
  return whole.format(value)
}

/** The same text with its first letter large. */
export const capitalised = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)

/** A field's type as it is said to people. */
export const typeWords = (type: string) => (type === 'moment' ? 'date and time' : type)

/** How many of something there are, in the number it needs: `1 record`, `1,318 records`. */
export function counted(value: number, one: string, many = one + 's'): string {
  return `${number(value)} ${value === 1 ? one : many}`
}

/** How many characters a number takes in a table, with its thousands marked; cheaper than writing it, but for durations. */
export function figures(value: unknown, type: string): number {
  if (type === 'duration') return durationWords(value as number | string).length
  const [before = '', behind = ''] = String(value).split('.')
  const digits = before.replace('-', '').length
  const places = type === 'money' ? Math.max(behind.length, 2) : behind.length
  return before.length + Math.floor((digits - 1) / 3) + (places ? places + 1 : 0)
}

/** A day in the product's one form: `23 Nov 2026`. */
export function day(iso: string): string {
  const [year, month, date] = iso.split('-').map(Number)
  return `${date} ${MONTHS[(month ?? 1) - 1]} ${year}`
}

/** A moment in the product's one form, in a zone: `23 Nov 2026, 14:30`, with seconds where there are any. */
export function moment(iso: string, zone: string): string {
  const parts = Object.fromEntries(
    new Intl.DateTimeFormat('en-GB', {
      timeZone: zone,
      year: 'numeric',
      month: 'numeric',
      day: 'numeric',
      hour: '2-digit',
      minute: '2-digit',
      hourCycle: 'h23',
    })
      .formatToParts(new Date(iso))
      .map((p) => [p.type, p.value]),
  )
  return `${Number(parts.day)} ${MONTHS[Number(parts.month) - 1]} ${parts.year}, ${parts.hour}:${parts.minute}`
}

/** The local day of a moment in a zone, ISO 8601. */
export function localDay(iso: string, zone: string): string {
  return new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short' }).format(new Date(iso))
}

/**
 * Whether the numbers of a field are names rather than amounts, so that nobody marks their thousands: what identifies a
 * record, and years, numbers and keys by what the field is called. `year` and `Invoice no` are, `Number of crew` is not.
 */
export function isName(field: FieldDescription): boolean {
  return field.identifying || /(^|[\s_])(year|number|no|nr|id|key|code|ref|reference)[.]?$/i.test(field.label)
}

/** A mean as people read it: with two places, of durations with none; what no value of a record ever is, rounded. */
export function mean(value: unknown, type: string): string {
  if (value === null || value === undefined) return '—'
  if (isBeyond(value)) return value
  return type === 'duration' ? durationWords(written(seconds, value)) : written(twoPlaces, value)
}
const seconds = new Intl.NumberFormat('en-US', { useGrouping: false, maximumFractionDigits: 0 })
const twoPlaces = new Intl.NumberFormat('en-GB', { minimumFractionDigits: 2, maximumFractionDigits: 2 })

/** A field's value as people read it; empty is a dash. */
export function cell(field: FieldDescription, value: unknown, zone: string): string {
  if (value === null || value === undefined || value === '') return '—'
  if (isBeyond(value)) return value
  switch (field.type) {
    case 'date':
      return day(String(value))
    case 'moment':
      return moment(String(value), zone)
    case 'money':
      return written(money, value)
    case 'number':
      return isName(field) ? written(plain, value) : written(exact, value)
    case 'duration':
      return durationWords(value as number | string)
    case 'yes/no':
      return value ? 'yes' : 'no'
    case 'time of day':
      return String(value).replace(/^(\d\d:\d\d):00$/, '$1')
    case 'tags':
      return (value as (string | null)[]).filter(Boolean).join(', ') || '—'
    case 'person':
      return field.options.find((o) => o.value === value)?.label ?? String(value)
    default:
      return String(value)
  }
}

/** Whether the values of a type are numbers, of whatever unit: they are compared, lie in ranges, and add up. */
export const isNumericType = (type?: string): boolean =>
  type === 'number' || type === 'money' || type === 'duration'

/** The same of a field. */
export const isNumeric = (field?: FieldDescription): boolean => isNumericType(field?.type)
