import { describe, expect, it } from 'vitest'
import type { FieldDescription, Register } from '@/api/client'
import { field as described } from '@/testing/page'
import { readOrder, writeOrder } from './orders'
import {
  figureMark,
  figureText,
  figureWords,
  groupWords,
  inColumns,
  partSize,
  partWords,
  readShape,
  runs,
  shapeWords,
  underHead,
  tidy,
  waysToGroup,
  withSum,
  written,
  type Figure,
  type Group,
  type Shape,
} from './shape'

const field = (key: string, label: string, type: string, groupings = ['value']) =>
  described(key, type, { label, groupings }) as unknown as FieldDescription
const register = {
  key: 'dues',
  label: 'Dues',
  mainField: 'posted_at',
  running: 'amount',
  fields: [
    field('posted_at', 'Posted at', 'moment', ['month', 'day', 'fiscal year']),
    field('amount', 'Amount', 'money'),
    field('site', 'Site', 'choice'),
    field('length', 'Length', 'number', ['value', 'band']),
    field('open', 'Open', 'yes/no'),
  ],
} as unknown as Register
const group = (parts: Partial<Group>) => ({ records: 1, figures: [], leftOut: {}, ...parts }) as Group

describe('an order', () => {
  it.each(['due', '-due', 'due:empties-first', '-due:empties-first'])('is read and written: %s', (word) => {
    expect(writeOrder(readOrder(word))).toBe(word)
  })
  it('says its direction and where empties stand', () => {
    expect(readOrder('-due:empties-first')).toEqual({ field: 'due', descending: true, emptiesFirst: true })
    expect(readOrder('due')).toEqual({ field: 'due', descending: false, emptiesFirst: false })
  })
})

describe('a shape', () => {
  it('is the same without what says nothing', () => {
    const said = {
      columns: { site: { width: null, title: '', pinned: false }, amount: { width: 120 } },
      density: null,
      wrap: false,
      groups: [{ field: 'site', by: 'value', arranged: 'ascending' }],
      measures: [{ function: 'sum', field: 'amount' }],
      marked: false,
    } as unknown as Shape
    expect(tidy(said)).toEqual({
      columns: { amount: { width: 120 } },
      groups: [{ field: 'site', by: 'value' }],
      measures: [{ function: 'sum', field: 'amount' }],
    })
    expect(written({ measures: [{ function: 'count', field: null }] })).toBe(
      '{"measures":[{"function":"count"}]}',
    )
    expect(written(readShape(written(said)))).toBe(written(said))
    const percentiles = [95, 90, undefined].map((percent) => ({
      function: 'percentile' as const,
      field: 'cost',
      percent,
    }))
    expect(readShape(written({ measures: percentiles })).measures).toEqual([
      percentiles[0],
      { function: 'percentile', field: 'cost' },
      { function: 'percentile', field: 'cost' },
    ])
  })
  it('of an older link has its sums as figures', () => {
    expect(readShape('{"totals":["amount"],"wrap":true}')).toEqual({
      wrap: true,
      measures: [{ function: 'sum', field: 'amount' }],
    })
    expect(readShape('{"totals":[],"version":1}')).toEqual({})
  })
  it('has the sum of a field among its figures, once, and ten at the most', () => {
    const sum = { function: 'sum' as const, field: 'cost' }
    expect(withSum(undefined, 'cost')).toEqual([sum])
    expect(withSum([{ function: 'count' }, sum], 'cost')).toEqual([{ function: 'count' }, sum])
    const ten = Array.from({ length: 10 }, (_, i) => ({ function: 'max' as const, field: 'f' + i }))
    expect(withSum(ten, 'cost')).toEqual([sum, ...ten.slice(0, 9)])
  })
  it('read as totals keeps what is said of them, and that alone', () => {
    const said = {
      groups: [{ field: 'site' }],
      totals: { across: { field: 'due', by: 'month' as const }, keep: ' number > 3 ', shares: false },
    }
    expect(readShape(written(said))).toEqual({
      groups: [{ field: 'site' }],
      totals: { across: { field: 'due', by: 'month' }, keep: 'number > 3' },
    })
    expect(
      readShape(written({ totals: { compare: 'year', changes: true, across: { field: 'due' } } })).totals,
    ).toEqual({ compare: 'year', changes: true, across: { field: 'due' } })
    expect(readShape(written({ totals: { changes: true } })).totals).toEqual({})
    expect(readShape(written({ totals: { balances: 'zero' } })).totals).toEqual({ balances: 'zero' })
    expect(readShape(written({ totals: { limit: 5 } })).totals).toEqual({ limit: 5 })
    expect(written({ totals: { empties: true } })).toBe('{"totals":{}}')
    expect(written({ totals: { empties: false } })).toBe('{"totals":{"empties":false}}')
  })
  it.each(['', 'nonsense', '[1]', 'null', '"a"'])('that is none is as usual: %s', (text) => {
    expect(readShape(text)).toEqual({})
  })
  it('is said where it is unusual', () => {
    expect(shapeWords(register, { density: 'close', wrap: true })).toBe('')
    expect(
      shapeWords(register, {
        take: { from: 101, to: 1200 },
        groups: [{ field: 'site' }, { field: 'posted_at', by: 'quarter' }],
      }),
    ).toBe('rows 101 to 1,200; in groups by Site, then quarter of Posted at')
    const measures = [
      { function: 'sum', field: 'amount' },
      { function: 'max', field: 'posted_at' },
    ] as Figure[]
    expect(shapeWords(register, { measures })).toBe('with sum of Amount, latest Posted at')
    expect(shapeWords(register, { measures, groups: [{ field: 'site' }] })).toBe('in groups by Site')
    expect(shapeWords(register, { running: 'zero' })).toBe('running amount from zero')
  })
  it('shows so many of the matches', () => {
    expect(partSize(undefined, 40)).toBe(40)
    expect(partSize({ first: 100 }, 40)).toBe(40)
    expect(partSize({ from: 31, to: 60 }, 40)).toBe(10)
    expect(partSize({ from: 51, to: 60 }, 40)).toBe(0)
    expect(partSize({ sample: 5, seed: 2 }, 40)).toBe(5)
    expect(partWords({ sample: 5, seed: 2 })).toBe('5 picked at random')
  })
  it('runs only in the order of the main date', () => {
    expect(runs(register, ['-posted_at'])).toBe(true)
    expect(runs(register, ['posted_at:empties-first'])).toBe(false)
    expect(runs(register, ['posted_at', 'amount'])).toBe(false)
    expect(runs(register, [])).toBe(false)
  })
})

describe('a group', () => {
  it('is called by its period, its value or what it lacks', () => {
    const say = (by: string, parts: Partial<Group>) =>
      groupWords(register, { field: 'posted_at', by } as never, group(parts), 'UTC')
    expect(say('month', { value: '2026-09-01', from: '2026-09-01' })).toBe('September 2026')
    expect(say('quarter', { value: '2026-10-01', from: '2026-10-01' })).toBe('Oct to Dec 2026')
    expect(say('week', { value: '2026-11-16', from: '2026-11-16' })).toBe('week of 16 Nov 2026')
    expect(say('year', { value: '2026-01-01', from: '2026-01-01' })).toBe('2026')
    expect(
      say('fiscal quarter', { value: '2026-11-01', from: '2026-11-01', label: 'Q1 of fiscal year 2027' }),
    ).toBe('Q1 of fiscal year 2027')
    expect(say('month', {})).toBe('no Posted at')
    expect(groupWords(register, { field: 'open' }, group({ value: 'false' }), 'UTC')).toBe('Open: no')
    expect(groupWords(register, { field: 'amount' }, group({ value: '-12.5' }), 'UTC')).toBe('-12.50')
    expect(groupWords(register, { field: 'length', by: 'band' }, group({}), 'UTC')).toBe(
      'in no band of Length',
    )
  })
  it('can be what the server says, the usual first', () => {
    expect(waysToGroup(register.fields[3]!)).toEqual(['value', 'band'])
    expect(waysToGroup(register.fields[2]!)).toEqual(['value'])
    expect(waysToGroup(register.fields[0]!)[0]).toBe('month')
  })
})

describe('a figure', () => {
  const of = (does: Figure['function'], key?: string): Figure => ({ function: does, field: key })
  const text = (figure: Figure, value: unknown) => figureText(register, figure, value, 'Europe/London')
  it('is called what it is', () => {
    expect(figureWords(register, of('sum', 'amount'))).toBe('sum of Amount')
    expect(figureWords(register, of('min', 'posted_at'))).toBe('earliest Posted at')
    expect(figureWords(register, of('count'))).toBe('number of records')
    expect(figureWords(register, of('sum', 'gone'))).toBe('sum gone')
    const percentiles = [undefined, 1, 2, 3, 11, 12, 13, 50, 99].map((percent) =>
      figureWords(register, { ...of('percentile', 'amount'), percent }).replace(/ .*/, ''),
    )
    expect(percentiles.join(' ')).toBe('90th 1st 2nd 3rd 11th 12th 13th 50th 99th')
    expect(figureWords(register, of('percentile', 'amount'))).toBe('90th percentile of Amount')
    expect(figureMark(register, of('percentile', 'amount'))).toBe('90th percentile')
  })
  it('is written as its field is, a mean with no more places than people read', () => {
    expect(text(of('sum', 'amount'), 1250)).toBe('1,250.00')
    // What the browser does not hold in a number comes as a text, and is rounded without one.
    expect(text(of('average', 'amount'), '12345678901234567.8951')).toBe('12,345,678,901,234,567.90')
    expect(text(of('median', 'length'), 2.5)).toBe('2.5')
    expect(text(of('max', 'posted_at'), '2026-11-23T14:30:00Z')).toBe('23 Nov 2026, 14:30')
    expect(text(of('distinct', 'posted_at'), 24000)).toBe('24,000')
    expect(text(of('average', 'amount'), null)).toBe('—')
    expect(text(of('max', 'amount'), 'infinity')).toBe('infinity')
  })
  it('stands under the head of its column, the first of each; the first column has words', () => {
    const columns = ['site', 'amount', 'length'].map((key) => register.fields.find((f) => f.key === key)!)
    const measures = [of('distinct', 'site'), of('average', 'amount'), of('sum', 'amount'), of('sum', 'gone')]
    expect([...inColumns({ measures }, columns)]).toEqual([['amount', { figure: measures[1], at: 1 }]])
    // A number is narrow, and leaves no room for the words.
    const numbered = [{ ...columns[0]!, identifying: true }, ...columns.slice(1)]
    expect([...inColumns({ measures }, numbered).keys()]).toEqual([])
    expect(underHead(register, measures[1]!, 12.5, 'UTC')).toBe('average 12.50')
    expect(underHead(register, measures[2]!, 12.5, 'UTC')).toBe('12.50')
    expect(underHead(register, measures[0]!, 3, 'UTC')).toBe('different values 3')
  })
})
