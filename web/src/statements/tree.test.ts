import { describe, expect, it } from 'vitest'
import { add, at, EVERYTHING, joinNext, move, regroup, remove, replace, toggleOff } from './tree'

const a = { field: 'a', test: 'is empty' }
const b = { field: 'b', test: 'is empty' }
const c = { field: 'c', test: 'is empty' }
const tree = { all: [a, { any: [b, { off: c }] }] }

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
})
