import { isLosslessNumber, isSafeNumber, parse } from 'lossless-json'

/** So many digits in a row may be more than a number of the browser's holds. */
const MANY_DIGITS = /\d[\d.]{14}/

/** Members that are only drawn or reckoned with, never shown as the value of a record. */
const APPROXIMATE = new Set(['low', 'high'])

/** Whether some number of a JSON text may lose digits when it is read in the usual way. */
export const hasLongNumbers = (text: string) => MANY_DIGITS.test(text)

/**
 * Reads JSON (RFC 8259) without losing digits: a number that a double does not hold becomes its text, all others stay numbers.
 */
export function readExactly(text: string): unknown {
  return parse(text, (key, value) =>
    isLosslessNumber(value)
      ? isSafeNumber(value.value) || APPROXIMATE.has(key)
        ? Number(value.value)
        : value.value
      : value,
  )
}

/** A number as the API takes it in a criterion: as text where a number would lose digits. */
export type ExactNumber = number | { number: string }

/** A number as it was typed or came; `undefined` for what is none. */
export function exactNumber(raw: unknown): ExactNumber | undefined {
  const text = String(raw).trim()
  const value = Number(text)
  if (text === '' || !Number.isFinite(value)) return undefined
  return /^-?\d+(\.\d+)?$/.test(text) && !isSafeNumber(text.replace(/^(-?)0+(?=\d)/, '$1'))
    ? { number: text }
    : value
}

/** Whether a value of a criterion is a number that is written as text. */
export function isExact(value: unknown): value is { number: string } {
  return typeof value === 'object' && value !== null && 'number' in value
}

/** The text of a number in a criterion. */
export function numberText(value: unknown): string {
  return isExact(value) ? value.number : String(value)
}

const BEYOND = ['infinity', 'minus infinity', 'not a number']

/** Whether a value is beyond all numbers or dates, and comes in words. */
export const isBeyond = (value: unknown): value is string => BEYOND.includes(value as string)

/** Writes numbers in figures, exactly: a text of figures is written with all of them. */
export function written(format: Intl.NumberFormat, value: unknown): string {
  return format.format(typeof value === 'number' ? value : (String(value) as Intl.StringNumericLiteral))
}
