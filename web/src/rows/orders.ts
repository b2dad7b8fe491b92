import type { FieldDescription, Register } from '@/api/client'

/** One field of an order, as links and calls write it: `due`, `-due`, `-due:empties-first`. */
export interface OrderKey {
  field: string
  descending: boolean
  emptiesFirst: boolean
}

const EMPTIES_FIRST = ':empties-first'
/** What the order of a list in the statement begins with. */
export const AS_LISTED = 'as-listed:'

export function readOrder(word: string): OrderKey {
  const descending = word.startsWith('-')
  const emptiesFirst = word.endsWith(EMPTIES_FIRST)
  return {
    field: word.slice(descending ? 1 : 0, emptiesFirst ? -EMPTIES_FIRST.length : undefined),
    descending,
    emptiesFirst,
  }
}

export function writeOrder(key: OrderKey): string {
  return (key.descending ? '-' : '') + key.field + (key.emptiesFirst ? EMPTIES_FIRST : '')
}

/** Which end of a field's values comes first, in words. */
export function directionWords(type: FieldDescription['type'] | undefined, descending: boolean): string {
  switch (type) {
    case 'date':
    case 'moment':
      return descending ? 'newest first' : 'oldest first'
    case 'number':
    case 'money':
      return descending ? 'highest first' : 'lowest first'
    case 'yes/no':
      return descending ? 'yes first' : 'no first'
    default:
      return descending ? 'Z to A' : 'A to Z'
  }
}

/** An order in words, for people who know the fields by their labels; nothing where there is none. */
export function orderWords(register: Register | undefined, order: string[]): string {
  const field = (key: string) => register?.fields.find((f) => f.key === key)
  return order
    .map((o) => {
      if (o.startsWith(AS_LISTED)) {
        const key = o.slice(AS_LISTED.length)
        return `${field(key)?.label ?? key}, as listed`
      }
      const { field: key, descending, emptiesFirst } = readOrder(o)
      const f = field(key)
      const label = f ? f.label.charAt(0).toLowerCase() + f.label.slice(1) : key
      return `${label}, ${emptiesFirst ? 'empties and then ' : ''}${directionWords(f?.type, descending)}`
    })
    .join('; then ')
}
