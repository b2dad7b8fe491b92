import type { Entered } from '@/api/client'

/** The most differences that are told of one entry; the file has them all. */
const MOST = 12

/** What changed, as short as it can be said. */
export function what(e: Entered): string {
  if (e.subject === 'sign-in') {
    const s = e.after as { by?: string; address?: string; name?: string } | null
    return s && typeof s === 'object'
      ? [s.name, s.by && `by ${s.by}`, s.address && `from ${s.address}`].filter(Boolean).join(', ')
      : plain(e.after)
  }
  if (e.subject === 'person' && e.action === 'added' && e.after && typeof e.after === 'object') {
    const { name, role, teams } = e.after as { name?: string; role?: string; teams?: string[] }
    return [name, role?.toLowerCase(), teams?.length && `in ${teams.join(', ')}`].filter(Boolean).join(', ')
  }
  if (isTree(e.before) && isTree(e.after)) {
    const found = differences(e.before, e.after)
    return found.length > MOST
      ? `${found.slice(0, MOST).join('; ')}; and ${found.length - MOST} more`
      : found.join('; ')
  }
  return [plain(e.before), plain(e.after)].filter(Boolean).join(' → ')
}

/** Each leaf that differs, with the way to it: `fields, Length, bands, Ship, to: 20 → 25`. */
function differences(before: unknown, after: unknown, way: string[] = []): string[] {
  if (JSON.stringify(before) === JSON.stringify(after)) return []
  if (isTree(before) && isTree(after)) {
    const was = members(before)
    const is = members(after)
    return [...new Set([...was.keys(), ...is.keys()])].flatMap((name) =>
      differences(was.get(name), is.get(name), [...way, name]),
    )
  }
  return [`${way.join(', ')}: ${plain(before) || 'nothing'} → ${plain(after) || 'nothing'}`]
}

/** The members of an object, and the parts of a list by what they are called. */
function members(tree: object): Map<string, unknown> {
  if (!Array.isArray(tree)) return new Map(Object.entries(tree))
  return new Map(tree.map((part, i) => [isTree(part) ? (title(part) ?? String(i + 1)) : plain(part), part]))
}

function title(part: object): string | undefined {
  const { label, name, key, fullName } = part as Record<string, unknown>
  const found = label ?? name ?? fullName ?? key
  return typeof found === 'string' && found ? found : undefined
}

function isTree(value: unknown): value is object {
  return typeof value === 'object' && value !== null
}

function plain(value: unknown): string {
  if (value == null) return ''
  if (!isTree(value)) return String(value)
  if (Array.isArray(value)) return value.map(plain).join(', ')
  return (
    title(value) ??
    Object.entries(value)
      .map(([k, v]) => `${k} ${plain(v)}`)
      .join(', ')
  )
}
