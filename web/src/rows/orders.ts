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
    case 'duration':
      return descending ? 'longest first' : 'shortest first'
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

/** Where a field stands in an order; -1 where it does not. */
export const placeIn = (order: string[], field: string) =>
  order.findIndex((o) => readOrder(o).field === field)

/** In which direction an order goes by a field, as ARIA says it. */
export function directionIn(order: string[], field: string): Direction {
  const at = placeIn(order, field)
  return at < 0 ? 'none' : readOrder(order[at]!).descending ? 'descending' : 'ascending'
}
export type Direction = 'ascending' | 'descending' | 'none'

/**
 * An order with a field in one direction, or no longer in it; where its empties go stays as it was.
 *
 * @param beside whether the rest of the order stays; the field keeps its place in it, or comes last
 */
export function orderedBy(order: string[], field: string, direction: Direction, beside: boolean): string[] {
  const at = placeIn(order, field)
  const known = at < 0 ? { field, emptiesFirst: false } : readOrder(order[at]!)
  const one = direction === 'none' ? [] : [writeOrder({ ...known, descending: direction === 'descending' })]
  // The order of a list goes beside no other.
  if (!beside || order[0]?.startsWith(AS_LISTED)) return one
  const kept = [...order]
  kept.splice(at < 0 ? kept.length : at, at < 0 ? 0 : 1, ...one)
  return kept
}
