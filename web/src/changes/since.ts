import type { Schemas } from '@/api/client'
import { shiftDay, daysBetween } from '@/platform/days'

export type MovedRecord = Schemas['MovedRecord']

/** How many moments of a line are asked for at the most, beside now. */
const MOST = 30

/** The days at whose beginning records are counted, from one day to another: as many as a line needs, evenly apart. */
export function daysCounted(since: string, today: string): string[] {
  const all = daysBetween(since, today)
  const step = Math.max(1, Math.ceil(all / MOST))
  const days = []
  for (let at = 0; at <= all; at += step) days.push(shiftDay(since, at))
  return days
}

const HEADS = { ENTERED: 'Entered', LEFT: 'Left', CHANGED: 'Changed' } as const
export type Became = keyof typeof HEADS

/** The records by what became of them, those kinds that there are. */
export function byKind(records: MovedRecord[]): { kind: Became; words: string; records: MovedRecord[] }[] {
  return (Object.keys(HEADS) as Became[])
    .map((kind) => ({ kind, words: HEADS[kind], records: records.filter((r) => r.became === kind) }))
    .filter((part) => part.records.length)
}
