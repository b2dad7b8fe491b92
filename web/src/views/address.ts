import type { LocationQuery, LocationQueryRaw } from 'vue-router'
import { addedIn } from '@/registers/added'
import { readShape, written, type Shape } from '@/rows/shape'
import { SIDES, type Side } from './asof'

/** The longest statement, in characters, that goes into the part of an address that servers read. */
const LONGEST_IN_QUERY = 1200
/** What a longer one stands behind. */
const FRAGMENT = '#where='
/** What the answers to blanks stand under, before their labels. */
const ASK = 'ask.'

/** What a page shows when its address says nothing else. */
export interface Base {
  where: string
  order: string[]
  columns: string[]
  /** as the address writes it */
  shape: string
  zone: string
  added: string
}

/** What an address says; what is absent is as the page has it. */
export interface Address {
  where?: string
  order?: string[]
  columns?: string[]
  shape?: Shape
  /** what is added to the fields of the register */
  added?: string
  asOf?: string
  /** the moment that the records are read as they were kept at */
  recordsAt?: string
  /** the records that only one of two readings has */
  side?: Side
  zone?: string
  /** whether the view is wanted as it is shared, without the reader's own refinement and answers */
  asShared: boolean
  /** by the labels of the blanks; an empty one says that the default counts, whatever was remembered */
  answers: Record<string, string>
}

/** What an address changes; null takes it out. */
export interface AddressChange {
  where?: string
  order?: string[]
  columns?: string[]
  shape?: Shape
  asOf?: string | null
  recordsAt?: string | null
  side?: Side | null
  zone?: string
  answers?: Record<string, string>
  /** the key of the register with other calculated fields added to it */
  added?: string
}

/** The part of an address behind the #, as it was written. */
function statementIn(hash: string): string | undefined {
  if (!hash.startsWith(FRAGMENT)) return undefined
  const text = hash.slice(FRAGMENT.length)
  try {
    return decodeURIComponent(text)
  } catch {
    // An address that was cut off or written by hand: what can be read of it is shown, and can be mended.
    return text
  }
}

/** Reads an address. A long statement, of thousands of pasted values, stands behind the # where no server has to take it. */
export function readAddress(query: LocationQuery, hash: string): Address {
  const text = (name: string) => (typeof query[name] === 'string' ? query[name] : undefined)
  const list = (name: string) => text(name)?.split(',').filter(Boolean)
  const shape = text('shape')
  const asOf = text('asOf')
  return {
    where: statementIn(hash) ?? text('where'),
    order: list('order'),
    columns: list('columns'),
    shape: shape === undefined ? undefined : readShape(shape),
    added: text('with'),
    asOf,
    recordsAt: text('recordsAt'),
    side: asOf ? SIDES.find((s) => s === text('side')) : undefined,
    zone: text('zone'),
    asShared: text('as') === 'shared',
    answers: Object.fromEntries(
      Object.entries(query).flatMap(([name, value]) =>
        name.startsWith(ASK) && typeof value === 'string' ? [[name.slice(ASK.length), value]] : [],
      ),
    ),
  }
}

/**
 * An address with some parts changed; what is as the page has it anyway is left out.
 *
 * @param ofView whether the page has an order of its own, so that none says so
 */
export function changeAddress(
  query: LocationQuery,
  hash: string,
  parts: AddressChange,
  base: Base,
  ofView: boolean,
): { query: LocationQueryRaw; hash: string } {
  const to: LocationQueryRaw = { ...query }
  const unless = <T>(same: boolean, value: T) => (same ? undefined : value)
  if (parts.where !== undefined) {
    const same = parts.where === base.where
    const long = parts.where.length > LONGEST_IN_QUERY
    to.where = unless(same || long, parts.where)
    hash = long && !same ? FRAGMENT + encodeURIComponent(parts.where) : ''
  }
  if (parts.order) to.order = unless(ofView && parts.order.join() === base.order.join(), parts.order.join())
  if (parts.columns) to.columns = unless(parts.columns.join() === base.columns.join(), parts.columns.join())
  if (parts.shape) to.shape = unless(written(parts.shape) === base.shape, written(parts.shape))
  if (parts.asOf !== undefined) {
    to.asOf = parts.asOf ?? undefined
    to.side = undefined
  }
  if (parts.recordsAt !== undefined) to.recordsAt = parts.recordsAt ?? undefined
  if (parts.side !== undefined) to.side = parts.side ?? undefined
  if (parts.added !== undefined) to.with = unless(addedIn(parts.added) === base.added, addedIn(parts.added))
  if (parts.zone !== undefined) to.zone = unless(parts.zone === base.zone, parts.zone)
  for (const [label, value] of Object.entries(parts.answers ?? {})) to[ASK + label] = value || undefined
  return { query: to, hash }
}

/** The query of an address with answers that it does not have yet. */
export function withAnswers(query: LocationQuery, answers: Record<string, string>): LocationQueryRaw {
  return {
    ...query,
    ...Object.fromEntries(Object.entries(answers).map(([label, value]) => [ASK + label, value])),
  }
}
