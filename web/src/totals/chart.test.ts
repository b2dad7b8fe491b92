import { describe, expect, it } from 'vitest'
import type { Register } from '@/api/client'
import type { Shape } from '@/rows/shape'
import { DEFECTS } from '@/testing/page'
import { chartOf, drawable, MOST_SERIES, windowOver } from './chart'
import { divided, optionsOf, panelsOf, type Look } from './chartOptions'
import type { Key, TotalsAnswer, TotalsRow } from './sheet'
import { ANSWER, SHAPE } from './sheet.fixture'

const REGISTER = DEFECTS as unknown as Register
const drawnAs = (shape: Shape, kind: string, figure?: string): Shape =>
  ({ ...shape, totals: { ...shape.totals, chart: { kind, figure } } }) as Shape
const of = (shape: Shape, answer: TotalsAnswer) => chartOf(REGISTER, shape, answer, 'UTC')

/** Months of numbers, as rows. */
const MONTHS: Key[] = ['09', '10', '11'].map((m) => ({
  value: `2026-${m}-01`,
  from: `2026-${m}-01`,
  to: `2026-${m}-${m === '10' ? 31 : 30}`,
}))
const row = (keys: Key[], number: number | null): TotalsRow => ({
  keys,
  records: number === null ? 0 : 1,
  values: { number, share_of_number: 0.5, sum_of_severity: number },
})
const monthly = (values: (number | null)[]): TotalsAnswer => ({
  ...ANSWER,
  columns: [],
  rows: values.map((v, i) => row([MONTHS[i]!], v)),
})
const BY_MONTH: Shape = { groups: [{ field: 'raised', by: 'month' }], totals: {} }

describe('a chart of totals', () => {
  it('is none where none is wanted', () => {
    expect(of(SHAPE, ANSWER)).toBeUndefined()
  })

  it('stands along what lies across, a series for each row', () => {
    const chart = of(drawnAs(SHAPE, 'bars'), ANSWER)!
    expect(chart.places.map((p) => p.key.value)).toEqual(['2026-11-01'])
    expect(chart.series.map((s) => s.name)).toEqual(['4', '5'])
    expect(chart.series[0]!.marks[0]).toMatchObject({
      value: 5,
      text: '5',
      place: { keys: ['4'], across: { value: '2026-11-01' } },
    })
    // Where there is nothing, nothing is drawn and nothing opens.
    expect(chart.series[1]!.marks[0]!.place).toBeUndefined()
  })

  it('draws another figure, and the first one where that is gone', () => {
    expect(of(drawnAs(SHAPE, 'bars', 'sum_of_severity'), ANSWER)!.series[0]!.marks[0]!.value).toBe(20)
    expect(of(drawnAs(SHAPE, 'bars', 'sum_of_gone'), ANSWER)!.figure.name).toBe('number')
    expect(drawable(ANSWER).map((f) => f.name)).toEqual(['number', 'share_of_number', 'sum_of_severity'])
  })

  it('stands along the rows where nothing lies across, with the rows inside them as series', () => {
    const chart = of(drawnAs({ ...SHAPE, totals: {} }, 'stacked'), { ...ANSWER, columns: [] })!
    expect(chart.kind).toBe('stacked')
    expect(chart.places.map((p) => p.words)).toEqual(['4', '5'])
    expect(chart.series.map((s) => s.marks.map((m) => m.value))).toEqual([
      [5, undefined],
      [2, undefined],
    ])
  })

  it('goes along dates as a line, and makes windows there alone', () => {
    const chart = of(drawnAs(BY_MONTH, 'line'), monthly([3, null, 4]))!
    expect(chart).toMatchObject({ kind: 'line', dates: 'raised', notes: [] })
    expect(chart.series[0]!.marks.map((m) => m.value)).toEqual([3, undefined, 4])
    expect(windowOver(chart, 0, 1)).toBe('2026-09-01 to 2026-10-31')
    expect(windowOver(chart, 1, 1)).toBe('2026-10')
    const names = of(drawnAs({ ...SHAPE, totals: {} }, 'line'), { ...ANSWER, columns: [] })!
    expect(names.kind).toBe('bars')
    expect(names.notes[0]).toContain('A line goes along dates')
    expect(windowOver(names, 0, 1)).toBeUndefined()
  })

  it('goes along the rows where they alone are dates, with a series for each column', () => {
    const columns: Key[] = [{ value: '4' }, { value: '5' }]
    const rows = MONTHS.flatMap((m, i) => [
      row([m], 10 * i + 9),
      { ...row([m], 10 * i + 4), across: columns[0] },
      { ...row([m], 5), across: columns[1] },
    ])
    const shape: Shape = { ...BY_MONTH, totals: { across: { field: 'severity' } } }
    const chart = of(drawnAs(shape, 'line'), { ...ANSWER, columns, rows } as TotalsAnswer)!
    expect(chart).toMatchObject({ kind: 'line', dates: 'raised', notes: [] })
    expect(chart.series.map((s) => [s.name, ...s.marks.map((m) => m.value)])).toEqual([
      ['4', 4, 14, 24],
      ['5', 5, 5, 5],
    ])
    expect(chart.series[1]!.marks[2]!.place).toMatchObject({ across: { value: '5' } })
    expect(windowOver(chart, 0, 2)).toBe('2026-09-01 to 2026-11-30')
  })

  it('does not stack what does not add up, or is less than nothing', () => {
    const share = of(drawnAs(SHAPE, 'stacked', 'share_of_number'), ANSWER)!
    expect(share.kind).toBe('bars')
    expect(share.notes[0]).toContain('does not add up')
    const below = of(drawnAs(BY_MONTH, 'stacked'), monthly([3, -2, 4]))!
    expect(below.kind).toBe('bars')
    expect(below.notes[0]).toContain('less than nothing')
  })

  it('draws the largest of many series and says so', () => {
    const rows = Array.from({ length: 20 }, (_, i) => [
      { ...row([{ value: String(i) }], i) },
      { ...row([{ value: String(i) }], i), across: MONTHS[0] },
    ]).flat()
    const chart = of(drawnAs(SHAPE, 'bars'), { ...ANSWER, columns: [MONTHS[0]!], rows })!
    expect(chart.series).toHaveLength(MOST_SERIES)
    expect(chart.series.map((s) => s.name)).toContain('19')
    expect(chart.notes[0]).toBe('The 8 largest of 20 are drawn; the table has all.')
  })
})

const LOOK: Look = {
  ink: '#000',
  quiet: '#333',
  rule: '#ccc',
  card: '#fff',
  series: ['#010101', '#020202'],
  font: 'x',
}

describe('what is handed over for drawing', () => {
  it('has a mark for each value, and none where there is none', () => {
    const chart = of(drawnAs(BY_MONTH, 'bars'), monthly([3, null, 4]))!
    const options = optionsOf(chart, LOOK, 800) as unknown as {
      series: { type: string; data: { value: number | null }[] }[]
      tooltip: { formatter: (at: { seriesIndex: number; dataIndex: number }) => string }
    }
    expect(options.series[0]!.data.map((d) => d.value)).toEqual([3, null, 4])
    expect(options.tooltip.formatter({ seriesIndex: 0, dataIndex: 0 })).toMatch(/: 3$/)
  })

  it('gives small charts one measure and room', () => {
    const chart = of(drawnAs(SHAPE, 'multiples'), ANSWER)!
    expect(panelsOf(chart, 800).columns).toBe(2)
    expect(panelsOf(chart, 200)).toEqual({ columns: 1, height: 268 })
    const options = optionsOf(chart, LOOK, 800) as unknown as { yAxis: { min: number; max: number }[] }
    expect(options.yAxis.map((y) => [y.min, y.max])).toEqual([
      [0, 5],
      [0, 5],
    ])
  })

  it('divides durations in whole units', () => {
    expect(divided('number', 5).interval).toBe(2)
    expect(divided('money', 61_000).words(divided('money', 61_000).interval)).toBe('20,000')
    expect(divided('number', 0).interval).toBe(0.5)
    expect(divided('number', 2_400_000).words(1_000_000)).toBe('1m')
    const days = divided('duration', 40 * 86_400)
    expect(days.interval).toBe(10 * 86_400)
    expect(days.words(days.interval)).toBe('10 d')
    expect(divided('duration', 5 * 3_600).words(7_200)).toBe('2 h')
    expect(divided('duration', 90).words(30)).toBe('30 s')
  })
})
