import { describe, expect, it } from 'vitest'
import type { Outline } from '@/api/client'
import { zonedInstant } from '@/platform/zones'
import { around, firstWindowed, phraseOf, windowsOn } from './rail'

const criterion = (path: string, field: string, from: string | null, to: string | null, outside = false) =>
  ({
    kind: 'criterion',
    path,
    field,
    node: { field, test: 'in' },
    window: { path, from, to, outside, words: '', rolling: false },
    parts: [],
  }) as unknown as Outline
const group = (kind: string, parts: Outline[]) => ({ kind, path: '', node: {}, parts }) as unknown as Outline

describe('windows on the rail', () => {
  const due = criterion('/all/0', 'due', '2026-11-01T00:00:00Z', '2026-12-01T00:00:00Z')
  const open = criterion('/all/1', 'made', null, '2026-11-23T00:00:00Z')
  it('draws those of one field that are switched on', () => {
    const outline = group('all', [due, open, group('off', [criterion('/all/2/off', 'due', null, null)])])
    expect(windowsOn(outline, ['due']).map((w) => w.path)).toEqual(['/all/0'])
    expect(windowsOn(outline, ['made'])[0]).toMatchObject({ from: undefined, to: Date.UTC(2026, 10, 23) })
    expect(firstWindowed(outline)).toBe('due')
    expect(firstWindowed(group('all', []))).toBeUndefined()
  })
  it('shows what lies around a window, and now where it is near', () => {
    const windows = windowsOn(due, ['due'])
    expect(around(windows, Date.UTC(2026, 10, 23))).toEqual({ from: '2026-10-02', to: '2026-12-31' })
    expect(around(windows, Date.UTC(2027, 0, 20))!.to >= '2027-01-20').toBe(true)
    // Years away, now would only make the window small.
    expect(around(windows, Date.UTC(2036, 0, 1))!.to).toBe('2026-12-31')
    // A window without a start is shown with everything.
    expect(around(windowsOn(open, ['made']), 0)).toBeUndefined()
  })
})

describe('the phrase of a stretch that was drawn', () => {
  it.each([
    ['2026-11-01T00:00:00', '2026-12-01T00:00:00', '2026-11'],
    ['2024-02-01T00:00:00', '2024-03-01T00:00:00', '2024-02'],
    ['2026-01-01T00:00:00', '2027-01-01T00:00:00', '2026'],
    ['2026-11-23T00:00:00', '2026-11-24T00:00:00', '2026-11-23'],
    ['2026-11-01T00:00:00', '2026-11-30T00:00:00', '2026-11-01 to 2026-11-29'],
    ['2026-10-25T00:00:00', '2026-11-02T00:00:00', '2026-10-25 to 2026-11-01'],
    ['2026-11-23T08:00:00', '2026-11-23T17:00:00', '2026-11-23T08:00 to 2026-11-23T17:00'],
    ['2026-11-23T08:00:00', '2026-11-24T00:00:00', '2026-11-23T08:00 to 2026-11-24T00:00'],
  ])('%s up to %s is %s', (from, to, phrase) => {
    expect(phraseOf(from, to)).toBe(phrase)
  })
})

describe('local times as instants', () => {
  it.each([
    ['2026-07-01T00:00:00', 'Europe/London', '2026-06-30T23:00:00.000Z'],
    ['2026-11-23T00:00:00', 'Europe/London', '2026-11-23T00:00:00.000Z'],
    ['2026-10-26T00:00:00', 'Europe/London', '2026-10-26T00:00:00.000Z'],
    ['2026-03-30T00:00:00', 'Europe/London', '2026-03-29T23:00:00.000Z'],
    ['2026-11-23T00:00:00', 'Asia/Kathmandu', '2026-11-22T18:15:00.000Z'],
    ['2026-11-23T00:00:00', 'America/St_Johns', '2026-11-23T03:30:00.000Z'],
  ])('%s in %s', (local, zone, instant) => {
    expect(new Date(zonedInstant(local, zone)).toISOString()).toBe(instant)
  })
})
