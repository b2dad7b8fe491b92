import type { Row } from '@/api/client'

interface OfTable {
  /** stays the same as long as the line does */
  key: string
  /** in how many groups it lies */
  depth: number
}

interface Summed {
  records: number
  totals: Record<string, number>
  /** how many values of a field are no numbers and left out of its sum */
  leftOut?: Record<string, number>
}

/** One line of the table: a record, or what is said about several. */
export type Line =
  | (OfTable & { kind: 'record'; row: Row })
  | (OfTable & Summed & { kind: 'group'; words: string; open: boolean; toggle: () => void })
  | (OfTable & Summed & { kind: 'whole'; words: string })
  | (OfTable & { kind: 'balance'; words: string; amount: number })
  | (OfTable & { kind: 'more'; words: string; load?: () => void })
