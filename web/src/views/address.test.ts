import { describe, expect, it } from 'vitest'
import { written } from '@/rows/shape'
import { changeAddress, readAddress, withAnswers, type AddressChange, type Base } from './address'

const BASE: Base = {
  where: 'kind is "Issued"',
  order: ['-day'],
  columns: ['day', 'item'],
  shape: written({ density: 'open' }),
  zone: 'reader',
  added: '',
}
const change = (parts: AddressChange, query = {}, hash = '', ofView = true) =>
  changeAddress(query, hash, parts, BASE, ofView)

describe('an address', () => {
  it('that says nothing leaves everything as the page has it', () => {
    expect(readAddress({}, '')).toEqual({ asShared: false, answers: {} })
  })

  it('is read back as it was written', () => {
    const parts = {
      where: 'site is not "Quay 4" and label contains "a=b&c#d,ü"',
      order: ['item', '-day'],
      columns: ['item'],
      shape: { density: 'close' as const },
      zone: '',
      answers: { 'Which site?': 'North' },
    }
    const { query, hash } = change(parts)
    expect(readAddress(query as never, hash)).toMatchObject(parts)
    expect(hash).toBe('')
  })

  it('says nothing of what is as the page has it', () => {
    const { where, order, columns, zone } = BASE
    const said = change({ where, order, columns, zone, shape: { density: 'open' }, added: 'moves' })
    expect(Object.values(said.query).every((v) => v === undefined)).toBe(true)
  })

  it('says the order of records that no view orders', () => {
    expect(change({ order: ['-day'] }, {}, '', false).query.order).toBe('-day')
    // That they stand in no order is said too.
    expect(readAddress(change({ order: [] }).query as never, '').order).toEqual([])
  })

  it('keeps a long statement where no server has to take it', () => {
    const long = `item is in (${Array.from({ length: 400 }, (_, i) => `"B-${i} é%"`).join(', ')})`
    const { query, hash } = change({ where: long }, { where: 'before' })
    expect(query.where).toBeUndefined()
    expect(readAddress({}, hash).where).toBe(long)
    // The next one takes its place, and goes with it.
    expect(change({ where: 'day is today' }, {}, hash)).toEqual({
      query: { where: 'day is today' },
      hash: '',
    })
    expect(change({ where: BASE.where }, {}, hash).hash).toBe('')
    // A step that is about something else leaves it.
    expect(change({ columns: ['item'] }, {}, hash).hash).toBe(hash)
  })

  it('that was cut off is shown as far as it goes', () => {
    expect(readAddress({}, '#where=day%20is%2').where).toBe('day%20is%2')
  })

  it('has a side only where there is another time to read at', () => {
    expect(readAddress({ side: 'there' }, '').side).toBeUndefined()
    expect(readAddress({ side: 'there', asOf: '2026-11-01' }, '').side).toBe('there')
    expect(readAddress({ side: 'elsewhere', asOf: '2026-11-01' }, '').side).toBeUndefined()
    // Another time is read without the side of the one before.
    expect(change({ asOf: '2026-10-01' }, { asOf: '2026-11-01', side: 'here' }).query).toMatchObject({
      asOf: '2026-10-01',
      side: undefined,
    })
    expect(change({ asOf: null }, { asOf: '2026-11-01' }).query.asOf).toBeUndefined()
  })

  it('says when records are read as they were kept apart from when windows are read', () => {
    const both = readAddress({ recordsAt: '2026-09-30', asOf: '2026-11-01' }, '')
    expect(both).toMatchObject({ recordsAt: '2026-09-30', asOf: '2026-11-01' })
    const without = change({ recordsAt: null }, { asOf: '2026-11-01', recordsAt: '2026-09-30' }).query
    expect(without).toMatchObject({ asOf: '2026-11-01', recordsAt: undefined })
    expect(change({ recordsAt: '2026-09-30T10:00' }, {}).query.recordsAt).toBe('2026-09-30T10:00')
  })

  it('keeps what is not the page’s own', () => {
    expect(change({ columns: ['item'] }, { record: '7' }).query).toMatchObject({ record: '7' })
  })

  it('takes what is said twice for nothing', () => {
    expect(readAddress({ where: ['a', 'b'], as: ['shared'] }, '').where).toBeUndefined()
  })

  it('has an empty answer where the default counts', () => {
    expect(readAddress({ 'ask.Site': '', 'ask.Day': 'today' }, '').answers).toEqual({
      Site: '',
      Day: 'today',
    })
    expect(change({ answers: { Site: '' } }).query['ask.Site']).toBeUndefined()
    expect(withAnswers({ where: 'x' }, { Site: '' })).toEqual({ where: 'x', 'ask.Site': '' })
  })

  it('says which fields are calculated besides', () => {
    expect(change({ added: 'moves~3f9a' }).query.with).toBe('3f9a')
    expect(readAddress({ with: '3f9a' }, '').added).toBe('3f9a')
  })
})
