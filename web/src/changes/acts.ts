import type { FieldDescription, Schemas } from '@/api/client'
import { meant } from '@/rows/typed'

export type ManyChange = Schemas['ManyChange']
type ValueChange = Schemas['ValueChange']
export type Act = ValueChange['act']
export type Unit = 'MINUTE' | 'HOUR' | 'DAY' | 'WEEK' | 'MONTH' | 'QUARTER' | 'YEAR'

/** What becomes of one field, as it is put together. */
export interface Line {
  field: string
  act: Act
  /** a value, an amount or a tag, as it is typed */
  text: string
  count: number
  unit: Unit
  /** the key of the field that the value is taken from */
  from: string
}

export const newLine = (field: string): Line => ({
  field,
  act: 'SET',
  text: '',
  count: 1,
  unit: 'DAY',
  from: '',
})

const WORDS: Record<Act, string> = {
  SET: 'becomes',
  ADD: 'is more by',
  MOVE: 'is later by',
  TAG: 'gets the tag',
  UNTAG: 'loses the tag',
  TAKE: 'becomes what is in',
}
export const actWords = (act: Act) => WORDS[act]

/** What can be done with the values of a field, the usual one first. */
export function actsOf(field: FieldDescription, others: FieldDescription[]): Act[] {
  const acts: Act[] = field.type === 'tags' ? ['TAG', 'UNTAG', 'SET'] : ['SET']
  if (field.type === 'number' || field.type === 'money' || field.type === 'duration') acts.push('ADD')
  if (field.type === 'date' || field.type === 'moment') acts.push('MOVE')
  if (alike(field, others).length) acts.push('TAKE')
  return acts
}

/** The fields that a value can be taken from. */
export const alike = (field: FieldDescription, others: FieldDescription[]) =>
  others.filter((o) => o.type === field.type && o.key !== field.key && o.origin === 'COLUMN')

export const unitsOf = (field: FieldDescription): Unit[] =>
  field.type === 'moment'
    ? ['MINUTE', 'HOUR', 'DAY', 'WEEK', 'MONTH', 'QUARTER', 'YEAR']
    : ['DAY', 'WEEK', 'MONTH', 'QUARTER', 'YEAR']

/**
 * What a line asks for.
 *
 * @throws Error with a sentence where its value does not read
 */
export function asked(line: Line, field: FieldDescription, zone: string): ValueChange {
  const { act } = line
  switch (act) {
    case 'SET':
      return { field: line.field, act, value: meant(field, line.text, zone) as never }
    case 'ADD':
      if (!line.text.trim()) throw new Error(`Say by how much ${field.label} is more; with a minus for less.`)
      return { field: line.field, act, value: line.text.trim() as never }
    case 'TAG':
    case 'UNTAG':
      if (!line.text.trim()) throw new Error(`Say which tag.`)
      return { field: line.field, act, value: line.text.trim() as never }
    case 'MOVE':
      if (!Number.isInteger(line.count) || line.count === 0)
        throw new Error(`Say by how many ${field.label} is later; with a minus for earlier.`)
      return { field: line.field, act, count: line.count, unit: line.unit }
    case 'TAKE':
      if (!line.from) throw new Error(`Say from which field ${field.label} is taken.`)
      return { field: line.field, act, from: line.from }
  }
}
