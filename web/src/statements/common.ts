import type { FieldDescription } from '@/api/client'
import { isBeyond } from '@/platform/exact'
import { cell, day, isNumeric, localDay } from '@/platform/format'
import type { Offer } from './narrowing'
import { quantityOf } from './quantity'
import type { Node } from './tree'

/** How many different values of a choice are still something in common. */
const FEW = 3

type Values = Record<string, unknown>

/** The criteria that hold for all of some records, at the most one for each field; what names a single record is no criterion. */
export function commonOf(fields: FieldDescription[], rows: Values[], zone: string): Offer[] {
  return fields.flatMap((field) => {
    if (field.identifying || field.origin === 'SEEN' || field.type === 'span') return []
    const values = rows.map((row) => row[field.key])
    const filled = values.filter((v) => v != null && v !== '' && !(Array.isArray(v) && !v.length))
    if (!filled.length)
      return [{ words: `${field.label} is empty`, node: { field: field.key, test: 'is empty' } }]
    return filled.length < values.length ? [] : of(field, values, zone)
  })
}

function of(field: FieldDescription, values: unknown[], zone: string): Offer[] {
  const { key, label } = field
  const distinct = [...new Map(values.map((v) => [JSON.stringify(v), v])).values()]
  const shown = (value: unknown) => cell(field, value, zone)
  const offer = (words: string, node: Node): Offer[] => [{ words: `${label} ${words}`, node }]
  if (field.type === 'tags') {
    const shared = (values as string[][]).reduce((left, tags) => left.filter((t) => tags.includes(t)))
    return shared.flatMap((tag) => offer(`has ${tag}`, { field: key, test: 'has any of', values: [tag] }))
  }
  if (isNumeric(field)) {
    if (values.some(isBeyond)) return []
    const sorted = [...distinct].sort((a, b) => Number(a) - Number(b))
    const [least, most] = [sorted[0], sorted.at(-1)]
    if (distinct.length === 1)
      return offer(`= ${shown(least)}`, { field: key, test: '=', value: quantityOf(field, least) })
    return offer(`from ${shown(least)} to ${shown(most)}`, {
      all: [
        { field: key, test: '>=', value: quantityOf(field, least) },
        { field: key, test: '<=', value: quantityOf(field, most) },
      ],
    })
  }
  if (field.type === 'date' || field.type === 'moment') {
    if (values.some(isBeyond)) return []
    const days = values.map((v) => (field.type === 'date' ? String(v) : localDay(String(v), zone))).sort()
    const [first, last] = [days[0]!, days.at(-1)!]
    return first === last
      ? offer(`on ${day(first)}`, { field: key, test: 'in', period: first })
      : offer(`from ${day(first)} to ${day(last)}`, { field: key, test: 'in', period: `${first} to ${last}` })
  }
  if (field.type === 'time of day') return []
  if (distinct.length === 1)
    return offer(`is ${shown(distinct[0])}`, { field: key, test: 'is', value: distinct[0] })
  const listed = field.type === 'choice' || field.type === 'person'
  return listed && distinct.length <= FEW && distinct.length < values.length
    ? offer(`is ${distinct.map(shown).join(' or ')}`, { field: key, test: 'is in', values: distinct })
    : []
}
