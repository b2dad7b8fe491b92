import type { Register, Share, Step } from '@/api/client'
import { orderWords } from '@/rows/orders'
import { figureWords, shapeWords, written, type Shape } from '@/rows/shape'
import { granted, MAY_WORDS } from './store'

/** What the trail keeps of a view after a step that made a version of it. */
export interface State {
  name: string
  purpose: string
  statement: string
  columns: string[]
  order: string[]
  zone?: string | null
  shape?: Shape
  labels?: string[]
  locked?: number[]
  added?: { key: string; label: string; calculation: string }[]
}

/** The state that one side of a step says; none for steps that made no version, such as sharing. */
export const stateOf = (side: unknown): State | undefined =>
  side && typeof side === 'object' && 'statement' in side ? (side as State) : undefined

/** What a step changed beside the statement, each thing in words. */
export function changesOf(register: Register, step: Step): string[] {
  const was = stateOf(step.before)
  const is = stateOf(step.after)
  if (!was || !is) return told(step)
  const both = [...(is.added ?? []), ...(was.added ?? [])]
  const label = (key: string) => [...register.fields, ...both].find((f) => f.key === key)?.label ?? key
  const found: string[] = []
  found.push(
    ...gained(
      'calculated here',
      ...([was, is].map(({ added }) => (added ?? []).map(calculated)) as [string[], string[]]),
    ),
  )
  if (was.name !== is.name) found.push(`name: “${was.name}” → “${is.name}”`)
  if (was.purpose !== is.purpose)
    found.push(`purpose: “${was.purpose || 'nothing'}” → “${is.purpose || 'nothing'}”`)
  const columns = gained('columns', was.columns.map(label), is.columns.map(label))
  found.push(...columns)
  if (!columns.length && was.columns.join() !== is.columns.join()) found.push('columns: in another order')
  if (was.order.join() !== is.order.join())
    found.push(
      `order: ${orderWords(register, was.order) || 'none'} → ${orderWords(register, is.order) || 'none'}`,
    )
  if ((was.zone ?? '') !== (is.zone ?? '')) found.push(`days of: ${is.zone || 'the organisation'}`)
  if (written(was.shape ?? {}) !== written(is.shape ?? {}))
    found.push(...reshaped(register, was.shape, is.shape))
  found.push(...gained('labels', was.labels ?? [], is.labels ?? []))
  if (JSON.stringify(was.locked ?? []) !== JSON.stringify(is.locked ?? []))
    found.push(`locked parts: ${(is.locked ?? []).map((i) => i + 1).join(', ') || 'none'}`)
  return found
}

const calculated = (f: { label: string; calculation: string }) => `${f.label} = ${f.calculation}`

/** How the records are shown, where that is said in words; widths and the like are only said to have changed. */
function reshaped(register: Register, was: Shape = {}, is: Shape = {}): string[] {
  const [before, after] = [was, is].map((s) => shapeWords(register, s) || 'a plain list')
  const found = before === after ? [] : [`shown as: ${before} → ${after}`]
  const words = (s: Shape) => (s.measures ?? []).map((m) => figureWords(register, m))
  const figures = gained('figures', words(was), words(is))
  const looks = ({ columns, density, wrap }: Shape) => written({ columns, density, wrap })
  if (looks(was) !== looks(is)) found.push('the look of columns: changed')
  return [...found, ...figures]
}

function gained(what: string, was: string[], is: string[]): string[] {
  const more = is.filter((one) => !was.includes(one))
  const less = was.filter((one) => !is.includes(one))
  return more.length || less.length
    ? [`${what}: ${[...more.map((m) => `+ ${m}`), ...less.map((l) => `− ${l}`)].join(', ')}`]
    : []
}

/** Steps that are no versions: sharing, handing over. */
function told(step: Step): string[] {
  if (Array.isArray(step.after)) {
    const words = (s: Share) => `${s.label}, ${MAY_WORDS[granted(s)]}`
    return gained(
      'shared with',
      ((step.before as Share[] | null) ?? []).map(words),
      (step.after as Share[]).map(words),
    )
  }
  const before = step.before as { owner?: string; bands?: Record<string, string> } | null
  const after = step.after as { owner?: string; bands?: Record<string, string> } | null
  if (after?.bands)
    return Object.entries(after.bands).map(
      ([label, is]) => `bands of ${label}: ${before?.bands?.[label]} → ${is}`,
    )
  return after?.owner ? [`owner: ${before?.owner} → ${after.owner}`] : []
}
