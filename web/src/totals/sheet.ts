import type { FieldDescription, Register } from '@/api/client'
import type { components } from '@/api/schema'
import { cell, day, localDay, mean, moment } from '@/platform/format'
import { figureText, groupWords, type Group, type Grouping, type Shape, type Totals } from '@/rows/shape'

export type TotalsAnswer = components['schemas']['TotalsAnswer']
export type TotalsRow = components['schemas']['TotalsRow']
export type TotalsFigure = components['schemas']['TotalsFigure']
export type TotalsWindow = components['schemas']['TotalsWindow']
export type TotalsComparison = components['schemas']['TotalsComparison']
export type TotalsBalance = components['schemas']['TotalsBalance']
export type TotalsFinding = components['schemas']['TotalsFinding']
/** One figure by itself. */
export type TotalsTold = components['schemas']['TotalsTold']
export type Key = components['schemas']['GroupKey']

/** Where a figure stands: what its records have in common, or the line under all. */
export interface Place {
  keys: (string | null)[]
  across?: { value: string | null }
  whole?: boolean
  /** the figure, where it has other records than its place */
  figure?: string
}

/** One line of totals. */
export interface TotalsLine {
  key: string
  kind: 'row' | 'shown' | 'all'
  /** in how many rows it lies */
  depth: number
  words: string
  keys: Key[]
  /** its own figures, over all columns */
  own: TotalsRow
  /** the figures of each column that has records, by {@link columnId} */
  cells: Map<string, TotalsRow>
}

/** Tells columns apart. */
export const columnId = (key: Key) => JSON.stringify(key.value ?? null)

/** Whether criteria on figures left rows out, so that the rows shown and all records come to something else. */
export const isLess = (answer: TotalsAnswer) =>
  JSON.stringify(answer.shownTotal) !== JSON.stringify(answer.total) ||
  JSON.stringify(answer.shownTotals) !== JSON.stringify(answer.totals)

/** What records have in common, in words. */
export const keyWords = (register: Register, grouping: Grouping, key: Key, zone: string) =>
  groupWords(register, grouping, key as Group, zone)

/** The rows of totals as lines, each with the figures of its columns. */
export function linesOf(register: Register, shape: Shape, answer: TotalsAnswer, zone: string): TotalsLine[] {
  const lines: TotalsLine[] = []
  for (const row of answer.rows) {
    if (row.across) {
      lines.at(-1)!.cells.set(columnId(row.across), row)
      continue
    }
    const depth = row.keys.length - 1
    const level = shape.groups?.[depth]
    lines.push({
      key: JSON.stringify(row.keys.map((k) => k.value ?? null)),
      kind: 'row',
      depth,
      words: level ? keyWords(register, level, row.keys[depth]!, zone) : '',
      keys: row.keys,
      own: row,
      cells: new Map(),
    })
  }
  return lines
}

/** The lines under all rows: what the rows shown come to where that is not everything, and what all records do. */
export function totalLines(answer: TotalsAnswer): TotalsLine[] {
  const line = (kind: 'shown' | 'all', words: string, own: TotalsRow, columns: TotalsRow[]): TotalsLine => ({
    key: kind,
    kind,
    depth: 0,
    words,
    keys: [],
    own,
    cells: new Map(columns.map((c) => [columnId(c.across!), c])),
  })
  const all = (words: string) => line('all', words, answer.total, answer.totals)
  return isLess(answer)
    ? [line('shown', 'Rows shown', answer.shownTotal, answer.shownTotals), all('All records')]
    : [all('Total')]
}

/** Whether a figure is made of two others, each of which opens its own records. */
export const isMade = ({ kind }: TotalsFigure) =>
  kind === 'difference' || kind === 'growth' || kind === 'change'

/** Whether there are records behind a figure; of a balance whether there is one. */
export function opens(figure: TotalsFigure, row: TotalsRow | undefined): boolean {
  if (!row || isMade(figure)) return false
  if (figure.kind === 'earlier') return (row.earlier ?? 0) > 0
  if (figure.kind === 'opening' || figure.kind === 'closing') return row.values[figure.name] != null
  return row.records > 0
}

/** The place of a figure, as its records are asked for. */
export const placeOf = (line: TotalsLine, figure: TotalsFigure, column?: Key): Place => ({
  keys: line.keys.map((k) => k.value ?? null),
  ...(column ? { across: { value: column.value ?? null } } : {}),
  ...(line.kind === 'all' ? { whole: true } : {}),
  ...(figure.kind === 'value' || figure.kind === 'share' ? {} : { figure: figure.name }),
})

/** What stands over a figure; what is made of another one stands right behind it. */
export function figureHead(figure: TotalsFigure, compare: Totals['compare']): string {
  switch (figure.kind) {
    case 'value':
      return figure.label
    case 'earlier':
      return compare === 'year' ? 'year before' : 'before'
    default:
      return figure.kind
  }
}

/** The figures of a column; a change is against another one, which all of them together do not have. */
export const figuresOf = (answer: TotalsAnswer, key?: Key): TotalsFigure[] =>
  answer.figures.filter((f) => key || f.kind !== 'change')

/** Where a window begins, as people read it: the day, or the moment where no day begins. */
export function beginWords(from: string, zone: string): string {
  if (!from.includes('T')) return day(from)
  return moment(from, zone).replace(/, 00:00$/, '')
}

/** Where a window ends: `the end of` its last day, or the moment where no day ends. */
export function endWords(to: string, zone: string): string {
  if (!to.includes('T')) return `the end of ${day(to)}`
  const at = moment(to, zone)
  if (!at.endsWith(', 00:00')) return at
  return `the end of ${day(localDay(new Date(Date.parse(to) - 1).toISOString(), zone))}`
}

/** Whether a window ends after a moment. */
export const endsLater = (to: string, now: string, zone: string): boolean =>
  to.includes('T') ? Date.parse(to) > Date.parse(now) : to >= localDay(now, zone)

/** A window as people read it: `1 Nov 2026 to 30 Nov 2026`. */
export function windowWords(window: TotalsWindow, zone: string): string {
  const at = (value: string) => (value.includes('T') ? moment(value, zone) : day(value))
  const [from, to] = [at(window.from!), at(window.to!)]
  return from === to ? from : `${from} to ${to}`
}

const percent = new Intl.NumberFormat('en-GB', {
  style: 'percent',
  minimumFractionDigits: 1,
  maximumFractionDigits: 1,
})

/** A figure as people read it; nothing where there is nothing to tell. */
export function totalText(
  register: Register,
  figure: TotalsFigure,
  row: TotalsRow | undefined,
  zone: string,
) {
  const counts = figure.function === 'count' || figure.function === 'distinct'
  if (!row) return counts && figure.kind === 'value' ? '0' : ''
  const value = row.values[figure.name]
  if (value === null || value === undefined) return ''
  // What is more or less than something else says so.
  const sign = isMade(figure) && Number(value) > 0 ? '+' : ''
  if (figure.kind === 'share' || figure.kind === 'growth') return sign + percent.format(Number(value))
  return (
    sign + figureText(register, { function: figure.function, field: figure.field ?? undefined }, value, zone)
  )
}

/** A figure by itself as people read it; a dash where there is nothing to tell. */
export function toldText(told: TotalsTold, zone: string): string {
  const { value } = told
  if (value === null || value === undefined) return '—'
  const sign = isMade(told) && Number(value) > 0 ? '+' : ''
  if (told.kind === 'share' || told.kind === 'growth') return sign + percent.format(Number(value))
  if (told.function === 'average') return mean(value, told.type)
  return sign + cell({ ...NAMELESS, type: told.type as FieldDescription['type'] }, value, zone)
}
const NAMELESS = { key: '', label: '', options: [], identifying: false } as unknown as FieldDescription
