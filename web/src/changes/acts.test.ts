import { describe, expect, it } from 'vitest'
import type { FieldDescription } from '@/api/client'
import { field } from '@/testing/page'
import { actsOf, alike, asked, newLine, unitsOf, type Line } from './acts'

const of = (key: string, type: string, more = {}) =>
  field(key, type, { origin: 'COLUMN', required: false, ...more }) as unknown as FieldDescription
const severity = of('severity', 'number')
const due = of('due', 'date')
const FIELDS = [
  severity,
  due,
  of('ended', 'date'),
  of('tags', 'tags'),
  of('worked', 'date', { origin: 'CALCULATED' }),
]
const line = (key: string, more: Partial<Line>): Line => ({ ...newLine(key), ...more })

describe('what becomes of a field', () => {
  it('is what its type allows, the usual first', () => {
    expect(actsOf(severity, FIELDS)).toEqual(['SET', 'ADD'])
    expect(actsOf(due, FIELDS)).toEqual(['SET', 'MOVE', 'TAKE'])
    expect(actsOf(FIELDS[3]!, FIELDS)).toEqual(['TAG', 'UNTAG', 'SET'])
    expect(alike(due, FIELDS).map((f) => f.key)).toEqual(['ended'])
    expect(unitsOf(due)).not.toContain('HOUR')
    expect(unitsOf(of('at', 'moment'))).toContain('HOUR')
  })

  it('is asked for as the API takes it', () => {
    const zone = 'Europe/London'
    expect(asked(line('due', { text: '2026-11-23' }), due, zone)).toEqual({
      field: 'due',
      act: 'SET',
      value: '2026-11-23',
    })
    expect(asked(line('due', { text: ' ' }), due, zone)).toEqual({ field: 'due', act: 'SET', value: null })
    expect(asked(line('severity', { act: 'ADD', text: ' -2 ' }), severity, zone)).toEqual({
      field: 'severity',
      act: 'ADD',
      value: '-2',
    })
    expect(asked(line('due', { act: 'MOVE', count: -3, unit: 'WEEK' }), due, zone)).toEqual({
      field: 'due',
      act: 'MOVE',
      count: -3,
      unit: 'WEEK',
    })
    expect(asked(line('due', { act: 'TAKE', from: 'ended' }), due, zone)).toEqual({
      field: 'due',
      act: 'TAKE',
      from: 'ended',
    })
    expect(asked(line('at', { text: '2026-07-01 14:30' }), of('at', 'moment'), zone).value).toBe(
      '2026-07-01T13:30:00.000Z',
    )
  })

  it('is refused with what is missing', () => {
    const wrong = (more: Partial<Line>, f: FieldDescription) => () => asked(line(f.key, more), f, 'UTC')
    expect(wrong({ act: 'ADD' }, severity)).toThrow('Say by how much Severity is more')
    expect(wrong({ act: 'MOVE', count: 0 }, due)).toThrow('Say by how many Due is later')
    expect(wrong({ act: 'MOVE', count: '' as never }, due)).toThrow('Say by how many')
    expect(wrong({ act: 'TAKE' }, due)).toThrow('Say from which field')
    expect(wrong({ act: 'TAG' }, FIELDS[3]!)).toThrow('Say which tag')
    expect(wrong({ text: 'soon' }, of('at', 'moment'))).toThrow('At is written like')
  })
})
