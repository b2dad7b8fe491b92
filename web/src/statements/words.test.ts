import { describe, expect, it } from 'vitest'
import type { Outline } from '@/api/client'
import { partAt, partWords } from './words'

const criterion = (path: string, field: string): Outline =>
  ({ kind: 'criterion', path, fieldWords: field, verb: 'is', object: 'x', parts: [] }) as unknown as Outline
const group = (kind: string, path: string, ...parts: Outline[]): Outline =>
  ({ kind, path, parts }) as unknown as Outline
const off = group('off', '/all/1', criterion('/all/1/off', 'b'))
const none = group('none', '/all/2', criterion('/all/2/none/0', 'c'), criterion('/all/2/none/1', 'd'))
const whole = group('all', '', criterion('/all/0', 'a'), off, none)

describe('parts of a statement in words', () => {
  it('says groups and what is switched off', () => {
    expect(partWords(whole)).toBe('a is x and b is x (off) and (none of: c is x or d is x)')
  })
  it('finds a part by its path, and nothing where nothing is', () => {
    expect(partWords(partAt(whole, '/all/2/none/1')!)).toBe('d is x')
    expect(partAt(whole, '')).toBe(whole)
    expect(partAt(whole, '/all/7')).toBeUndefined()
    expect(partAt(undefined, '')).toBeUndefined()
  })
})
