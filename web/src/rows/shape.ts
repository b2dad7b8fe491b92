import type { components } from '@/api/schema'
import type { FieldDescription, Register } from '@/api/client'
import { cell, day, MONTH_NAMES, number } from '@/platform/format'
import { readOrder } from './orders'

/** How records are shown beyond their columns and order; nothing in it changes which records match. */
export type Shape = Partial<components['schemas']['Shape']>
export type Grouping = components['schemas']['Grouping']
export type Column = components['schemas']['Column']
export type Part = components['schemas']['Part']
export type By = NonNullable<Grouping['by']>
export type Group = components['schemas']['Group']

export const MOST_GROUPS = 3

/** Without what says nothing, so that two shapes that show the same are the same. */
export function tidy(shape: Shape): Shape {
  const columns = Object.fromEntries(
    Object.entries(shape.columns ?? {})
      .map(([key, c]) => [
        key,
        Object.fromEntries(
          Object.entries(c).filter(([, v]) => v !== undefined && v !== null && v !== false && v !== ''),
        ),
      ])
      .filter(([, c]) => Object.keys(c as object).length),
  ) as Record<string, Column>
  const found: Record<string, unknown> = {}
  if (Object.keys(columns).length) found.columns = columns
  if (shape.density) found.density = shape.density
  if (shape.wrap) found.wrap = true
  if (shape.groups?.length)
    found.groups = shape.groups.map((g) =>
      Object.fromEntries(
        Object.entries({
          field: g.field,
          by: g.by,
          arranged: g.arranged === 'ascending' ? undefined : g.arranged,
        }).filter(([, v]) => v),
      ),
    )
  if (shape.totals?.length) found.totals = shape.totals
  if (shape.take)
    found.take = Object.fromEntries(
      Object.entries(shape.take).filter(([, v]) => v !== null && v !== undefined),
    )
  if (shape.marked) found.marked = true
  if (shape.running) found.running = shape.running
  return found as Shape
}

/** The shape as a link carries it. */
export const written = (shape: Shape): string => JSON.stringify(tidy(shape))

/** A shape from a link; what is no shape is as usual. */
export function readShape(text: string): Shape {
  try {
    const found: unknown = JSON.parse(text)
    return typeof found === 'object' && found !== null && !Array.isArray(found) ? tidy(found as Shape) : {}
  } catch {
    return {}
  }
}

/** Whether records can be put into groups by a field. */
export const groupable = (f: FieldDescription) => f.groupings.length > 0

/** What groups of a field can be, the usual first. */
export const waysToGroup = (f: FieldDescription) => f.groupings as By[]

/** A level in words: `month of Due`, `Site`. */
export function levelWords(register: Register, grouping: Grouping): string {
  const f = register.fields.find((one) => one.key === grouping.field)
  const label = f?.label ?? grouping.field
  const by = grouping.by ?? (f && waysToGroup(f)[0]) ?? 'value'
  return by === 'value' ? label : `${by} of ${label}`
}

/** What the records of a group have in common, as people read it. */
export function groupWords(register: Register, grouping: Grouping, group: Group, zone: string): string {
  const f = register.fields.find((one) => one.key === grouping.field)!
  if (group.value === undefined || group.value === null)
    return grouping.by === 'band' ? `in no band of ${f.label}` : `no ${f.label}`
  if (group.from) {
    const [year, month] = group.from.split('-').map(Number) as [number, number]
    switch (grouping.by ?? 'month') {
      case 'day':
        return day(group.from)
      case 'week':
        return `week of ${day(group.from)}`
      case 'quarter':
        return `${MONTH_NAMES[month - 1]!.slice(0, 3)} to ${MONTH_NAMES[month + 1]!.slice(0, 3)} ${year}`
      case 'year':
        return String(year)
      case 'fiscal quarter':
      case 'fiscal year':
        return group.label ?? group.value
      default:
        return `${MONTH_NAMES[month - 1]} ${year}`
    }
  }
  if (grouping.by === 'band') return group.value
  if (group.label) return group.label
  if (f.type === 'yes/no') return group.value === 'true' ? `${f.label}: yes` : `${f.label}: no`
  return cell(f, group.value, zone)
}

/** The part that is shown, in words. */
export function partWords(part: Part): string {
  if (part.sample) return `${number(part.sample)} picked at random`
  if (part.first) return `the first ${number(part.first)}`
  return `rows ${number(part.from ?? 1)} to ${number(part.to ?? 1)}`
}

/** How many records of so many a part shows. */
export function partSize(part: Part | null | undefined, matching: number): number {
  if (!part) return matching
  if (part.sample) return Math.min(part.sample, matching)
  if (part.first) return Math.min(part.first, matching)
  return Math.max(0, Math.min(matching, part.to ?? 0) - (part.from ?? 1) + 1)
}

const labelOf = (register: Register, key: string) => register.fields.find((f) => f.key === key)?.label ?? key

/** What is unusual about how the records are shown, as a sentence goes on; empty for a plain list. */
export function shapeWords(register: Register, shape: Shape): string {
  const said: string[] = []
  if (shape.take) said.push(partWords(shape.take))
  if (shape.groups?.length)
    said.push('in groups by ' + shape.groups.map((g) => levelWords(register, g)).join(', then '))
  if (shape.totals?.length && !shape.groups?.length)
    said.push('with sums of ' + shape.totals.map((key) => labelOf(register, key)).join(', '))
  if (shape.marked) said.push('all records, matches marked')
  if (shape.running) {
    const label = labelOf(register, register.running ?? '')
    said.push(
      `running ${label.charAt(0).toLowerCase() + label.slice(1)} from ${shape.running === 'zero' ? 'zero' : 'the beginning'}`,
    )
  }
  return said.join('; ')
}

/** Whether the records stand in the order that a running total needs: by the main date alone. */
export function runs(register: Register, order: string[]): boolean {
  const first = order.length === 1 ? readOrder(order[0]!) : undefined
  return first !== undefined && first.field === register.mainField && !first.emptiesFirst
}
