import { describe, expect, it } from 'vitest'
import type { FieldDescription } from '@/api/client'
import { direct, narrow, offers, settle, textOffers } from './narrowing'
import { EVERYTHING } from './tree'

const field = (key: string, type: string) =>
  ({ key, label: key, type, options: [] }) as unknown as FieldDescription
const site = { field: 'site', test: 'is', value: 'North Quay' }

describe('narrowing by a value', () => {
  it('adds a criterion beside the others', () => {
    expect(narrow(EVERYTHING, site)).toEqual({ all: [site] })
    const due = { field: 'due', test: 'is empty' }
    expect(narrow(due, site)).toEqual({ all: [due, site] })
    const group = { any: [site, due] }
    expect(narrow(group, site)).toEqual({ all: [group, site] })
  })
  it('gathers what is left out', () => {
    const one = narrow(EVERYTHING, { field: 'site', test: 'is not', value: 'A' })
    const two = narrow(one, { field: 'site', test: 'is not', value: 'B' })
    expect(two).toEqual({ all: [{ field: 'site', test: 'is not in', values: ['A', 'B'] }] })
    expect(narrow(two, { field: 'site', test: 'is not', value: 'B' })).toEqual(two)
  })
  it('takes the place of what says less, and never of what says more', () => {
    const some = { all: [{ field: 'site', test: 'is in', values: ['A', 'B'] }] }
    expect(narrow(some, { field: 'site', test: 'is', value: 'A' }).all).toHaveLength(1)
    const from = { all: [{ field: 'due', test: 'from', period: '2026-01-01' }] }
    expect(narrow(from, { field: 'due', test: 'from', period: '2026-02-01' }).all).toHaveLength(1)
    expect(narrow(from, { field: 'due', test: 'up to', period: '2026-02-01' }).all).toHaveLength(2)
    // A month may reach beyond the seven days.
    const week = { all: [{ field: 'due', test: 'in', period: 'last 7 days' }] }
    expect(narrow(week, { field: 'due', test: 'in', period: '2026-11' }).all).toHaveLength(2)
    expect(narrow(week, { field: 'due', test: 'in', period: '2026-11-22' }).all).toHaveLength(1)
    // Switched off is not there.
    expect(narrow({ all: [{ off: site }] }, site).all).toHaveLength(2)
  })
  it('offers the week that the organisation begins', () => {
    const week = (starts: string) =>
      offers(field('due', 'date'), '2026-11-22', 'UTC', starts).find((o) => o.words === 'That week')!.node
        .period
    expect(week('MONDAY')).toBe('2026-11-16 to 2026-11-22')
    expect(week('SUNDAY')).toBe('2026-11-22 to 2026-11-28')
    expect(week('SATURDAY')).toBe('2026-11-21 to 2026-11-27')
  })
  it('asks for a moment by the local day and clock', () => {
    const found = offers(field('at', 'moment'), '2026-07-01T23:30:00Z', 'Europe/London')
    expect(found[0]!.node.period).toBe('2026-07-02')
    expect(found.some((o) => o.node.period === '2026-07-02T00:30')).toBe(true)
  })
  it('asks for a duration in its own notation', () => {
    const found = offers(field('spent', 'duration'), 9000, 'UTC')
    expect(found[0]).toEqual({
      words: 'Keep only 2 h 30 min',
      node: { field: 'spent', test: '=', value: { duration: 'PT2H30M' } },
    })
  })
  it('asks for what is empty', () => {
    expect(offers(field('due', 'date'), null, 'UTC').map((o) => o.node.test)).toEqual([
      'is empty',
      'is not empty',
    ])
    expect(offers(field('tags', 'tags'), [], 'UTC')).toHaveLength(2)
  })
  it('asks for a part of a text', () => {
    expect(textOffers(field('t', 'text'), 'Lamp bent, gate 4', 'Lamp').map((o) => o.node.test)).toEqual([
      'contains',
      'starts with',
      'does not contain',
    ])
    expect(textOffers(field('t', 'text'), 'Lamp bent', 'other')).toEqual([])
  })
})

describe('settling a field', () => {
  it('replaces what is asked of it directly', () => {
    const tree = { all: [site, { field: 'due', test: 'is empty' }, { any: [site] }] }
    expect(settle(tree, 'site', undefined)).toEqual({ all: [tree.all[1]] })
    expect(settle(site, 'site', undefined)).toBe(EVERYTHING)
    expect(direct(tree, 'site')).toEqual([site, site])
  })
  it('knows alternatives about one field as its own, and no others', () => {
    const none = { field: 'site', test: 'is empty' }
    const ours = { all: [{ any: [site, none] }] }
    expect(direct(ours, 'site')).toEqual([site, none])
    expect(settle(ours, 'site', site, ['is', 'is empty'])).toEqual({ all: [site] })
    expect(settle(ours, 'site', site, ['is'])).toEqual({ all: [ours.all[0], site] })
    const mixed = { all: [{ any: [site, { field: 'due', test: 'is empty' }] }] }
    expect(direct(mixed, 'site')).toEqual([])
    expect(settle(mixed, 'site', undefined)).toEqual(mixed)
  })
})
