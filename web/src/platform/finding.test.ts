import { describe, expect, it } from 'vitest'
import { findAll, isSlip } from './finding'

const PLACES = [
  { name: 'Overdue at my site', about: 'view of Defects: the morning round' },
  { name: 'Long stays of larger vessels', about: 'view of Berth stays' },
  { name: 'Berth stays', about: 'register' },
  { name: 'Dues ledger', about: 'register' },
  { name: 'Severity: hide the column', about: 'columns' },
]
const found = (typed: string) => findAll(PLACES, typed).map((p) => p.name)

describe('what is gone to', () => {
  it('is found by parts of words in any order', () => {
    expect(found('site over')).toEqual(['Overdue at my site'])
    expect(found('ves lon')).toEqual(['Long stays of larger vessels'])
  })

  it('is found by what is said of it, after what is called so', () => {
    expect(found('stays')).toEqual(['Long stays of larger vessels', 'Berth stays'])
    expect(found('berth')).toEqual(['Berth stays', 'Long stays of larger vessels'])
    expect(found('morning')).toEqual(['Overdue at my site'])
  })

  it('is found in spite of one slip', () => {
    expect(found('ledgre')).toEqual(['Dues ledger'])
    expect(found('severty')).toEqual(['Severity: hide the column'])
    expect(found('vesels')).toEqual(['Long stays of larger vessels'])
    expect(found('duf')).toEqual([])
  })

  it('is all of it while nothing is typed, and nothing where a word fits nowhere', () => {
    expect(found('')).toHaveLength(PLACES.length)
    expect(found('berth xyz')).toEqual([])
  })
})

it('a slip is one letter, or two in each other’s place', () => {
  for (const typed of ['quay', 'quy', 'quaay', 'qauy', 'quax']) expect(isSlip(typed, 'quay')).toBe(true)
  for (const typed of ['qy', 'yauq', 'quayss']) expect(isSlip(typed, 'quay')).toBe(false)
})
