import { describe, expect, it } from 'vitest'
import {
  add,
  at,
  duplicate,
  EVERYTHING,
  joinNext,
  move,
  moveIn,
  moveOut,
  moveTo,
  places,
  regroup,
  registersIn,
  remove,
  replace,
  toggleOff,
  unwrap,
  wrap,
} from './tree'

const a = { field: 'a', test: 'is empty' }
const b = { field: 'b', test: 'is empty' }
const c = { field: 'c', test: 'is empty' }
const tree = { all: [a, { any: [b, { off: c }] }] }

it('knows the registers that are asked about besides', () => {
  const inner = { field: 'c', test: 'in', register: 'moves' }
  const asked = { field: 'b', test: 'not in', register: 'stays', where: { none: [inner, a] } }
  expect(registersIn({ all: [a, { off: asked }] })).toEqual(['stays', 'moves'])
  expect(registersIn(undefined)).toEqual([])
})

describe('the tree is changed in copies', () => {
  it('finds and replaces parts', () => {
    expect(at(tree, '/all/1/any/1/off')).toBe(c)
    expect(replace(tree, '/all/1/any/0', c)).toEqual({ all: [a, { any: [c, { off: c }] }] })
    expect(replace(tree, '', b)).toBe(b)
    expect(tree.all[0]).toBe(a)
  })
  it('removes parts and the groups they leave empty', () => {
    expect(remove(tree, '/all/0')).toEqual({ all: [{ any: [b, { off: c }] }] })
    expect(remove(tree, '/all/1/any/1/off')).toEqual({ all: [a, { any: [b] }] })
    expect(remove({ all: [a, { any: [b] }] }, '/all/1/any/0')).toEqual({ all: [a] })
    expect(remove({ all: [a] }, '/all/0')).toEqual({ all: [] })
    expect(remove(a, '')).toBe(EVERYTHING)
  })
  it('adds beside, or makes the group that is needed', () => {
    expect(add(EVERYTHING, '', 'all', a)).toEqual({ all: [a] })
    expect(add(a, '', 'all', b)).toEqual({ all: [a, b] })
    expect(add(a, '', 'any', b)).toEqual({ any: [a, b] })
    expect(add({ any: [a, b] }, '', 'all', c)).toEqual({ all: [{ any: [a, b] }, c] })
    expect(add(tree, '/all/1', 'any', a)).toEqual({ all: [a, { any: [b, { off: c }, a] }] })
    expect(add(tree, '/all/0', 'any', c)).toEqual({ all: [{ any: [a, c] }, { any: [b, { off: c }] }] })
  })
  it('switches off and on', () => {
    expect(toggleOff(tree, '/all/0')).toEqual({ all: [{ off: a }, { any: [b, { off: c }] }] })
    expect(toggleOff(tree, '/all/1/any/1/off')).toEqual({ all: [a, { any: [b, c] }] })
    expect(toggleOff(a, '')).toEqual({ off: a })
  })
  it('regroups, joins and moves', () => {
    expect(regroup(tree, '/all/1', 'none')).toEqual({ all: [a, { none: [b, { off: c }] }] })
    expect(joinNext({ all: [a, b, c] }, '/all/0', 'any')).toEqual({ all: [{ any: [a, b] }, c] })
    expect(joinNext({ all: [a, b] }, '/all/1', 'any')).toBeUndefined()
    expect(move({ all: [a, b, c] }, '/all/2', -1)).toEqual({ all: [a, c, b] })
    expect(move({ all: [a, b] }, '/all/1', 1)).toBeUndefined()
  })
  it('puts parts elsewhere', () => {
    const d = { field: 'd', test: 'is empty' }
    const whole = { all: [a, { any: [b, c] }, d] }
    expect(moveTo(whole, '/all/2', '/all/1/any/0')).toEqual({ all: [a, { any: [b, d, c] }] })
    expect(moveTo(whole, '/all/0', '/all/1/any/0', true)).toEqual({ all: [{ any: [a, b, c] }, d] })
    expect(moveTo(whole, '/all/1/any/0', '/all/2')).toEqual({ all: [a, { any: [c] }, d, b] })
    expect(moveTo({ all: [a, { any: [b] }] }, '/all/1/any/0', '/all/0')).toEqual({ all: [a, b] })
    // A group cannot go into itself.
    expect(moveTo(whole, '/all/1', '/all/1/any/0')).toBeUndefined()
    expect(moveOut(whole, '/all/1/any/0')).toEqual({ all: [a, { any: [c] }, b, d] })
    expect(moveOut(whole, '/all/0')).toBeUndefined()
    expect(moveIn(whole, '/all/0')).toEqual({ all: [{ any: [b, c, a] }, d] })
    expect(moveIn(whole, '/all/1')).toBeUndefined()
    expect(moveOut({ all: [{ any: [b, { off: c }] }] }, '/all/0/any/1/off')).toEqual({
      all: [{ any: [b] }, { off: c }],
    })
  })
  it('wraps, unwraps and doubles', () => {
    expect(wrap(tree, '/all/0', 'none')).toEqual({ all: [{ none: [a] }, tree.all[1]] })
    expect(wrap(a, '', 'any')).toEqual({ any: [a] })
    expect(duplicate(tree, '/all/0')).toEqual({ all: [a, a, tree.all[1]] })
    expect(duplicate(a, '')).toEqual({ all: [a, a] })
    expect(duplicate(tree, '/all/1/any/1/off')).toEqual({ all: [a, { any: [b, { off: c }, { off: c }] }] })
    expect(unwrap({ all: [a, { all: [b, c] }] }, '/all/1')).toEqual({ all: [a, b, c] })
    expect(unwrap({ all: [a, { any: [b] }] }, '/all/1')).toEqual({ all: [a, b] })
    // Alternatives beside "and" would be asked all at once.
    expect(unwrap(tree, '/all/1')).toBeUndefined()
    expect(unwrap({ none: [{ any: [a, b] }, c] }, '/none/0')).toEqual({ none: [a, b, c] })
  })
})

describe('where a part can be put', () => {
  const deep = { all: [a, { any: [b, { off: c }] }, { off: a }, { none: [b] }] }
  it.each([
    '/all/0',
    '/all/1',
    '/all/1/any/0',
    '/all/1/any/1/off',
    '/all/2/off',
    '/all/3',
    '/all/3/none/0',
    '',
  ])('is where moving it there changes something: %s', (path) => {
    expect(places(deep, path)).toEqual({
      up: path !== '' && move(deep, path, -1) !== undefined,
      down: path !== '' && move(deep, path, 1) !== undefined,
      into: moveIn(deep, path) !== undefined,
      out: moveOut(deep, path) !== undefined,
    })
  })
})
