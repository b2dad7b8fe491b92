import type { Outline } from '@/api/client'

/** A part of a statement in the words in which the page shows it. */
export function partWords(part: Outline): string {
  if (part.kind === 'criterion') return [part.fieldWords, part.verb, part.object].filter(Boolean).join(' ')
  if (part.kind === 'off') return `${partWords(part.parts[0]!)} (off)`
  const joined = part.parts
    .map((p) => (p.parts.length > 1 ? `(${partWords(p)})` : partWords(p)))
    .join(part.kind === 'all' ? ' and ' : ' or ')
  return part.kind === 'none' ? `none of: ${joined}` : joined
}

/** The part at a path of the statement, if there is one. */
export function partAt(outline: Outline | undefined, path: string): Outline | undefined {
  if (!outline || outline.path === path) return outline
  return outline.parts.map((p) => partAt(p, path)).find((found) => found !== undefined)
}
