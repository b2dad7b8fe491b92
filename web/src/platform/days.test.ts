import { describe, expect, it } from 'vitest'
import { daysBetween, shiftDay, shiftDayByMonths, shiftMonth, weekday, weekdayNumber, weeksOf } from './days'

describe('days', () => {
  it('go on over the ends of months and years, and over changes of the clock', () => {
    expect(shiftDay('2026-12-31', 1)).toBe('2027-01-01')
    expect(shiftDay('2028-03-01', -1)).toBe('2028-02-29')
    expect(shiftDay('2026-10-24', 2)).toBe('2026-10-26')
    expect(shiftDay('2026-03-28', 2)).toBe('2026-03-30')
  })

  it('lie so far apart', () => {
    expect(daysBetween('2026-10-01', '2026-11-01')).toBe(31)
    expect(daysBetween('2026-03-01', '2026-04-01')).toBe(31)
    expect(daysBetween('2026-11-23', '2026-11-23')).toBe(0)
    expect(daysBetween('2026-11-23', '2026-11-20')).toBe(-3)
  })

  it('have names', () => {
    expect(weekday('2026-11-23')).toBe('Mon')
    expect(weekdayNumber('2026-11-22')).toBe(0)
  })

  it('keep their number from month to month where it is there', () => {
    expect(shiftDayByMonths('2026-01-31', 1)).toBe('2026-02-28')
    expect(shiftDayByMonths('2026-03-15', -1)).toBe('2026-02-15')
    expect(shiftMonth('2026-12', 1)).toBe('2027-01')
    expect(shiftMonth('2026-01', -1)).toBe('2025-12')
  })
})

describe('the weeks of a month', () => {
  it('begin where the organisation’s week begins', () => {
    expect(weeksOf('2026-11', 1)[0]).toEqual([null, null, null, null, null, null, '2026-11-01'])
    expect(weeksOf('2026-11', 0)[0]![0]).toBe('2026-11-01')
    expect(weeksOf('2026-11', 6)[0]!.slice(0, 2)).toEqual([null, '2026-11-01'])
  })

  it.each([0, 1, 6])('hold each day once, in seven places a week, from day %i of the week on', (starts) => {
    for (const [month, days] of [
      ['2026-02', 28],
      ['2028-02', 29],
      ['2026-10', 31],
    ] as const) {
      const weeks = weeksOf(month, starts)
      expect(weeks.every((w) => w.length === 7)).toBe(true)
      const held = weeks.flat().filter((d): d is string => d !== null)
      expect(held).toEqual(
        Array.from({ length: days }, (_, i) => `${month}-${String(i + 1).padStart(2, '0')}`),
      )
      for (const week of weeks) week.forEach((d, i) => d && expect(weekdayNumber(d)).toBe((starts + i) % 7))
    }
  })
})
