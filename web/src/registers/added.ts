import type { Register } from '@/api/client'

/** What stands in a key between that of a register and what is added to its fields. */
const BETWEEN = '~'

/** The key of a register, without what is added to its fields. */
export const plainKey = (key: string) => key.split(BETWEEN)[0]!

/** What is added to the fields of a register, as its key says it; empty for a register as it is. */
export const addedIn = (key: string) => key.split(BETWEEN)[1] ?? ''

/** The key of a register with what is added to its fields. */
export const keyWith = (register: string, added: string) => (added ? register + BETWEEN + added : register)

/** The address of a register's records. */
export function recordsOf(key: string, statement: string) {
  const query = new URLSearchParams({ ...(addedIn(key) ? { with: addedIn(key) } : {}), where: statement })
  return `/registers/${plainKey(key)}?${query}`
}

/** A calculated field that a question adds to those of its register. */
export interface AddedField {
  /** absent for one that is new */
  key?: string
  label: string
  calculation: string
}

/** The calculated fields that are added to those of a register, in their order. */
export const addedTo = (register: Register): (AddedField & { key: string })[] =>
  register.added.map((key) => {
    const field = register.fields.find((f) => f.key === key)!
    return { key, label: field.label, calculation: field.calculation!.words }
  })
