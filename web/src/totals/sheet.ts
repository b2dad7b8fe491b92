import type { Register } from '@/api/client'
import type { components } from '@/api/schema'
import { groupWords, type Group, type Grouping } from '@/rows/shape'
import { figureText, type Shape } from '@/rows/shape'

export type TotalsAnswer = components['schemas']['TotalsAnswer']
export type TotalsRow = components['schemas']['TotalsRow']
export type TotalsFigure = components['schemas']['TotalsFigure']
export type TotalsFinding = components['schemas']['TotalsFinding']
export type Key = components['schemas']['GroupKey']

/** Where a figure stands: what its records have in common, or the line under all. */
export interface Place {
  keys: (string | null)[]
  across?: { value: string | null }
  whole?: boolean
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

/** The place of a figure, as its records are asked for. */
export const placeOf = (line: TotalsLine, column?: Key): Place => ({
  keys: line.keys.map((k) => k.value ?? null),
  ...(column ? { across: { value: column.value ?? null } } : {}),
  ...(line.kind === 'all' ? { whole: true } : {}),
})

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
  if (!row) return counts && !figure.share ? '0' : ''
  const value = row.values[figure.name]
  if (value === null || value === undefined) return ''
  if (figure.share) return percent.format(Number(value))
  return figureText(register, { function: figure.function, field: figure.field ?? undefined }, value, zone)
}
