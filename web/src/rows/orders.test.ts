import { describe, expect, it } from 'vitest'
import { DEFECTS } from '@/testing/page'
import { directionIn, directionWords, orderedBy, orderWords, placeIn, readOrder, writeOrder } from './orders'

describe('an order', () => {
  it.each(['due', '-due', 'due:empties-first', '-due:empties-first'])('is read and written: %s', (word) => {
    expect(writeOrder(readOrder(word))).toBe(word)
    expect(readOrder(word).field).toBe('due')
  })

  it('is said in words that tell which end comes first', () => {
    expect(orderWords(DEFECTS, ['-due', 'severity:empties-first'])).toBe(
      'due, newest first; then severity, empties and then lowest first',
    )
    expect(orderWords(DEFECTS, ['as-listed:number'])).toBe('Number, as listed')
    expect(orderWords(DEFECTS, ['gone'])).toBe('gone, A to Z')
    expect(orderWords(undefined, [])).toBe('')
    expect([false, true].map((d) => directionWords('yes/no', d))).toEqual(['no first', 'yes first'])
  })

  it('tells where a field stands in it', () => {
    expect(placeIn(['-due', 'severity'], 'severity')).toBe(1)
    expect(['due', 'severity', 'number'].map((f) => directionIn(['-due', 'severity'], f))).toEqual([
      'descending',
      'ascending',
      'none',
    ])
  })

  it('is replaced by one field, whose empties stay where they were', () => {
    expect(orderedBy(['-due', 'severity'], 'number', 'ascending', false)).toEqual(['number'])
    expect(orderedBy(['due:empties-first'], 'due', 'descending', false)).toEqual(['-due:empties-first'])
    expect(orderedBy(['due'], 'due', 'none', false)).toEqual([])
  })

  it('is joined by a field at its end, or turned where it stands', () => {
    expect(orderedBy(['-due', 'severity'], 'number', 'ascending', true)).toEqual([
      '-due',
      'severity',
      'number',
    ])
    expect(orderedBy(['-due', 'severity'], 'due', 'ascending', true)).toEqual(['due', 'severity'])
    expect(orderedBy(['-due', 'severity'], 'due', 'none', true)).toEqual(['severity'])
  })

  it('of a list goes beside no other', () => {
    expect(orderedBy(['as-listed:number'], 'due', 'ascending', true)).toEqual(['due'])
  })
})
