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
