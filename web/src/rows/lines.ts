import type { Row } from '@/api/client'

interface OfTable {
  /** stays the same as long as the line does */
  key: string
  /** in how many groups it lies */
  depth: number
}

/** One line of the table: a record, or what is said about several. */
export type Line =
  | (OfTable & { kind: 'record'; row: Row })
  | (OfTable & {
      kind: 'group'
      words: string
      records: number
      totals: Record<string, number>
      open: boolean
      toggle: () => void
    })
  | (OfTable & { kind: 'whole'; words: string; records: number; totals: Record<string, number> })
  | (OfTable & { kind: 'opening'; words: string; amount: number })
  | (OfTable & { kind: 'more'; words: string; load?: () => void })
