import { describe, expect, it } from 'vitest'
import type { Row } from '@/api/client'
import { JOURNAL, NOW, RULES } from '@/testing/journal'
import {
  asked,
  copied,
  emptyDraft,
  fromTemplate,
  isAmount,
  isZero,
  newLine,
  opposite,
  sum,
  type Template,
} from './transaction'

const ROWS = [
  { account: 'Bank', site: 'North', amount: 12.5, posted: '2026-09-01T08:00:00Z', reference: 'S-1' },
  { account: 'Office', site: null, amount: -12.5, posted: '2026-09-01T08:00:00Z', reference: 'S-1' },
].map((values, i) => ({ id: String(i + 1), values })) as unknown as Row[]

describe('amounts', () => {
  it('add up to the last unit, where the numbers of a browser would not', () => {
    expect(sum(['0.1', '0.2', '-0.3'])).toBe('0.0')
    expect(isZero(sum(['0.1', '0.2', '-0.3']))).toBe(true)
    expect(sum(['9007199254740993.01', '-9007199254740992'])).toBe('1.01')
    expect(sum(['100.10', '-100.09'])).toBe('0.01')
    expect(sum(['-0.05', '0.02'])).toBe('-0.03')
    expect(sum([])).toBe('0')
    expect(sum(['12', 'soon', ''])).toBe('12')
  })

  it('are turned round as they are written', () => {
    expect(opposite('12.50')).toBe('-12.50')
    expect(opposite('-0.05')).toBe('0.05')
    expect(opposite('−3')).toBe('3')
    expect(opposite('0.00')).toBe('0.00')
    expect(opposite('soon')).toBe('soon')
  })

  it('are figures, with a point and no more', () => {
    expect(['1', '-1', '+1.5', '−2.25', ' 3 '].every(isAmount)).toBe(true)
    expect(['1,5', '1.', '.5', '1e3', '--1', '1 000', ''].some(isAmount)).toBe(false)
  })
})

describe('a transaction that is written', () => {
  it('begins today with two lines', () => {
    const draft = emptyDraft(JOURNAL, RULES, NOW, 'Europe/London')
    expect(draft.values).toEqual({ posted: '2026-11-23 09:30', value_date: '2026-11-23' })
    expect(draft.lines).toHaveLength(2)
  })

  it('is sent without its blank lines, and each other line with what stands in it', () => {
    const body = asked(
      JOURNAL,
      RULES,
      {
        values: { posted: '2026-11-23 09:30', value_date: '', reference: ' S-1 ' },
        lines: [
          newLine({ account: 'Bank', site: '' }, ' 12.50 '),
          newLine({ account: '', memo: ' ' }),
          newLine({ account: 'Office' }, '−12.50'),
        ],
      },
      'Europe/London',
    )
    expect(body).toEqual({
      values: { posted: '2026-11-23T09:30:00.000Z', reference: 'S-1' },
      lines: [
        { account: 'Bank', amount: '12.50' },
        { account: 'Office', amount: '-12.50' },
      ],
    })
  })

  it('says which line does not read', () => {
    const of = (amount: string) => () =>
      asked(
        JOURNAL,
        RULES,
        { values: {}, lines: [newLine({ account: 'Bank' }, '1'), newLine({ memo: 'x' }, amount)] },
        'UTC',
      )
    expect(of('')).toThrow('Line 2 has no amount.')
    expect(of('1,5')).toThrow('Line 2: an amount is written like 12.50 or -12.50.')
  })

  it('is copied with its lines, and the day of today', () => {
    const draft = copied(JOURNAL, RULES, ROWS, NOW, 'Europe/London')
    expect(draft.values).toEqual({
      posted: '2026-11-23 09:30',
      value_date: '2026-11-23',
      reference: 'S-1',
    })
    expect(draft.lines.map((l) => [l.values, l.amount])).toEqual([
      [{ account: 'Bank', site: 'North' }, '12.5'],
      [{ account: 'Office' }, '-12.5'],
    ])
  })

  it('takes from a template what is always the same', () => {
    const template = {
      values: { reference: 'Stamps' },
      lines: [{ account: 'Office', amount: null }, { account: 'Bank' }],
    } as unknown as Template
    const draft = fromTemplate(JOURNAL, RULES, template, NOW, 'Europe/London')
    expect(draft.values).toMatchObject({ reference: 'Stamps', posted: '2026-11-23 09:30' })
    expect(draft.lines.map((l) => [l.values.account, l.amount])).toEqual([
      ['Office', ''],
      ['Bank', ''],
    ])
  })
})
