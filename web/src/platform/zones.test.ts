import { describe, expect, it } from 'vitest'
import { firstOfTwo, toMinutes, writtenIn, zonedInstant } from './zones'

describe('a local time', () => {
  it.each([
    ['2026-11-23T14:30:00', 'Europe/London', '2026-11-23T14:30:00.000Z'],
    ['2026-07-01T14:30:00', 'Europe/London', '2026-07-01T13:30:00.000Z'],
    ['2026-10-25T01:30:00', 'Europe/London', '2026-10-25T01:30:00.000Z'],
    ['2026-10-25T01:30:00+01:00', 'Europe/London', '2026-10-25T00:30:00.000Z'],
    ['2026-03-29T01:30:00', 'Europe/London', '2026-03-29T01:30:00.000Z'],
    ['2026-04-05T01:45:00', 'Australia/Lord_Howe', '2026-04-04T15:15:00.000Z'],
    ['2026-11-01T00:30:00', 'America/Havana', '2026-11-01T05:30:00.000Z'],
  ])('%s in %s is %s', (local, zone, instant) => {
    expect(new Date(zonedInstant(local, zone)).toISOString()).toBe(instant)
  })

  it('of any instant is read back as that instant', () => {
    for (const zone of ['Europe/London', 'America/St_Johns', 'Australia/Lord_Howe', 'Pacific/Apia']) {
      for (let i = Date.parse('2026-01-01T00:00:00Z'); i < Date.parse('2027-01-01T00:00:00Z'); i += 4_700_000)
        expect(zonedInstant(writtenIn(i, zone), zone)).toBe(i)
    }
  })

  it('is written with its offset only where it comes twice', () => {
    expect(writtenIn(Date.parse('2026-10-25T00:30:00Z'), 'Europe/London')).toBe('2026-10-25T01:30:00+01:00')
    expect(writtenIn(Date.parse('2026-10-25T01:30:00Z'), 'Europe/London')).toBe('2026-10-25T01:30:00+00:00')
    expect(writtenIn(Date.parse('2026-10-25T02:30:00Z'), 'Europe/London')).toBe('2026-10-25T02:30:00')
    expect(firstOfTwo('2026-10-25T01:00:00', 'Europe/London')).toBe('2026-10-25T01:00:00+01:00')
    expect(toMinutes('2026-10-25T01:00:00+01:00')).toBe('2026-10-25T01:00+01:00')
    expect(toMinutes('2026-10-25T02:00:00')).toBe('2026-10-25T02:00')
  })
})
