import { describe, expect, it } from 'vitest'
import type { FieldDescription } from '@/api/client'
import { cell, figures, day, localDay, moment } from './format'

const field = (type: string, options: FieldDescription['options'] = []): FieldDescription => ({
  key: 'f',
  label: 'F',
  type,
  required: false,
  orderable: true,
  options,
  tests: [],
  others: {},
  groupings: [],
  measures: [],
  viewerValues: [],
  bands: [],
  description: '',
  unit: '',
  useful: false,
  identifying: false,
  correctable: false,
  origin: 'COLUMN',
  relates: [],
  correctors: [],
})

describe('dates have one form', () => {
  it('shows a day without a zone', () => {
    expect(day('2026-11-03')).toBe('3 Nov 2026')
  })
  it('shows a moment in the zone asked for', () => {
    expect(moment('2026-10-25T00:30:00Z', 'Europe/London')).toBe('25 Oct 2026, 01:30')
    expect(moment('2026-10-25T01:30:00Z', 'Europe/London')).toBe('25 Oct 2026, 01:30')
    expect(moment('2026-11-22T23:59:59Z', 'Asia/Kathmandu')).toBe('23 Nov 2026, 05:44')
  })
  it('finds the local day', () => {
    expect(localDay('2026-11-22T23:59:59Z', 'Asia/Kathmandu')).toBe('2026-11-23')
  })
})

describe('cells', () => {
  it('shows empty as a dash and zero as zero', () => {
    expect(cell(field('money'), null, 'UTC')).toBe('—')
    expect(cell(field('money'), 0, 'UTC')).toBe('0.00')
    expect(cell(field('text'), '', 'UTC')).toBe('—')
    expect(cell(field('tags'), [], 'UTC')).toBe('—')
  })
  it('never rounds a number, and knows how long it is', () => {
    for (const [type, value, shown] of [
      ['number', 0.123456789, '0.123456789'],
      ['number', -771234.5, '-771,234.5'],
      ['number', 12, '12'],
      ['money', 1234.5, '1,234.50'],
      ['money', -0.12345, '-0.12345'],
    ] as const) {
      expect(cell(field(type), value, 'UTC')).toBe(shown)
      expect(figures(value, type)).toBe(shown.length)
    }
  })
  it('marks no thousands of numbers that are names', () => {
    const named = (label: string) => cell({ ...field('number'), label }, 2026, 'UTC')
    for (const label of ['Year', 'Fiscal year', 'Invoice no', 'Invoice no.', 'Berth number', 'account_id'])
      expect(named(label)).toBe('2026')
    for (const label of ['Number of crew', 'Yearly fee', 'Notes', 'Weight'])
      expect(named(label)).toBe('2,026')
    expect(cell({ ...field('number'), identifying: true }, 1234567, 'UTC')).toBe('1234567')
  })
  it('names people in full and keeps unknown ones', () => {
    const person = field('person', [{ value: 'asta.quill', label: 'Asta Quill' }])
    expect(cell(person, 'asta.quill', 'UTC')).toBe('Asta Quill')
    expect(cell(person, 'gone.away', 'UTC')).toBe('gone.away')
  })
})
