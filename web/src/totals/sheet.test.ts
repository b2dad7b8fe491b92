import { describe, expect, it } from 'vitest'
import { DEFECTS } from '@/testing/page'
import { ANSWER, SHAPE } from './sheet.fixture'
import { columnId, isLess, linesOf, placeOf, totalLines, totalText } from './sheet'

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
    expect(placeOf(lines[2]!)).toEqual({ keys: ['4', null] })
    expect(placeOf(lines[1]!, ANSWER.columns[0])).toEqual({
      keys: ['4', 'A-1'],
      across: { value: '2026-11-01' },
    })
    expect(placeOf(totalLines(ANSWER)[0]!)).toEqual({ keys: [], whole: true })
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
})
