import { isBeyond } from '@/platform/exact'
import type { FieldDescription } from '@/api/client'
import { shiftDay, weekdayNumber } from '@/platform/days'
import { cell, day, isNumeric, localDay, moment } from '@/platform/format'
import { quantityOf } from './quantity'
import { toMinutes, writtenIn } from '@/platform/zones'
import { EVERYTHING, type Node } from './tree'

/** Something that can be asked of a field because of a value that somebody points at. */
export interface Offer {
  words: string
  node: Node
}

const isGroup = (node: Node) => 'all' in node || 'any' in node || 'none' in node || 'off' in node

/** Whether a criterion says at least as much as another one on the same field, so that it can stand in its place. */
function outdoes(node: Node, own: Node): boolean {
  const [test, before] = [String(node.test), String(own.test)]
  if ('other' in own) return false
  if (test === 'is') return before === 'is' || before === 'is in'
  if (test === 'is not' || test === 'is not in')
    return (before === 'is not' || before === 'is not in') && !own.exactly && !node.exactly
  // The day of a record that is shown lies in every window there is; a month need not.
  if (test === 'in') return before === 'in' && /^\d{4}-\d\d-\d\d$/.test(String(node.period))
  if (test === '=') return ['=', '>=', '>', '<=', '<'].includes(before)
  // A day and a moment cannot be told which is later without the zone.
  if (test === 'from' || test === 'up to')
    return before === test && String(own.period).length === String(node.period).length
  return ['>=', '>', '<=', '<'].includes(test) && before === test
}

const values = (node: Node): unknown[] =>
  Array.isArray(node.values) ? (node.values as unknown[]) : 'value' in node ? [node.value] : []

/**
 * The tree narrowed by one more criterion. Values that are left out join those that are; a test that says more exactly what
 * another one of its kind on the same field says takes its place.
 */
export function narrow(tree: Node, node: Node): Node {
  const parts = outermost(tree)
  const at = parts.findIndex((p) => !isGroup(p) && p.field === node.field && outdoes(node, p))
  if (at < 0) return { all: [...parts, node] }
  const own = parts[at]!
  const joined =
    String(node.test).startsWith('is not') && !own.exactly && !node.exactly
      ? {
          field: node.field,
          test: 'is not in',
          values: [...values(own), ...values(node).filter((v) => !values(own).includes(v))],
        }
      : node
  return { all: parts.map((p, i) => (i === at ? joined : p)) }
}

/** Alternatives that are all about one field, such as one of some values or none at all. */
const isAbout = (node: Node, field: string) =>
  'any' in node && (node.any as Node[]).every((p) => !isGroup(p) && p.field === field)

const outermost = (tree: Node) => ('all' in tree ? (tree.all as Node[]) : [tree])

/** The criteria on a field that everything has to satisfy, and those of alternatives that are all about it. */
export function direct(tree: Node, field: string): Node[] {
  return outermost(tree).flatMap((p) =>
    isAbout(p, field) ? (p.any as Node[]) : !isGroup(p) && p.field === field ? [p] : [],
  )
}

/**
 * The tree with what is asked of a field directly replaced by one criterion, or by none.
 *
 * @param tests the tests that are replaced; what is asked by others stays
 */
export function settle(tree: Node, field: string, node: Node | undefined, tests?: string[]): Node {
  const kept = outermost(tree).filter((p) => {
    const own = direct(p, field)
    return !own.length || (tests !== undefined && !own.every((c) => tests.includes(String(c.test))))
  })
  const all = node ? [...kept, node] : kept
  return all.length ? { all } : EVERYTHING
}

/** What can be asked because of the value in a cell. */
export function offers(
  field: FieldDescription,
  value: unknown,
  zone: string,
  weekStarts = 'MONDAY',
): Offer[] {
  const key = field.key
  if (value === null || value === undefined || value === '' || (Array.isArray(value) && !value.length)) {
    return [
      { words: `Keep only those without ${field.label}`, node: { field: key, test: 'is empty' } },
      { words: `Leave out those without ${field.label}`, node: { field: key, test: 'is not empty' } },
    ]
  }
  // No criterion can name what is beyond all numbers and dates.
  if ((isNumeric(field) || ['date', 'moment'].includes(field.type)) && isBeyond(value)) return []
  const shown = cell(field, value, zone)
  switch (field.type) {
    case 'yes/no':
      return [{ words: `Keep only ${field.label}: ${shown}`, node: { field: key, test: 'is', value } }]
    case 'tags':
      return (value as string[]).flatMap((tag) => [
        { words: `Keep only those with ${tag}`, node: { field: key, test: 'has any of', values: [tag] } },
        { words: `Leave out those with ${tag}`, node: { field: key, test: 'has none of', values: [tag] } },
      ])
    case 'number':
    case 'money':
    case 'duration': {
      const number = quantityOf(field, value)
      return [
        { words: `Keep only ${shown}`, node: { field: key, test: '=', value: number } },
        { words: `Leave out ${shown}`, node: { field: key, test: '!=', value: number } },
        { words: `From ${shown} on`, node: { field: key, test: '>=', value: number } },
        { words: `Up to ${shown}`, node: { field: key, test: '<=', value: number } },
        { words: `More than ${shown}`, node: { field: key, test: '>', value: number } },
        { words: `Less than ${shown}`, node: { field: key, test: '<', value: number } },
      ]
    }
    case 'time of day':
      return [
        { words: `From ${shown} on`, node: { field: key, test: 'from', time: String(value) } },
        { words: `Up to ${shown}`, node: { field: key, test: 'up to', time: String(value) } },
      ]
    case 'date':
    case 'moment': {
      const on = field.type === 'date' ? String(value) : localDay(String(value), zone)
      const starts = weekStarts === 'SUNDAY' ? 0 : weekStarts === 'SATURDAY' ? 6 : 1
      const first = shiftDay(on, -((weekdayNumber(on) - starts + 7) % 7))
      const quarter = `${on.slice(0, 4)}-Q${Math.ceil(Number(on.slice(5, 7)) / 3)}`
      const found: Offer[] = [
        { words: `Keep only ${day(on)}`, node: { field: key, test: 'in', period: on } },
        { words: `Leave out ${day(on)}`, node: { field: key, test: 'not in', period: on } },
        { words: `From ${day(on)} on`, node: { field: key, test: 'from', period: on } },
        { words: `Up to ${day(on)}, that day with it`, node: { field: key, test: 'up to', period: on } },
        {
          words: 'That week',
          node: { field: key, test: 'in', period: `${first} to ${shiftDay(first, 6)}` },
        },
        { words: 'That month', node: { field: key, test: 'in', period: on.slice(0, 7) } },
        { words: 'That quarter', node: { field: key, test: 'in', period: quarter } },
        { words: 'That year', node: { field: key, test: 'in', period: on.slice(0, 4) } },
      ]
      if (field.type === 'moment') {
        const exact = toMinutes(writtenIn(Date.parse(String(value)), zone))
        const words = moment(String(value), zone)
        // Seconds are not shown, but they count: the record pointed at belongs.
        found.splice(
          4,
          0,
          { words: `From ${words} on`, node: { field: key, test: 'from', period: exact } },
          {
            words: `Before ${words}`,
            node: { field: key, test: 'before', period: exact },
          },
        )
      }
      return found
    }
    case 'choice':
    case 'person':
      return [
        { words: `Keep only ${shown}`, node: { field: key, test: 'is', value } },
        { words: `Leave out ${shown}`, node: { field: key, test: 'is not', value } },
      ]
    default:
      return [
        { words: `Keep only “${cell(field, value, zone)}”`, node: { field: key, test: 'is', value } },
        { words: `Leave out “${cell(field, value, zone)}”`, node: { field: key, test: 'is not', value } },
        {
          words: `Keep those that start with “${cell(field, value, zone)}”`,
          node: { field: key, test: 'starts with', text: String(value) },
        },
      ]
  }
}

/** What can be asked because of a part of a text that somebody selected. */
export function textOffers(field: FieldDescription, value: string, selected: string): Offer[] {
  const text = selected.replace(/\s+/g, ' ').trim()
  if (field.type !== 'text' || !text || !value.includes(text)) return []
  const found: Offer[] = [
    { words: `Contains “${text}”`, node: { field: field.key, test: 'contains', text } },
    { words: `Does not contain “${text}”`, node: { field: field.key, test: 'does not contain', text } },
  ]
  if (value.startsWith(text))
    found.splice(1, 0, {
      words: `Starts with “${text}”`,
      node: { field: field.key, test: 'starts with', text },
    })
  if (value.endsWith(text))
    found.push({ words: `Ends with “${text}”`, node: { field: field.key, test: 'ends with', text } })
  return found
}
