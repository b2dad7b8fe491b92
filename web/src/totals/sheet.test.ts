import { describe, expect, it } from 'vitest'
import { DEFECTS } from '@/testing/page'
import { ANSWER, COMPARED, SHAPE } from './sheet.fixture'
import {
  beginWords,
  columnId,
  endWords,
  figureHead,
  figuresOf,
  isLess,
  linesOf,
  opens,
  placeOf,
  totalLines,
  totalText,
  windowWords,
  type TotalsFigure,
  type TotalsRow,
} from './sheet'

const figures = ANSWER.figures
const lines = linesOf(DEFECTS, SHAPE, ANSWER, 'UTC')

describe('lines of totals', () => {
  it('are the rows with the figures of their columns', () => {
    expect(lines.map((l) => [l.depth, l.words, l.own.records])).toEqual([
      [0, '4', 7],
      [1, 'A-1', 5],
      [1, 'no Number', 2],
      [0, '5', 1],
    ])
    expect([...lines[1]!.cells.keys()]).toEqual([columnId({ value: '2026-11-01' })])
  })

  it('end with one line, or two where criteria on figures left rows out', () => {
    expect(totalLines(ANSWER).map((l) => [l.kind, l.words])).toEqual([['all', 'Total']])
    const less = { ...ANSWER, shownTotal: { ...ANSWER.total, records: 5 } }
    expect(isLess(less)).toBe(true)
    expect(totalLines(less).map((l) => [l.kind, l.words, l.own.records])).toEqual([
      ['shown', 'Rows shown', 5],
      ['all', 'All records', 8],
    ])
  })

  it('say where a figure stands', () => {
    expect(placeOf(lines[2]!, figures[0]!)).toEqual({ keys: ['4', null] })
    expect(placeOf(lines[1]!, figures[0]!, ANSWER.columns[0])).toEqual({
      keys: ['4', 'A-1'],
      across: { value: '2026-11-01' },
    })
    expect(placeOf(totalLines(ANSWER)[0]!, figures[0]!)).toEqual({ keys: [], whole: true })
  })

  it('show nothing where there is nothing, and 0 where nothing is counted', () => {
    const [count, share, sum] = figures as [(typeof figures)[0], (typeof figures)[0], (typeof figures)[0]]
    expect(totalText(DEFECTS, count, lines[0]!.own, 'UTC')).toBe('1,207')
    expect(totalText(DEFECTS, share, lines[0]!.own, 'UTC')).toBe('87.5%')
    expect(totalText(DEFECTS, sum, lines[0]!.own, 'UTC')).toBe('28')
    expect(totalText(DEFECTS, sum, lines[2]!.own, 'UTC')).toBe('')
    expect(totalText(DEFECTS, count, undefined, 'UTC')).toBe('0')
    expect(totalText(DEFECTS, sum, undefined, 'UTC')).toBe('')
    expect(totalText(DEFECTS, share, undefined, 'UTC')).toBe('')
  })

  it('say of what is beside an earlier time how much more or less it is', () => {
    const [value, earlier, difference, growth] = COMPARED.figures as [
      TotalsFigure,
      TotalsFigure,
      TotalsFigure,
      TotalsFigure,
    ]
    const [four, five] = linesOf(DEFECTS, SHAPE, COMPARED, 'UTC').map((l) => l.own) as [TotalsRow, TotalsRow]
    const texts = (row: TotalsRow) => COMPARED.figures.map((f) => totalText(DEFECTS, f, row, 'UTC'))
    expect(texts(four)).toEqual(['1,207', '1,000', '+207', '+20.7%'])
    expect(texts(five)).toEqual(['0', '5', '-5', '-100.0%'])
    // Each of the two opens its own records; what is made of both opens none.
    expect([value, earlier, difference, growth].map((f) => opens(f, four))).toEqual([
      true,
      true,
      false,
      false,
    ])
    expect([value, earlier].map((f) => opens(f, five))).toEqual([false, true])
    const [line] = linesOf(DEFECTS, SHAPE, COMPARED, 'UTC')
    expect(placeOf(line!, earlier)).toEqual({ keys: ['4'], figure: 'earlier_of_number' })
    expect(placeOf(line!, value)).toEqual({ keys: ['4'] })
    expect(COMPARED.figures.map((f) => figureHead(f, 'year'))).toEqual([
      'number of records',
      'year before',
      'difference',
      'growth',
    ])
    expect(figureHead(earlier, 'before')).toBe('before')
  })

  it('tell a change in columns alone', () => {
    const change: TotalsFigure = { ...figures[0]!, name: 'change_of_number', kind: 'change' }
    const answer = { ...ANSWER, figures: [figures[0]!, change] }
    expect(figuresOf(answer, ANSWER.columns[0])).toHaveLength(2)
    expect(figuresOf(answer)).toEqual([figures[0]])
  })

  it('have windows in words', () => {
    expect(windowWords({ field: 'due', from: '2026-11-01', to: '2026-11-30' }, 'UTC')).toBe(
      '1 Nov 2026 to 30 Nov 2026',
    )
    expect(windowWords({ field: 'due', from: '2026-11-23', to: '2026-11-23' }, 'UTC')).toBe('23 Nov 2026')
    expect(
      windowWords(
        { field: 'raised', from: '2026-11-23T08:00:00Z', to: '2026-11-23T20:00:00Z' },
        'Europe/London',
      ),
    ).toBe('23 Nov 2026, 08:00 to 23 Nov 2026, 20:00')
  })

  it('open balances by their figures, also where nothing moved and where they are zero', () => {
    const told = (name: 'opening' | 'movement' | 'closing'): TotalsFigure => ({
      ...figures[2]!,
      name,
      label: name,
      kind: name,
    })
    const [opening, movement, closing] = [told('opening'), told('movement'), told('closing')]
    const still: TotalsRow = { keys: [], records: 0, values: { opening: 0, movement: 0, closing: 0 } }
    expect([opening, movement, closing].map((f) => opens(f, still))).toEqual([true, false, true])
    const undated: TotalsRow = { keys: [], records: 2, values: { opening: null, movement: 5, closing: null } }
    expect([opening, movement, closing].map((f) => opens(f, undated))).toEqual([false, true, false])
    expect(placeOf(lines[0]!, closing)).toEqual({ keys: ['4'], figure: 'closing' })
    expect(figureHead(closing, undefined)).toBe('closing')
    expect(totalText(DEFECTS, movement, still, 'UTC')).toBe('0')
  })

  it('have the ends of a balance in words: days where days begin and end', () => {
    expect(beginWords('2026-10-01', 'UTC')).toBe('1 Oct 2026')
    expect(endWords('2026-10-31', 'UTC')).toBe('the end of 31 Oct 2026')
    expect(beginWords('2026-09-30T23:00:00Z', 'Europe/London')).toBe('1 Oct 2026')
    expect(endWords('2026-11-01T00:00:00Z', 'Europe/London')).toBe('the end of 31 Oct 2026')
    expect(endWords('2026-11-01T09:30:00Z', 'Europe/London')).toBe('1 Nov 2026, 09:30')
  })
})
