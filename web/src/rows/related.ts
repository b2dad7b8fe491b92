import type { Schemas } from '@/api/client'
import { number } from '@/platform/format'

export type Related = Schemas['Related']

/** How many there are, as far as they were counted. */
export const manyOf = ({ records, exact }: Related) =>
  records == null ? '' : number(records) + (exact ? '' : ' or more')

/** The path of a register's page that a statement is put to; to the records as they stood, where a moment is given. */
export function askedPath(register: string, statement: string, recordsAt?: string): string {
  const query = new URLSearchParams({ where: statement, ...(recordsAt ? { recordsAt } : {}) })
  return `/registers/${register}?${query}`
}
