import { expect, it } from 'vitest'
import type { Entered } from '@/api/client'
import { what } from './trail'

const entry = (part: Partial<Entered>): Entered => ({
  id: '1',
  at: '2026-11-23T09:30:00Z',
  who: 'Ines Marlow',
  subject: 'register',
  subjectId: '1',
  about: 'Defects',
  action: 'changed',
  before: null,
  after: null,
  ...part,
})
const register = (to: number, more: object[] = []) => ({
  label: 'Stays',
  fields: [
    { key: 'length', label: 'Length', bands: [{ name: 'Ship', extents: [{ from: 15, to }] }, ...more] },
    { key: 'agent', label: 'Agent', bands: [] },
  ],
})

it('says what exactly changed of a band', () => {
  expect(what(entry({ before: register(20), after: register(25) }))).toBe(
    'fields, Length, bands, Ship, extents, 1, to: 20 → 25',
  )
  expect(what(entry({ before: register(20), after: register(20, [{ name: 'Liner' }]) }))).toBe(
    'fields, Length, bands, Liner: nothing → Liner',
  )
})

it('says in which role somebody was added', () => {
  const after = { name: 'eve', fullName: 'Eve Sand', role: 'ADMINISTRATOR', teams: ['Quay crews'] }
  expect(what(entry({ subject: 'person', action: 'added', after }))).toBe('eve, administrator, in Quay crews')
})

it('tells of a sign-in who, how and from where', () => {
  const after = { name: 'eve', by: 'password', address: '10.0.0.1' }
  expect(what(entry({ subject: 'sign-in', action: 'refused', after }))).toBe(
    'eve, by password, from 10.0.0.1',
  )
})

it('tells of many differences the first ones', () => {
  const many = (n: number) => Object.fromEntries(Array.from({ length: 20 }, (_, i) => [`f${i}`, i + n]))
  expect(what(entry({ before: many(0), after: many(1) }))).toMatch(/; and 8 more$/)
})
