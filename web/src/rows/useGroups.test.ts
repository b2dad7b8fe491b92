import { beforeEach, describe, expect, it } from 'vitest'
import { DEFECTS } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import { useGroups } from './useGroups'
import type { Question } from './useRows'

const server = standIn()
const GROUPS = '/api/registers/defects/groups'
const ROWS = '/api/registers/defects/rows'
type Inside = { field: string; value?: string }

/** Severities, each with its months of raising, each with so many defects. */
const FOUND: Record<string, Record<string, number>> = {
  '4': { '2026-10-01': 2, '2026-11-01': 150 },
  '5': { '2026-11-01': 1 },
}
const sum = (months: Record<string, number>) => Object.values(months).reduce((a, b) => a + b, 0)
const question = (statement = '', more: Partial<Question> = {}): Question => ({
  register: 'defects',
  statement,
  order: ['due'],
  columns: ['number'],
  shape: { groups: [{ field: 'severity' }, { field: 'raised', by: 'month' }] },
  ...more,
})

beforeEach(() => {
  server.on('POST', GROUPS, (call: Call) => {
    const { inside } = call.body as { inside: Inside[] }
    if (!inside.length)
      return {
        groups: Object.entries(FOUND).map(([value, months]) => ({
          value,
          records: sum(months),
          figures: [],
        })),
        records: 153,
        figures: [],
        more: false,
      }
    const months = FOUND[inside[0]!.value!]!
    return {
      groups: Object.entries(months).map(([from, records]) => ({ value: from, from, records, figures: [] })),
      records: sum(months),
      figures: [],
      more: false,
    }
  })
  server.on('POST', ROWS, (call: Call) => {
    const { inside, after, limit } = call.body as { inside: Inside[]; after?: string; limit: number }
    const all = FOUND[inside[0]!.value!]![inside[1]!.value!]!
    const from = Number(after ?? 0)
    const rows = Array.from({ length: Math.min(limit, all - from) }, (_, i) => ({
      id: from + i + 1,
      values: {},
    }))
    return { rows, next: from + limit < all ? String(from + limit) : null, asOf: '2026-11-23T09:00:00Z' }
  })
  server.on('DELETE', '/api/questions/*', undefined)
})

const groups = () =>
  useGroups(
    () => DEFECTS,
    () => 'Europe/London',
  )
const words = (g: ReturnType<typeof groups>) =>
  g.lines.value
    .filter((l) => l.kind !== 'record')
    .map((l) => '  '.repeat(l.depth) + (l as { words: string }).words)
function press(g: ReturnType<typeof groups>, said: string) {
  const line = g.lines.value.find((l) => 'words' in l && l.words === said) as {
    toggle?(): void
    load?(): void
  }
  ;(line.toggle ?? line.load)!()
  return settled()
}

describe('groups', () => {
  it('of other records say so until they are there; another figure of the same says nothing', async () => {
    const g = groups()
    await g.ask(question())
    expect(g.stale.value).toBe(false)
    void g.ask(question('severity >= 4'))
    expect(g.stale.value).toBe(true)
    await settled()
    expect(g.stale.value).toBe(false)
    const { shape } = question()
    void g.ask(question('severity >= 4', { shape: { ...shape, measures: [{ function: 'count' }] } }))
    expect(g.stale.value).toBe(false)
    await settled()
    void g.ask(question('severity >= 4', { columns: ['number', 'due'] }))
    expect(g.stale.value).toBe(true)
    // A list has none.
    void g.ask(question('severity >= 4', { shape: {} }))
    expect(g.stale.value).toBe(false)
  })

  it('are lines that open and close, with the whole at the end', async () => {
    const g = groups()
    await g.ask(question())
    expect(words(g)).toEqual(['4', '5', 'All together'])
    await press(g, '4')
    expect(words(g)).toEqual(['4', '  October 2026', '  November 2026', '5', 'All together'])
    await press(g, 'October 2026')
    expect(g.lines.value.filter((l) => l.kind === 'record').map((l) => l.depth)).toEqual([2, 2])
    // What lies in a closed group is closed with it.
    await press(g, '4')
    expect(words(g)).toEqual(['4', '5', 'All together'])
    await press(g, '4')
    expect(g.lines.value.filter((l) => l.kind === 'record')).toHaveLength(0)
  })

  it('give their records page after page', async () => {
    const g = groups()
    await g.ask(question())
    await press(g, '4')
    await press(g, 'November 2026')
    expect(words(g)).toContain('    Show more: 100 of 150')
    await press(g, 'Show more: 100 of 150')
    expect(g.lines.value.filter((l) => l.kind === 'record')).toHaveLength(150)
    expect(words(g).some((w) => w.includes('Show more'))).toBe(false)
  })

  it('that were open stay open when the statement changes, and not when the grouping does', async () => {
    const g = groups()
    await g.ask(question())
    await press(g, '5')
    await g.ask(question('severity >= 4'))
    expect(words(g)).toEqual(['4', '5', '  November 2026', 'All together'])
    const inner = server.to('POST', GROUPS).at(-1)!.body as { inside: Inside[]; statement: string }
    expect(inner).toMatchObject({ statement: 'severity >= 4', inside: [{ field: 'severity', value: '5' }] })
    await g.ask(question('severity >= 4', { shape: { groups: [{ field: 'severity' }] } }))
    expect(words(g)).toEqual(['4', '5', 'All together'])
  })

  it('are opened and closed all at once', async () => {
    const g = groups()
    await g.ask(question())
    await g.openAll()
    expect(words(g)).toEqual([
      '4',
      '  October 2026',
      '  November 2026',
      '5',
      '  November 2026',
      'All together',
    ])
    g.closeAll()
    expect(words(g)).toEqual(['4', '5', 'All together'])
  })

  it('say that a part of them is not shown, where there are too many', async () => {
    server.on('POST', GROUPS, {
      groups: [{ value: '4', records: 2, figures: [] }],
      records: 900,
      figures: [],
      more: true,
    })
    const g = groups()
    await g.ask(question())
    expect(words(g)[1]).toContain('There are more than these 1 groups.')
  })

  it('that cannot be read are told, and what was open closes again', async () => {
    const g = groups()
    await g.ask(question())
    server.on('POST', GROUPS, refusal(503, 'too-slow', 'It took too long.'))
    await press(g, '4')
    expect(g.trouble.value).toBe('It took too long.')
    expect(words(g)).toEqual(['4', '5', 'All together'])
  })

  it('go when records are no longer put into groups', async () => {
    const g = groups()
    await g.ask(question())
    await g.ask(question('', { shape: {} }))
    expect(g.lines.value).toEqual([])
  })

  it('of an old question never stand beside a new one', async () => {
    const g = groups()
    server.hold(GROUPS)
    const first = g.ask(question())
    await settled()
    const second = g.ask(question('severity >= 5'))
    server.letGo()
    await Promise.all([first, second])
    expect(g.trouble.value).toBe('')
    expect(words(g)).toEqual(['4', '5', 'All together'])
    expect(g.slow.value).toBe(false)
  })

  it('give the figures of all where there are none, and tell when those have changed', async () => {
    const whole = (sum: number) => ({ groups: [], records: 7, figures: [sum], more: false })
    server.on('POST', GROUPS, whole(30))
    const g = groups()
    await g.ask(question('', { shape: { measures: [{ function: 'sum', field: 'cost' }] } }))
    expect(g.whole.value).toMatchObject({ words: 'All together', records: 7, figures: [30] })
    expect(server.to('POST', GROUPS)[0]!.body).toMatchObject({
      groups: [],
      inside: [],
      measures: [{ function: 'sum', field: 'cost' }],
    })
    await g.compare()
    expect(g.news.value).toBe(0)
    server.on('POST', GROUPS, whole(31))
    await g.compare()
    expect(g.news.value).toBe(1)
    await g.bringIn()
    expect([g.whole.value?.figures[0], g.news.value]).toEqual([31, 0])
    // Without figures nothing is asked, and nothing stands on the last line.
    await g.ask(question('', { shape: {} }))
    expect(g.whole.value).toBeUndefined()
  })

  it('say how many of them others have changed, their figures too, and bring that in when it is wanted', async () => {
    const level = (sums: (number | null)[], whole: number) => ({
      groups: sums.map((total, i) => ({ value: String(i), records: 2, figures: [total] })),
      records: 2 * sums.length,
      figures: [whole],
      more: false,
    })
    server.on('POST', GROUPS, level([10, 20, null], 30))
    const g = groups()
    const one = question('', {
      shape: { groups: [{ field: 'severity' }], measures: [{ function: 'sum', field: 'cost' }] },
    })
    await g.ask(one)
    await g.compare()
    expect(g.news.value).toBe(0)
    // The same records, one figure of which is another; the page stays as it is.
    server.on('POST', GROUPS, level([10, 25, null], 35))
    await g.compare()
    expect(g.news.value).toBe(1)
    const whole = () => g.lines.value.at(-1) as unknown as { figures: unknown[] }
    expect(whole().figures).toEqual([30])
    await g.bringIn()
    expect([whole().figures, g.news.value]).toEqual([[35], 0])
    // A group that came, one that went.
    server.on('POST', GROUPS, {
      ...level([10, 25], 35),
      groups: [...level([10, 25], 35).groups, { value: '9', records: 2, figures: [1] }],
    })
    await g.compare()
    expect(g.news.value).toBe(2)
    // A group that nobody sees any more is in the whole only.
    server.on('POST', GROUPS, level([10, 25, null], 36))
    await g.compare()
    expect(g.news.value).toBe(1)
    // As of another day nothing moves.
    await g.ask({ ...one, asOf: '2026-01-01' })
    const asked = server.to('POST', GROUPS).length
    await g.compare()
    expect(server.to('POST', GROUPS)).toHaveLength(asked)
  })
})
