import { describe, expect, it } from 'vitest'
import type { FieldDescription, Register } from '@/api/client'
import { readOrder, writeOrder } from './orders'
import {
  groupWords,
  partSize,
  partWords,
  readShape,
  runs,
  shapeWords,
  tidy,
  waysToGroup,
  written,
  type Group,
  type Shape,
} from './shape'

const field = (key: string, label: string, type: string, groupings = ['value']) =>
  ({ key, label, type, groupings, bands: [], options: [] }) as unknown as FieldDescription
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
const group = (parts: Partial<Group>) => ({ records: 1, totals: {}, ...parts }) as Group

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
      totals: ['amount'],
      marked: false,
    } as unknown as Shape
    expect(tidy(said)).toEqual({
      columns: { amount: { width: 120 } },
      groups: [{ field: 'site', by: 'value' }],
      totals: ['amount'],
    })
    expect(written({ totals: ['amount'] })).toBe('{"totals":["amount"]}')
    expect(written(readShape(written(said)))).toBe(written(said))
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
    expect(shapeWords(register, { totals: ['amount'] })).toBe('with sums of Amount')
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
