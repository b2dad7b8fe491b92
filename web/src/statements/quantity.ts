import type { FieldDescription } from '@/api/client'
import { durationIso, durationSeconds, durationWords } from '@/platform/duration'
import { exactNumber, isExact, numberText, type ExactNumber } from '@/platform/exact'

/** A number or a duration as the API takes it in a criterion. */
export type Quantity = ExactNumber | { duration: string }

const isDuration = (value: unknown): value is { duration: string } =>
  typeof value === 'object' && value !== null && 'duration' in value

/** Whether a value of a criterion is a quantity that is no plain number. */
export const isWrittenQuantity = (value: unknown): value is { number: string } | { duration: string } =>
  isExact(value) || isDuration(value)

/** Whether a value of a criterion is a quantity at all. */
export const isQuantity = (value: unknown): value is Quantity =>
  typeof value === 'number' || isWrittenQuantity(value)

/** What was typed as a quantity of a field; `undefined` for what is none. */
export function typedQuantity(field: FieldDescription, raw: string): Quantity | undefined {
  if (field.type !== 'duration') return exactNumber(raw)
  const seconds = durationSeconds(raw)
  return seconds === undefined ? undefined : { duration: durationIso(seconds) }
}

/** The value of a record as a quantity; of a duration it comes in seconds. */
export const quantityOf = (field: FieldDescription, value: unknown): Quantity | undefined =>
  field.type === 'duration' ? { duration: durationIso(value as number | string) } : exactNumber(value)

/** A quantity as the values of records are told apart: a number, or the seconds of a duration. */
export const quantityKey = (value: Quantity): string =>
  isDuration(value) ? (durationSeconds(value.duration) ?? '') : numberText(value)

/** A quantity of a criterion as it is typed. */
export const quantityText = (value: unknown): string =>
  isDuration(value) ? durationWords(durationSeconds(value.duration) ?? '0') : numberText(value)

/** A quantity for comparing; large ones are only about right. */
export const quantitySize = (value: Quantity): number => Number(quantityKey(value))

/** What is said of a text that is no quantity of a field. */
export const quantityWanted = (field: FieldDescription): string =>
  field.type === 'duration'
    ? 'Write a duration, such as 2 h 30 min or 3 days.'
    : 'Write a number, such as 3 or 12.50.'
