import { day } from './format'

/** The moment that a page is read as of: a day stands for its noon. */
export function asOfWords(asOf: string): string {
  if (!asOf.includes('T')) return day(asOf)
  // A link may carry a moment with its own offset instead of the zone's local time.
  const offset = /(Z|[+-]\d\d:\d\d)$/.exec(asOf)?.[0] ?? ''
  return `${day(asOf.slice(0, 10))}, ${asOf.slice(11, 16)}${offset === 'Z' ? ' UTC' : offset && ` ${offset}`}`
}

/** The moment that records are read as they were kept at: a day stands for its end. */
export function recordsAtWords(recordsAt: string): string {
  return recordsAt.includes('T') ? asOfWords(recordsAt) : `the end of ${day(recordsAt)}`
}
