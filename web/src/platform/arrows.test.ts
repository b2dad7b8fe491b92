import { describe, expect, it } from 'vitest'
import { alongArrows } from './arrows'

const press = (key: string, at: string, more: KeyboardEventInit = {}) =>
  alongArrows(new KeyboardEvent('keydown', { key, ...more }), ['a', 'b', 'c'], at)

describe('arrows along a row', () => {
  it('go to the next and the one before, round the ends, and to the ends', () => {
    expect(press('ArrowRight', 'a')).toBe('b')
    expect(press('ArrowRight', 'c')).toBe('a')
    expect(press('ArrowLeft', 'a')).toBe('c')
    expect(press('Home', 'b')).toBe('a')
    expect(press('End', 'b')).toBe('c')
  })
  it('go up and down where things stand one below the other', () => {
    const down = new KeyboardEvent('keydown', { key: 'ArrowDown' })
    expect(alongArrows(down, ['a', 'b'], 'a', 'column')).toBe('b')
    expect(alongArrows(down, ['a', 'b'], 'a')).toBeUndefined()
    const right = new KeyboardEvent('keydown', { key: 'ArrowRight' })
    expect(alongArrows(right, ['a', 'b'], 'a', 'column')).toBeUndefined()
  })
  it('are no other keys, and none with Alt', () => {
    expect(press('Enter', 'a')).toBeUndefined()
    expect(press('ArrowRight', 'a', { altKey: true })).toBeUndefined()
    expect(alongArrows(new KeyboardEvent('keydown', { key: 'Home' }), [], 'a')).toBeUndefined()
  })
})
