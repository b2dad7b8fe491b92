import type { FieldDescription, RecordChange, Register } from '@/api/client'
import { cell, counted } from '@/platform/format'

type Values = Record<string, unknown>

/** How many values of one step are told. */
const MOST_TOLD = 6

/** What a step did to a record, in words. */
export function told(register: Register, step: RecordChange, zone: string): string {
  const after = (step.after ?? {}) as Values
  const before = (step.before ?? {}) as Values
  const fields = register.fields.filter((f) => f.key in after)
  const words = fields.slice(0, MOST_TOLD).map((field) => {
    const now = cell(field, after[field.key], zone)
    return field.key in before
      ? `${field.label}: ${cell(field, before[field.key], zone)} → ${now}`
      : `${field.label}: ${now}`
  })
  const more = fields.length - words.length
  return [...words, ...(more > 0 ? [`and ${counted(more, 'more field')}`] : [])].join('; ')
}

/** A field that has another value now than it had then. */
export interface Difference {
  field: FieldDescription
  now: unknown
  then: unknown
}

/**
 * What is otherwise now than it was after a step.
 *
 * @param now the values that the record has
 * @param steps what was done to it, the latest first
 * @param at how many steps are gone back; all of them is before the first that is known
 */
export function differing(register: Register, now: Values, steps: RecordChange[], at: number): Difference[] {
  const then: Values = { ...now }
  for (const { before, after } of steps.slice(0, at)) {
    // Of a record that was taken away all values that it had are told.
    if (before && !after) for (const { key } of register.fields) then[key] = null
    Object.assign(then, before ?? {})
  }
  return register.fields
    .filter((f) => f.origin === 'COLUMN' && !isSame(now[f.key], then[f.key]))
    .map((field) => ({ field, now: now[field.key] ?? null, then: then[field.key] ?? null }))
}

function isSame(one: unknown, other: unknown): boolean {
  return JSON.stringify(one ?? null) === JSON.stringify(other ?? null)
}

/** How many steps can be gone back: before the first of them the record was not there, where that one made it. */
export function stepsBack(steps: RecordChange[]): number {
  const first = steps.at(-1)
  return first?.before && first.after ? steps.length : steps.length - 1
}
