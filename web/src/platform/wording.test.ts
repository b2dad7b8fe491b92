import { describe, expect, it } from 'vitest'
import { changedWords } from './wording'

const shown = (was: string, is: string) =>
  changedWords(was, is)
    .map((s) => ({ same: s.text, gone: `[-${s.text}-]`, new: `[+${s.text}+]` })[s.kind])
    .join('')

describe('what changed between two texts', () => {
  it('marks the words that are gone and those that are new', () => {
    expect(shown('due before today and level >= 2', 'due up to today and level >= 3')).toBe(
      'due [-before -][+up to +]today and level >= [-2-][+3+]',
    )
  })
  it('takes a quoted text for one word', () => {
    expect(shown('a is "one two"', 'a is "one three"')).toBe('a is [-"one two"-][+"one three"+]')
  })
  it('has nothing to mark in the same text, and everything in none', () => {
    expect(shown('the same', 'the same')).toBe('the same')
    expect(shown('', 'all of it')).toBe('[+all of it+]')
    expect(shown('all of it', '')).toBe('[-all of it-]')
  })
  it('gives back both texts', () => {
    const was = 'x in (1, 2) or y matches /a b/ and "z \\" q"'
    const is = 'y matches /a c/ or x in (1, 2, 3) and "z \\" q"'
    const found = changedWords(was, is)
    const of = (...kinds: string[]) =>
      found
        .filter((s) => kinds.includes(s.kind))
        .map((s) => s.text)
        .join('')
    expect(of('same', 'gone')).toBe(was)
    expect(of('same', 'new')).toBe(is)
  })
})
