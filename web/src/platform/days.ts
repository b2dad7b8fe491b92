import dayjs from 'dayjs'
import utc from 'dayjs/plugin/utc'

dayjs.extend(utc)

const WEEKDAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat']

/** A day so many days later, or earlier; days are ISO 8601, `2026-11-23`. */
export function shiftDay(day: string, days: number): string {
  return dayjs.utc(day).add(days, 'day').format('YYYY-MM-DD')
}

/** How many days lie between two days; the second is not counted, and before the first it is less than nothing. */
export function daysBetween(from: string, to: string): number {
  return dayjs.utc(to).diff(dayjs.utc(from), 'day')
}

/** The day of the week, 0 for Sunday. */
export function weekdayNumber(day: string): number {
  return dayjs.utc(day).day()
}

/** The day of the week in three letters: `Mon`. */
export function weekday(day: string): string {
  return WEEKDAYS[weekdayNumber(day)]!
}

/** The same day of a month so many months later; in a shorter month its last day. */
export function shiftDayByMonths(day: string, months: number): string {
  return dayjs.utc(day).add(months, 'month').format('YYYY-MM-DD')
}

/** A month so many months later; months are `2026-11`. */
export function shiftMonth(month: string, months: number): string {
  return shiftDayByMonths(month + '-01', months).slice(0, 7)
}

/**
 * The days of a month by weeks, with nothing in the places of days that belong to the months beside it.
 *
 * @param weekStarts the first day of a week, 0 for Sunday
 */
export function weeksOf(month: string, weekStarts: number): (string | null)[][] {
  const first = dayjs.utc(month + '-01')
  const cells: (string | null)[] = [
    ...Array.from({ length: (first.day() - weekStarts + 7) % 7 }, () => null),
    ...Array.from({ length: first.daysInMonth() }, (_, i) => `${month}-${String(i + 1).padStart(2, '0')}`),
  ]
  while (cells.length % 7) cells.push(null)
  return Array.from({ length: cells.length / 7 }, (_, i) => cells.slice(i * 7, i * 7 + 7))
}
