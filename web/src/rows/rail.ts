import { toMinutes } from '@/platform/zones'
import type { Outline, WindowAccount } from '@/api/client'
import { shiftDay } from '@/platform/days'
import type { Node } from '@/statements/tree'

/** A window of the statement as it is drawn on the time rail; an absent end has no bound. */
export interface DrawnWindow {
  path: string
  account: WindowAccount
  node: Node
  from?: number
  to?: number
  /** the values that are meant lie outside of it */
  outside: boolean
}

/** The windows on one field that are switched on, in the order of the statement. */
export function windowsOn(outline: Outline | undefined, fields: string[]): DrawnWindow[] {
  const found: DrawnWindow[] = []
  const walk = (part: Outline) => {
    if (part.kind === 'off') return
    if (part.kind === 'criterion' && part.window && part.field && fields.includes(part.field)) {
      found.push({
        path: part.path,
        account: part.window,
        node: part.node as Node,
        from: part.window.from ? Date.parse(part.window.from) : undefined,
        to: part.window.to ? Date.parse(part.window.to) : undefined,
        outside: part.window.outside,
      })
    }
    part.parts.forEach(walk)
  }
  if (outline) walk(outline)
  return found
}

/** Whether a window has two ends, and so windows of its length beside it. */
export const isStretch = (w: DrawnWindow) => w.from !== undefined && w.to !== undefined && !w.outside

/** The field of the first window, if there is one. */
export function firstWindowed(outline: Outline | undefined): string | undefined {
  let found: string | undefined
  const walk = (part: Outline) => {
    if (found || part.kind === 'off') return
    if (part.kind === 'criterion' && part.window && part.field) found = part.field
    part.parts.forEach(walk)
  }
  if (outline) walk(outline)
  return found
}

const DAY = 86_400_000

/**
 * The phrase of a window from one local time up to another, both at the beginnings of buckets. Days are named as days, with
 * the last one inside; a whole month or year by its name; hours by their moments.
 */
export function phraseOf(from: string, to: string): string {
  const days = from.endsWith('T00:00:00') && to.endsWith('T00:00:00')
  if (!days) return `${toMinutes(from)} to ${toMinutes(to)}`
  const first = from.slice(0, 10)
  const last = shiftDay(to.slice(0, 10), -1)
  if (first === last) return first
  const month = first.slice(0, 7)
  if (first === `${month}-01` && last.slice(0, 7) === month && to.slice(8, 10) === '01') return month
  if (first.slice(5) === '01-01' && last.slice(5) === '12-31' && first.slice(0, 4) === last.slice(0, 4))
    return first.slice(0, 4)
  return `${first} to ${last}`
}

/** The stretch of days that shows windows with some of what lies around them; nothing where every record is to be shown. */
export function around(windows: DrawnWindow[], now: number): { from: string; to: string } | undefined {
  const bounded = windows.filter((w) => w.from !== undefined && w.to !== undefined && w.to > w.from)
  if (!bounded.length) return undefined
  const from = Math.min(...bounded.map((w) => w.from!))
  const to = Math.max(...bounded.map((w) => w.to!))
  const beside = Math.max(to - from, DAY)
  let low = from - beside
  let high = to + beside
  // Now is worth a little room: it tells a window that moves from one that stays.
  if (now > high && now < high + 2 * beside) high = now + beside / 4
  if (now < low && now > low - 2 * beside) low = now - beside / 4
  return { from: new Date(low).toISOString().slice(0, 10), to: new Date(high).toISOString().slice(0, 10) }
}
