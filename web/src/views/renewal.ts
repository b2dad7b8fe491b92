import type { FieldDescription, Register } from '@/api/client'

/**
 * What was changed under an open page, in a sentence.
 *
 * @param organisation the organisation's new zone if it has another, and whether its week begins on another day
 */
export function changeWords(
  was: Register,
  is: Register,
  organisation: { zone?: string; week?: boolean },
): string {
  const found: string[] = []
  if (organisation.zone) found.push(`days are those of ${organisation.zone} now`)
  if (organisation.week) found.push('the week begins on another day')
  found.push(...fieldWords(was.fields, is.fields))
  if (was.limits.join() !== is.limits.join() || was.hiddenFields !== is.hiddenFields)
    found.push('you see other records or fields of it')
  const what = found.length
    ? found.join('; ')
    : 'the organisation’s calendar, or what is known of you, changed'
  return `While you looked at it: ${what}. Everything was read anew.`
}

function fieldWords(was: FieldDescription[], is: FieldDescription[]): string[] {
  const before = new Map(was.map((f) => [f.key, f]))
  const bands = is.filter((f) => {
    const old = before.get(f.key)
    return old && JSON.stringify(old.bands) !== JSON.stringify(f.bands)
  })
  const bare = (f: FieldDescription) => JSON.stringify({ ...f, bands: undefined, tests: undefined })
  const others = is.some((f) => {
    const old = before.get(f.key)
    return !old || bare(old) !== bare(f)
  })
  const gone = was.some((f) => !is.some((g) => g.key === f.key))
  return [
    ...(bands.length ? [`the bands of ${bands.map((f) => f.label).join(', ')} changed`] : []),
    ...(others || gone ? ['the register’s fields changed'] : []),
  ]
}
