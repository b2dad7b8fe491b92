import type { components } from '@/api/schema'
import type { FieldDescription, Register } from '@/api/client'
import { cell, day, mean, MONTH_NAMES, number } from '@/platform/format'
import { readOrder } from './orders'

/** How records are shown beyond their columns and order; nothing in it changes which records match. */
export type Shape = Partial<components['schemas']['Shape']>
export type Grouping = components['schemas']['Grouping']
export type Column = components['schemas']['Column']
export type Part = components['schemas']['Part']
export type By = NonNullable<Grouping['by']>
export type Group = components['schemas']['Group']
/** What is told of several records: a function, and the field that it is about. */
export type Figure = components['schemas']['Figure']
/** How a view is read as totals. */
export type Totals = Partial<components['schemas']['Totals']>

/** What a chart of totals is made of. */
export type ChartKind = NonNullable<Totals['chart']>['kind']
/** What the kinds of charts are called. */
export const CHART_WORDS: Record<ChartKind, string> = {
  bars: 'bars',
  stacked: 'stacked bars',
  line: 'lines',
  multiples: 'small charts',
}

export const MOST_GROUPS = 3
/** The most rows of totals that can be said to be shown. */
export const MOST_ROWS = 1000
export const MOST_FIGURES = 10

/** Without what says nothing, so that two shapes that show the same are the same. */
export function tidy(shape: Shape): Shape {
  const columns = Object.fromEntries(
    Object.entries(shape.columns ?? {})
      .map(([key, c]) => [
        key,
        Object.fromEntries(
          Object.entries(c).filter(([, v]) => v !== undefined && v !== null && v !== false && v !== ''),
        ),
      ])
      .filter(([, c]) => Object.keys(c as object).length),
  ) as Record<string, Column>
  const found: Record<string, unknown> = {}
  if (Object.keys(columns).length) found.columns = columns
  if (shape.density) found.density = shape.density
  if (shape.wrap) found.wrap = true
  if (shape.groups?.length) found.groups = shape.groups.map(tidyLevel)
  if (shape.measures?.length)
    found.measures = shape.measures.map((m) => ({
      function: m.function,
      ...(m.field ? { field: m.field } : {}),
      ...((percentOf(m) ?? USUAL_PERCENT) === USUAL_PERCENT ? {} : { percent: m.percent }),
    }))
  if (shape.take)
    found.take = Object.fromEntries(
      Object.entries(shape.take).filter(([, v]) => v !== null && v !== undefined),
    )
  if (shape.marked) found.marked = true
  if (shape.running) found.running = shape.running
  if (shape.totals)
    found.totals = {
      ...filled({
        across: shape.totals.across && tidyLevel(shape.totals.across),
        keep: shape.totals.keep?.trim(),
        shares: shape.totals.shares,
        order: shape.totals.order,
        compare: shape.totals.compare,
        changes: shape.totals.across && shape.totals.changes,
        balances: shape.totals.balances,
        limit: shape.totals.limit,
        chart:
          shape.totals.chart && filled({ kind: shape.totals.chart.kind, figure: shape.totals.chart.figure }),
      }),
      // Usually they are there.
      ...(shape.totals.empties === false ? { empties: false } : {}),
    }
  return found as Shape
}

const filled = (of: Record<string, unknown>) =>
  Object.fromEntries(
    Object.entries(of).filter(([, v]) => v !== undefined && v !== null && v !== false && v !== ''),
  )
const tidyLevel = (g: Grouping) =>
  filled({ field: g.field, by: g.by, arranged: g.arranged === 'ascending' ? undefined : g.arranged })

/** The shape as a link carries it. */
export const written = (shape: Shape): string => JSON.stringify(tidy(shape))

/** A shape from a link, older links included; what is no shape is as usual. */
export function readShape(text: string): Shape {
  try {
    const found: unknown = JSON.parse(text)
    if (typeof found !== 'object' || found === null || Array.isArray(found)) return {}
    const shape = found as Shape
    // Older links have a list of the fields that were added up.
    if (!Array.isArray(shape.totals)) return tidy(shape)
    const added = (shape.totals as string[]).map((field) => ({ function: 'sum' as const, field }))
    return tidy({ ...shape, totals: undefined, measures: shape.measures ?? added })
  } catch {
    return {}
  }
}

/** Whether records can be put into groups by a field. */
export const groupable = (f: FieldDescription) => f.groupings.length > 0

/** What groups of a field can be, the usual first. */
export const waysToGroup = (f: FieldDescription): By[] => f.groupings

/** A level in words: `month of Due`, `Site`. */
export function levelWords(register: Register, grouping: Grouping): string {
  const f = fieldOf(register, grouping.field)
  const label = f?.label ?? grouping.field
  const by = grouping.by ?? (f && waysToGroup(f)[0]) ?? 'value'
  if (by === 'value') return label
  return by === 'month of year' ? `month of any year of ${label}` : `${by} of ${label}`
}

/** What the records of a group have in common, as people read it. */
export function groupWords(register: Register, grouping: Grouping, group: Group, zone: string): string {
  const f = fieldOf(register, grouping.field)!
  if (group.value === undefined || group.value === null)
    return grouping.by === 'band' ? `in no band of ${f.label}` : `no ${f.label}`
  if (group.from) {
    const [year, month] = group.from.split('-').map(Number) as [number, number]
    switch (grouping.by ?? 'month') {
      case 'day':
        return day(group.from)
      case 'week':
        return `week of ${day(group.from)}`
      case 'quarter':
        return `${MONTH_NAMES[month - 1]!.slice(0, 3)} to ${MONTH_NAMES[month + 1]!.slice(0, 3)} ${year}`
      case 'year':
        return String(year)
      case 'fiscal quarter':
      case 'fiscal year':
        return group.label ?? group.value
      default:
        return `${MONTH_NAMES[month - 1]} ${year}`
    }
  }
  if (grouping.by === 'band') return group.value
  if (group.label) return group.label
  if (f.type === 'yes/no') return group.value === 'true' ? `${f.label}: yes` : `${f.label}: no`
  return cell(f, group.value, zone)
}

const fieldOf = (register: Register, key?: string | null) => register.fields.find((f) => f.key === key)
const described = (register: Register, figure: Figure) =>
  fieldOf(register, figure.field)?.measures.find((m) => m.function === figure.function)

/** The percentile where none is said. */
export const USUAL_PERCENT = 90
export const percentOf = (figure: Figure): number | undefined =>
  figure.function === 'percentile' ? (figure.percent ?? USUAL_PERCENT) : undefined
/** Whether two figures tell the same. */
export const sameFigure = (a: Figure, b: Figure): boolean =>
  a.function === b.function && (a.field ?? '') === (b.field ?? '') && percentOf(a) === percentOf(b)

const PLURAL = new Intl.PluralRules('en', { type: 'ordinal' })
const ENDINGS: Record<string, string> = { one: 'st', two: 'nd', few: 'rd', other: 'th' }
/** What a function is called before a field's label: `sum of`, `90th percentile of`. */
function functionWords(register: Register, figure: Figure): string {
  const words = described(register, figure)?.words ?? figure.function
  const percent = percentOf(figure)
  return percent ? `${percent}${ENDINGS[PLURAL.select(percent)]} ${words}` : words
}

/** A figure in words: `sum of Cost`, `earliest Due`, `90th percentile of Cost`. */
export function figureWords(register: Register, figure: Figure): string {
  if (!figure.field) return 'number of records'
  const label = fieldOf(register, figure.field)?.label ?? figure.field
  return `${functionWords(register, figure)} ${label}`
}

/** What figures do not have in them, in sentences: other servers may hold numbers that are none. */
export function leftOutWords(register: Register, leftOut: Record<string, number> | undefined): string[] {
  return Object.entries(leftOut ?? {}).map(([key, values]) => {
    const label = fieldOf(register, key)?.label ?? key
    return values === 1
      ? `1 value of ${label} is no number and is left out`
      : `${number(values)} values of ${label} are no numbers and are left out`
  })
}

/** What stands before the figure where its column says the rest; a sum needs nothing. */
export const figureMark = (register: Register, figure: Figure): string =>
  figure.function === 'sum' ? '' : functionWords(register, figure).replace(/ of$/, '')

/** A figure as people read it. */
export function figureText(register: Register, figure: Figure, value: unknown, zone: string): string {
  if (figure.function === 'count') return number(Number(value))
  const f = fieldOf(register, figure.field)
  const type = described(register, figure)?.type
  if (!f || !type) return value === null || value === undefined ? '—' : String(value)
  if (figure.function === 'average') return mean(value, type)
  // A number of things is no value of the field: years are counted in thousands too.
  return cell(type === f.type ? f : { ...f, type, identifying: false, label: '' }, value, zone)
}

/** A figure, and its place among those of the shape. */
export interface Placed {
  figure: Figure
  at: number
}

/**
 * The figures that stand under the heads of columns, by field: the first of each. The words of the line need the first column, and where
 * that is only as wide as a number the second too.
 */
export function inColumns(shape: Shape, columns: FieldDescription[]): Map<string, Placed> {
  const found = new Map<string, Placed>()
  const words = columns[0]?.identifying ? 2 : 1
  shape.measures?.forEach((figure, at) => {
    const column = columns.findIndex((f) => f.key === figure.field)
    if (column >= words && !found.has(figure.field!)) found.set(figure.field!, { figure, at })
  })
  return found
}

/** A figure under the head of its column: `1,250.00`, `average 12.50`. */
export function underHead(register: Register, figure: Figure, value: unknown, zone: string): string {
  const text = figureText(register, figure, value, zone)
  const mark = figureMark(register, figure)
  return mark ? `${mark} ${text}` : text
}

/** The part that is shown, in words. */
export function partWords(part: Part): string {
  if (part.sample) return `${number(part.sample)} picked at random`
  if (part.first) return `the first ${number(part.first)}`
  return `rows ${number(part.from ?? 1)} to ${number(part.to ?? 1)}`
}

/** How many records of so many a part shows. */
export function partSize(part: Part | null | undefined, matching: number): number {
  if (!part) return matching
  if (part.sample) return Math.min(part.sample, matching)
  if (part.first) return Math.min(part.first, matching)
  return Math.max(0, Math.min(matching, part.to ?? 0) - (part.from ?? 1) + 1)
}

/** What is unusual about how the records are shown, as a sentence goes on; empty for a plain list. */
export function shapeWords(register: Register, shape: Shape): string {
  const said: string[] = []
  if (shape.totals) return totalsWords(register, shape)
  if (shape.take) said.push(partWords(shape.take))
  if (shape.groups?.length)
    said.push('in groups by ' + shape.groups.map((g) => levelWords(register, g)).join(', then '))
  if (shape.measures?.length && !shape.groups?.length)
    said.push('with ' + shape.measures.map((m) => figureWords(register, m)).join(', '))
  if (shape.marked) said.push('all records, matches marked')
  if (shape.running) {
    const label = fieldOf(register, register.running)?.label ?? ''
    said.push(
      `running ${label.charAt(0).toLowerCase() + label.slice(1)} from ${shape.running === 'zero' ? 'zero' : 'the beginning'}`,
    )
  }
  return said.join('; ')
}

/** The earlier times that totals stand beside, in words. */
export const EARLIER: Record<NonNullable<Totals['compare']>, string> = {
  before: 'the window before',
  year: 'the same window a year before',
}

/** Figures with the sum of a field among them; the last gives way where there is no room. */
export function withSum(figures: Figure[] | undefined, field: string): Figure[] {
  const sum: Figure = { function: 'sum', field }
  const told = figures ?? []
  if (told.some((f) => f.function === 'sum' && f.field === field)) return told
  return [sum, ...told].slice(0, MOST_FIGURES)
}

/** What balances are of, in words: `balances of Amount from the beginning`. */
export const balanceWords = (register: Register, from: NonNullable<Totals['balances']>): string =>
  `balances of ${fieldOf(register, register.running)?.label ?? ''} from ${from === 'zero' ? 'zero' : 'the beginning'}`

/** A shape that shows nothing of a field. */
export function withoutField(shape: Shape, key: string): Shape {
  const columns = { ...shape.columns }
  delete columns[key]
  const { totals: read } = shape
  const chart = read?.chart?.figure?.endsWith(`_of_${key}`) ? undefined : read?.chart
  return {
    ...shape,
    columns,
    groups: shape.groups?.filter((g) => g.field !== key),
    measures: shape.measures?.filter((m) => m.field !== key),
    totals: read && {
      ...read,
      across: read.across?.field === key ? undefined : read.across,
      order: read.order?.endsWith(`_of_${key}`) ? undefined : read.order,
      chart,
    },
  }
}

/** What of totals goes where it is no longer told: the order of rows by a figure that is made of others. */
export function withoutMade(totals: Totals): Totals {
  const { order, shares, compare, changes, balances } = totals
  const [, made, balance] =
    /^-?(?:(share|change|earlier|difference|growth)_of_.*|(opening|in|out|movement|closing))$/.exec(
      order ?? '',
    ) ?? []
  const by: Record<string, unknown> = { share: shares, change: changes }
  const told = balance ? balances : !made || (made in by ? by[made] : compare)
  return told ? totals : { ...totals, order: undefined }
}

/** What totals are shown, as a sentence goes on: `as totals by Site, month of Due across, sum of Cost`. */
function totalsWords(register: Register, shape: Shape): string {
  const { across, keep, compare, balances, limit } = shape.totals!
  const rows = (shape.groups ?? []).map((g) => levelWords(register, g)).join(', then ')
  const said = [rows ? `as totals by ${rows}` : 'as totals']
  if (across) said.push(`${levelWords(register, across)} across`)
  if (balances) said.push(balanceWords(register, balances))
  if (shape.measures?.length) said.push(shape.measures.map((m) => figureWords(register, m)).join(', '))
  if (compare) said.push(`beside ${EARLIER[compare]}`)
  if (keep) said.push(`rows where ${keep}`)
  if (limit) said.push(`the first ${number(limit)} rows`)
  return said.join('; ')
}

/** Whether the records stand in the order that a running total needs: by the main date alone. */
export function runs(register: Register, order: string[]): boolean {
  const first = order.length === 1 ? readOrder(order[0]!) : undefined
  return first !== undefined && first.field === register.mainField && !first.emptiesFirst
}
