import type { Row } from '@/api/client'

interface OfTable {
  /** stays the same as long as the line does */
  key: string
  /** in how many groups it lies */
  depth: number
}

interface Measured {
  records: number
  /** the figures of the shape, in its order */
  figures: unknown[]
  /** how many values of a field are no numbers and left out of its figures */
  leftOut?: Record<string, number>
}

/** One line of the table: a record, or what is said about several. */
export type Line =
  | (OfTable & { kind: 'record'; row: Row })
  | (OfTable & Measured & { kind: 'group'; words: string; open: boolean; toggle: () => void })
  | (OfTable & Measured & { kind: 'whole'; words: string })
  | (OfTable & { kind: 'balance'; words: string; amount: number })
  | (OfTable & { kind: 'more'; words: string; load?: () => void })

/**
 * Records as the lines of a table: one for each, and the balances before the first and after the last where they are added up.
 *
 * @param running from where they are added up, if they are
 * @param newestFirst whether they come in the reverse order of time, so that the balance before them stands last
 * @param opening the balance before the first
 * @param done whether the last one is there
 */
export function recordLines(
  rows: Row[],
  {
    running,
    newestFirst,
    opening,
    done,
  }: { running?: 'beginning' | 'zero'; newestFirst: boolean; opening?: number | null; done: boolean },
): Line[] {
  const records: Line[] = rows.map((row) => ({ kind: 'record', key: String(row.id), depth: 0, row }))
  if (!running) return records
  const balance = (key: string, words: string, amount: number | null | undefined): Line[] =>
    amount === undefined || amount === null ? [] : [{ kind: 'balance', key, depth: 0, words, amount }]
  const before = running === 'beginning' ? balance('before', 'Before the first of them:', opening) : []
  const after = balance('after', 'After the last of them:', (newestFirst ? rows[0] : rows.at(-1))?.running)
  return newestFirst
    ? [...after, ...records, ...(done ? before : [])]
    : [...before, ...records, ...(done ? after : [])]
}
