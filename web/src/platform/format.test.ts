import { describe, expect, it } from 'vitest'
import type { FieldDescription } from '@/api/client'
import { cell, day, localDay, moment } from './format'

const field = (type: string, options: FieldDescription['options'] = []): FieldDescription => ({
  key: 'f',
  label: 'F',
  type,
  required: false,
  orderable: true,
  options,
  tests: [],
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
  it('shortens people and keeps unknown ones', () => {
    const person = field('person', [{ value: 'asta.quill', label: 'Asta Quill' }])
    expect(cell(person, 'asta.quill', 'UTC')).toBe('A. Quill')
    expect(cell(person, 'gone.away', 'UTC')).toBe('gone.away')
  })
})
