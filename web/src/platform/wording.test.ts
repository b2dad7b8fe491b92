import { describe, expect, it } from 'vitest'
import { changedLines } from './wording'

const shown = (was: string[], is: string[]) =>
  changedLines(was, is).map((l) => ({ same: ' ', gone: '−', new: '+' })[l.kind] + l.text)

describe('what changed between two statements', () => {
  it('marks whole phrases that are gone and those that are new', () => {
    expect(
      shown(
        ['severity is at least 3', 'status is New or site is my site', 'due is before today'],
        ['severity is at least 4', 'status is New or site is my site', 'due is before today', 'title is A'],
      ),
    ).toEqual([
      '−severity is at least 3',
      '+severity is at least 4',
      ' status is New or site is my site',
      ' due is before today',
      '+title is A',
    ])
  })
  it('has nothing to mark in the same, and everything in none', () => {
    expect(shown(['a'], ['a'])).toEqual([' a'])
    expect(shown([], ['a', 'b'])).toEqual(['+a', '+b'])
    expect(shown(['a', 'b'], [])).toEqual(['−a', '−b'])
  })
  it('gives back both', () => {
    const was = ['x', 'y', 'z', 'y']
    const is = ['y', 'x', 'y']
    const found = changedLines(was, is)
    expect(found.filter((l) => l.kind !== 'new').map((l) => l.text)).toEqual(was)
    expect(found.filter((l) => l.kind !== 'gone').map((l) => l.text)).toEqual(is)
  })
})
