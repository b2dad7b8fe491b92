import type { Register } from '@/api/client'
import { phraseOf } from '@/rows/rail'
import type { ChartKind, Shape } from '@/rows/shape'
import { shiftDay } from '@/platform/days'
import {
  columnId,
  figuresOf,
  keyWords,
  linesOf,
  opens,
  placeOf,
  totalText,
  type Key,
  type Place,
  type TotalsAnswer,
  type TotalsFigure,
  type TotalsLine,
  type TotalsRow,
} from './sheet'

/** A value that is drawn. */
export interface Mark {
  /** absent where there is nothing to draw */
  value?: number
  /** the figure as the table has it */
  text: string
  /** the records behind it; absent where there are none */
  place?: Place
}

/** One row of marks of one colour. */
export interface Series {
  name: string
  marks: Mark[]
}

/** What is drawn: for each series a mark at each place of the axis. */
export interface Chart {
  kind: ChartKind
  figure: TotalsFigure
  /** what stands along the axis */
  places: { words: string; key: Key }[]
  /** the field whose periods stand along the axis, one after the other */
  dates?: string
  series: Series[]
  /** what is not drawn, or not as it was chosen, and why; each in a sentence */
  notes: string[]
}

/** The most series that can be told apart, the most small charts, and the most marks that can be seen. */
export const MOST_SERIES = 8
export const MOST_SMALL = 12
export const MOST_PLACES = 120

/** The figures that can be drawn: numbers and lengths of time. */
export const drawable = (answer: TotalsAnswer): TotalsFigure[] =>
  figuresOf(answer, answer.columns[0]).filter((f) => ['number', 'money', 'duration'].includes(f.type))

/**
 * A chart of totals, from the same answer as the table; nothing where there is nothing to draw. Along the axis stands what lies across,
 * or else the rows; the series are the rows, or else the rows inside them. Where the rows alone are dates, they stand along the axis and
 * what lies across makes the series: time goes from left to right.
 */
export function chartOf(
  register: Register,
  shape: Shape,
  answer: TotalsAnswer,
  zone: string,
): Chart | undefined {
  const wanted = shape.totals?.chart
  const figures = drawable(answer)
  const figure = figures.find((f) => f.name === wanted?.figure) ?? figures[0]
  if (!wanted || !figure) return undefined
  const groups = shape.groups ?? []
  const lines = linesOf(register, shape, answer, zone)
  const outer = lines.filter((l) => l.depth === 0)
  const across = shape.totals?.across
  const notes: string[] = []

  const mark = (line: TotalsLine, row: TotalsRow | undefined, column?: Key): Mark => {
    const value = row?.values[figure.name]
    const number = value === null || value === undefined ? undefined : Number(value)
    return {
      ...(number !== undefined && Number.isFinite(number) ? { value: number } : {}),
      text: totalText(register, figure, row, zone) || '—',
      ...(opens(figure, row) ? { place: placeOf(line, figure, column) } : {}),
    }
  }

  let places: Chart['places']
  let series: Series[]
  let axis = across
  const dated = (keys: Key[]) => keys.some((k) => k.from)
  if (across && outer.length && dated(outer.map((l) => l.keys[0]!)) && !dated(answer.columns)) {
    axis = groups[0]
    places = outer.map((line) => ({ key: line.keys[0]!, words: line.words }))
    series = answer.columns.map((key) => ({
      name: keyWords(register, across, key, zone),
      marks: outer.map((line) => mark(line, line.cells.get(columnId(key)), key)),
    }))
  } else if (across && answer.columns.length) {
    places = answer.columns.map((key) => ({ key, words: keyWords(register, across, key, zone) }))
    const rows = outer.length ? outer : [wholeLine(answer)]
    series = rows.map((line) => ({
      name: line.words,
      marks: answer.columns.map((key) => mark(line, line.cells.get(columnId(key)), key)),
    }))
  } else {
    axis = groups[0]
    places = outer.map((line) => ({ key: line.keys[0]!, words: line.words }))
    const inside = lines.filter((l) => l.depth === 1)
    if (inside.length) {
      const names = new Map(inside.map((l) => [columnId(l.keys[1]!), l.words]))
      const found = new Map(inside.map((l) => [columnId(l.keys[0]!) + columnId(l.keys[1]!), l]))
      series = [...names].map(([id, name]) => ({
        name,
        marks: outer.map((row) => {
          const line = found.get(columnId(row.keys[0]!) + id)
          return line ? mark(line, line.own) : { text: '—' }
        }),
      }))
    } else series = [{ name: figure.label, marks: outer.map((line) => mark(line, line.own)) }]
  }
  if (!places.length) return undefined

  const most = wanted.kind === 'multiples' ? MOST_SMALL : MOST_SERIES
  if (series.length > most) {
    const size = (s: Series) => s.marks.reduce((sum, m) => sum + Math.abs(m.value ?? 0), 0)
    const largest = new Set([...series].sort((a, b) => size(b) - size(a)).slice(0, most))
    notes.push(`The ${most} largest of ${series.length} are drawn; the table has all.`)
    series = series.filter((s) => largest.has(s))
  }
  if (places.length > MOST_PLACES) {
    notes.push(`The first ${MOST_PLACES} of ${places.length} are drawn; the table has all.`)
    places = places.slice(0, MOST_PLACES)
    series = series.map((s) => ({ ...s, marks: s.marks.slice(0, MOST_PLACES) }))
  }

  let kind = wanted.kind as ChartKind
  const below = series.some((s) => s.marks.some((m) => (m.value ?? 0) < 0))
  if (kind === 'stacked' && (!addsUp(figure) || below)) {
    notes.push(
      below
        ? 'What is less than nothing cannot be stacked: the bars stand beside one another.'
        : `“${figure.label}” does not add up: the bars stand beside one another.`,
    )
    kind = 'bars'
  }
  const period = axis && places.some((p) => p.key.from) ? axis.field : undefined
  if (kind === 'line' && !period) {
    notes.push('A line goes along dates: the bars stand beside one another.')
    kind = 'bars'
  }
  return { kind, figure, places, ...(period ? { dates: period } : {}), series, notes }
}

/** Whether the figures of parts come to that of the whole. */
const addsUp = (figure: TotalsFigure) =>
  (figure.function === 'count' || figure.function === 'sum') && ['value', 'earlier'].includes(figure.kind)

/** The line of all records, where there are no rows. */
const wholeLine = (answer: TotalsAnswer): TotalsLine => ({
  key: 'all',
  kind: 'all',
  depth: 0,
  words: 'All records',
  keys: [],
  own: answer.total,
  cells: new Map(answer.totals.map((c) => [columnId(c.across!), c])),
})

/** The window that reaches over places of an axis of dates, as a date phrase: `2026-03-01 to 2026-05-31`; none over what has no date. */
export function windowOver(chart: Chart, from: number, to: number): string | undefined {
  if (!chart.dates) return undefined
  const first = chart.places[Math.min(from, to)]?.key.from
  const last = chart.places[Math.max(from, to)]?.key.to
  return first && last ? phraseOf(`${first}T00:00:00`, `${shiftDay(last, 1)}T00:00:00`) : undefined
}
