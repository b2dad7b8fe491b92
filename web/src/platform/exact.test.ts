import { describe, expect, it } from 'vitest'
import { api, data, type FieldDescription } from '@/api/client'
import { field } from '@/testing/page'
import { exactNumber, hasLongNumbers, numberText, readExactly } from './exact'
import { cell, figures } from './format'

const number = field('count', 'number') as unknown as FieldDescription
const money = field('amount', 'money') as unknown as FieldDescription

describe('numbers beyond what a double holds', () => {
  it('are read with all their digits', () => {
    const text =
      '{"a":9007199254740993,"b":[1.5,0.1,-12345678901234567890.25],"low":0.12345678901234567,"c":"12345678901234567"}'
    expect(hasLongNumbers(text)).toBe(true)
    expect(readExactly(text)).toEqual({
      a: '9007199254740993',
      b: [1.5, 0.1, '-12345678901234567890.25'],
      low: 0.12345678901234567,
      c: '12345678901234567',
    })
    expect(
      hasLongNumbers('{"rows":[{"id":"77","at":"2026-11-23T09:30:00.123456Z","n":1234567890.25}]}'),
    ).toBe(false)
  })

  it('are shown with all of them', () => {
    expect(cell(number, '9007199254740993', 'UTC')).toBe('9,007,199,254,740,993')
    expect(cell(number, '0.12345678901234567891', 'UTC')).toBe('0.12345678901234567891')
    expect(cell(money, '-12345678901234567.5', 'UTC')).toBe('-12,345,678,901,234,567.50')
    expect(cell(number, 12.5, 'UTC')).toBe('12.5')
    expect(figures('9007199254740993', 'number')).toBe('9,007,199,254,740,993'.length)
  })

  it('and values beyond all numbers are shown in their words', () => {
    expect(cell(number, 'not a number', 'UTC')).toBe('not a number')
    expect(cell(field('due', 'date') as unknown as FieldDescription, 'minus infinity', 'UTC')).toBe(
      'minus infinity',
    )
  })

  it('are asked for as they are', () => {
    expect(exactNumber(' 9007199254740993 ')).toEqual({ number: '9007199254740993' })
    expect(exactNumber('12.50')).toBe(12.5)
    expect(exactNumber('007')).toBe(7)
    expect(exactNumber('123456789012345')).toBe(123456789012345)
    expect(exactNumber('')).toBeUndefined()
    expect(exactNumber('3 or so')).toBeUndefined()
    expect(numberText({ number: '9007199254740993' })).toBe('9007199254740993')
    expect(numberText(3)).toBe('3')
  })

  it('come through the client as text', async () => {
    const original = globalThis.fetch
    globalThis.fetch = () =>
      Promise.resolve(
        new Response('{"rows":[{"id":"1152921504606846977","values":{"n":9007199254740993}}]}', {
          headers: { 'Content-Type': 'application/json' },
        }),
      )
    try {
      const answer = await data(
        api.POST('/api/registers/{key}/rows', { params: { path: { key: 'k' } }, body: {} as never }),
      )
      expect(answer.rows[0]).toEqual({ id: '1152921504606846977', values: { n: '9007199254740993' } })
    } finally {
      globalThis.fetch = original
    }
  })
})
