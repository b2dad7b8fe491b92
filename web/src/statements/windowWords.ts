import type { Resolved } from '@/api/client'
import { daysBetween, shiftDay, weekday } from '@/platform/days'
import { day, moment } from '@/platform/format'

const named = (iso: string) => `${weekday(iso)} ${day(iso)}`

/** The exact bounds of a window, in words. */
export function bounds(window: Resolved, zone: string): string {
  if (window.kind === 'days' && window.firstDay && window.dayAfterLast) {
    const days = daysBetween(window.firstDay, window.dayAfterLast)
    return days === 1
      ? `${named(window.firstDay)}, the whole day`
      : days < 1
        ? 'nothing: it ends before it begins'
        : `from ${named(window.firstDay)} up to and including ${named(shiftDay(window.dayAfterLast, -1))} · ${days} days`
  }
  return window.start === window.end
    ? moment(window.start, zone)
    : `from ${moment(window.start, zone)} up to, not including, ${moment(window.end, zone)}`
}

/**
 * What a test keeps with a window: `before Tue 17 Nov 2026`, when it is *before it* and the window begins on that day. Tests that
 * keep what lies inside are said by the bounds.
 */
export function kept(test: string, window: Resolved, zone: string): string {
  const days = window.kind === 'days' && window.firstDay && window.dayAfterLast
  const first = days ? named(window.firstDay!) : moment(window.start, zone)
  const end = days ? named(window.dayAfterLast!) : moment(window.end, zone)
  switch (test) {
    case 'before':
      return `everything before ${first}`
    case 'after':
      return `everything from ${end} on`
    case 'from':
      return `everything from ${first} on`
    case 'up to':
      return days
        ? `everything up to and including ${named(shiftDay(window.dayAfterLast!, -1))}`
        : `everything before ${end}`
    case 'not in':
      return `everything but ${bounds(window, zone)}`
    default:
      return bounds(window, zone)
  }
}
