import type { FieldDescription } from '@/api/client'
import { durationWords } from '@/platform/duration'
import { writtenIn, zonedInstant } from '@/platform/zones'

/** How a value is typed: the browser's own fields show dates in a form that can be read two ways. */
export const HOW: Record<string, string> = {
  date: '2026-11-23',
  moment: '2026-11-23 14:30',
  duration: '2 h 30 min',
  'time of day': '14:30',
  tags: 'separated by commas',
}

/** A value as it is typed: moments by the zone's own clock. */
export function typed(field: FieldDescription, value: unknown, zone: string): string {
  if (value == null) return ''
  if (field.type === 'moment') return writtenIn(Date.parse(String(value)), zone).replace('T', ' ')
  if (field.type === 'tags') return (value as string[]).join(', ')
  if (field.type === 'yes/no') return value ? 'yes' : 'no'
  if (field.type === 'duration') return durationWords(value as number | string)
  return String(value)
}

/** The value that a typed text stands for, as the API takes it. */
export function meant(field: FieldDescription, text: string, zone: string): unknown {
  const plain = text.trim()
  if (field.type === 'tags')
    return plain
      .split(',')
      .map((t) => t.trim())
      .filter(Boolean)
  if (plain === '') return null
  if (field.type === 'moment') {
    if (
      !/^\d{4}-\d\d-\d\d[ T]\d\d:\d\d(:\d\d)?(Z|[+-]\d\d:\d\d)?$/.test(plain) ||
      Number.isNaN(Date.parse(plain.replace(' ', 'T')))
    ) {
      throw new Error(`${field.label} is written like ${HOW.moment}, by the clock of ${zone}.`)
    }
    const clock = plain.replace(' ', 'T')
    const instant = zonedInstant(
      /T\d\d:\d\d:/.test(clock) ? clock : clock.slice(0, 16) + ':00' + clock.slice(16),
      zone,
    )
    return new Date(instant).toISOString()
  }
  if (field.type === 'yes/no') return plain === 'yes'
  return plain
}
