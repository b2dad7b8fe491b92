import { expect, it } from 'vitest'
import type { RecordChange, Register } from '@/api/client'
import { DEFECTS, field } from '@/testing/page'
import { differing, stepsBack, told } from './story'

const REGISTER = {
  ...DEFECTS,
  fields: ['number', 'title', 'cost'].map((key) => field(key, 'text', { origin: 'COLUMN' })),
} as unknown as Register
const step = (before: object | null, after: object | null) =>
  ({ at: '', action: '', reason: '', before, after }) as unknown as RecordChange
const then = (now: object, steps: RecordChange[], at: number) =>
  differing(REGISTER, now as never, steps, at).map((d) => [d.field.key, d.now, d.then])

it('goes back step by step, and says nothing of what is the same again', () => {
  const steps = [
    step({ title: 'b' }, { title: 'a' }),
    step({ cost: 1 }, { cost: 2 }),
    step({ title: 'a' }, { title: 'b' }),
  ]
  const now = { number: 'n', title: 'a', cost: 2 }
  expect(then(now, steps, 0)).toEqual([])
  expect(then(now, steps, 1)).toEqual([['title', 'a', 'b']])
  expect(then(now, steps, 2)).toEqual([
    ['title', 'a', 'b'],
    ['cost', 2, 1],
  ])
  expect(then(now, steps, 3)).toEqual([['cost', 2, 1]])
})

it('goes back over a time when the record was not there', () => {
  const steps = [
    step(null, { number: 'n', title: 'again', cost: 5 }),
    step({ number: 'n', title: 'first' }, null),
    step(null, { number: 'n', title: 'first' }),
  ]
  expect(then({ number: 'n', title: 'again', cost: 5 }, steps, 2)).toEqual([
    ['title', 'again', 'first'],
    ['cost', 5, null],
  ])
  expect(stepsBack(steps)).toBe(2)
})

it('goes back before the first that is known, where the record was there', () => {
  expect(stepsBack([])).toBe(-1)
  expect(stepsBack([step({ title: 'a' }, { title: 'b' })])).toBe(1)
  expect(stepsBack([step(null, { title: 'b' })])).toBe(0)
})

it('tells six fields of a step, and how many more there are', () => {
  const many = {
    ...REGISTER,
    fields: [...'abcdefgh'].map((key) => field(key, 'text', { origin: 'COLUMN' })),
  } as unknown as Register
  const values = Object.fromEntries(many.fields.map((f) => [f.key, 'x']))
  expect(told(many, step(null, values), 'UTC')).toMatch(/A: x; .*F: x; and 2 more fields/)
  expect(told(many, step({ a: 'y' }, { a: 'x' }), 'UTC')).toBe('A: y → x')
})
