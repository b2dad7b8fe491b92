import { describe, expect, it } from 'vitest'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import { useRows, type Question } from './useRows'

const server = standIn()
const question = (statement = '', more: Partial<Question> = {}): Question => ({
  register: 'defects',
  statement,
  order: ['due'],
  columns: ['number'],
  ...more,
})
const record = (id: number, value = `n${id}`) => ({ id, values: { number: value } })
const records = (from: number, to: number) =>
  Array.from({ length: to - from + 1 }, (_, i) => record(from + i))

const ROWS = '/api/registers/defects/rows'
const COUNT = '/api/registers/defects/count'
const PARTS = '/api/registers/defects/parts'

/** Answers pages of a hundred out of so many records, at a fixed moment. */
function serve(all: { id: number; values: unknown }[]) {
  server.on('POST', ROWS, (call: Call) => {
    const { after, limit } = call.body as { after?: string; limit: number }
    const from = after ? Number(after) : 0
    const rows = all.slice(from, from + limit)
    return {
      rows,
      asOf: '2026-11-23T09:00:00Z',
      next: from + limit < all.length ? String(from + limit) : null,
    }
  })
  server.on('POST', COUNT, { matching: all.length, total: 24000, exact: true })
  server.on('POST', PARTS, { parts: [{ path: '', alone: all.length, without: 24000 }] })
  server.on('DELETE', '/api/questions/*', undefined)
}

describe('the records of a question', () => {
  it('come page after page, every one read at the moment of the first', async () => {
    serve(records(1, 250))
    const answer = useRows()
    await answer.ask(question())
    expect(answer.rows.value).toHaveLength(100)
    expect(answer.done.value).toBe(false)
    answer.more()
    answer.more()
    await settled()
    answer.more()
    await settled()
    expect(answer.rows.value.map((r) => r.id)).toEqual(records(1, 250).map((r) => r.id))
    expect(answer.done.value).toBe(true)
    answer.more()
    await settled()
    const asked = server.to('POST', ROWS).map((c) => c.body as { asOf?: string; after?: string })
    expect(asked.map((b) => b.after)).toEqual([undefined, '100', '200'])
    expect(asked.map((b) => b.asOf)).toEqual([undefined, '2026-11-23T09:00:00Z', '2026-11-23T09:00:00Z'])
  })

  it('are counted exactly after a capped count, and the margin follows them', async () => {
    serve(records(1, 3))
    let counts = 0
    server.on('POST', COUNT, (call: Call) => {
      counts++
      return (call.body as { exact?: boolean }).exact
        ? { matching: 34567, total: 5000000, exact: true }
        : { matching: 10000, total: 5000000, exact: false }
    })
    const answer = useRows()
    await answer.ask(question('severity >= 4'))
    expect(counts).toBe(2)
    expect(answer.count.value).toEqual({ matching: 34567, total: 5000000, exact: true })
    expect(answer.parts.value.get('')).toMatchObject({ without: 24000 })
    expect(server.calls.findLastIndex((c) => c.path === PARTS)).toBeGreaterThan(
      server.calls.findIndex((c) => c.path === ROWS),
    )
  })

  it('are those that were asked for while the page was loading, where they are the same', async () => {
    serve(records(1, 3))
    const address = '/api/views/7/rows?limit=100&readerZone=Europe%2FLondon'
    const rows = { rows: [record(77)], asOf: '2026-11-23T09:00:00Z', next: null }
    const early = (answer: Promise<Response>) => {
      window.deftEarly = { asked: { [address]: { at: performance.now(), answer, stop: () => {} } } }
    }
    const viewed = { ...question('severity >= 4'), early: { view: '7', zone: 'Europe/London' } }
    early(
      Promise.resolve(
        new Response(JSON.stringify(rows), { headers: { 'Content-Type': 'application/json' } }),
      ),
    )
    const answer = useRows()
    await answer.ask(viewed)
    expect(answer.rows.value.map((r) => r.id)).toEqual([77])
    expect(server.to('POST', ROWS)).toHaveLength(0)
    // They are taken once, and asked for again where they could not be had.
    await answer.ask(viewed)
    expect(server.to('POST', ROWS)).toHaveLength(1)
    server.on('GET', '/api/views/7/rows', rows)
    early(Promise.reject(new TypeError('no network')))
    await answer.ask(viewed)
    expect(server.to('GET', '/api/views/7/rows')).toHaveLength(1)
    expect(answer.rows.value.map((r) => r.id)).toEqual([77])
    delete window.deftEarly
  })

  it('of a small register are counted with their margin, in one answer', async () => {
    serve(records(1, 3))
    server.on('POST', PARTS, {
      parts: [{ path: '', alone: 3, without: 24000 }],
      count: { matching: 3, total: 24000, exact: true },
      later: false,
    })
    const answer = useRows()
    await answer.ask(question('severity >= 4'))
    expect(answer.count.value).toEqual({ matching: 3, total: 24000, exact: true })
    expect(answer.parts.value.get('')).toMatchObject({ without: 24000 })
    expect(answer.counted.value).toBe('counted')
    expect(server.to('POST', PARTS).map((c) => (c.body as { ifSmall?: boolean }).ifSmall)).toEqual([true])
    expect(server.to('POST', COUNT)).toHaveLength(0)
  })

  it('of an old question never stand beside a new one, and the old one is stopped on the server', async () => {
    serve(records(1, 3))
    server.hold(ROWS)
    const answer = useRows()
    const first = answer.ask(question('severity >= 4'))
    await settled()
    const name = server.to('POST', ROWS)[0]!.headers.get('X-Question')
    const second = answer.ask(question('severity >= 5'))
    server.on('POST', ROWS, { rows: [record(77)], asOf: '2026-11-23T09:00:00Z', next: null })
    server.letGo()
    await Promise.all([first, second])
    expect(answer.rows.value.map((r) => r.id)).toEqual([77])
    expect(answer.stopped.value).toBe(false)
    expect(server.calls.map((c) => `${c.method} ${c.path}`)).toContain(`DELETE /api/questions/${name}`)
  })

  it('can be stopped while they are waited for, and asked for again', async () => {
    serve(records(1, 3))
    server.hold(ROWS)
    const answer = useRows()
    const asking = answer.ask(question())
    await settled()
    answer.stop()
    await asking
    expect(answer.stopped.value).toBe(true)
    expect(answer.loading.value).toBe(false)
    expect(answer.trouble.value).toBe('')
    server.letGo()
    answer.again()
    await settled()
    expect(answer.stopped.value).toBe(false)
    expect(answer.rows.value).toHaveLength(3)
  })

  it('say in the words of the server why they cannot come; the margin is not asked for then', async () => {
    serve([])
    server.on('POST', ROWS, refusal(422, 'field-gone', 'There is no field “price” any more.'))
    const answer = useRows()
    await answer.ask(question('price > 1'))
    expect(answer.trouble.value).toBe('There is no field “price” any more.')
    expect(answer.done.value).toBe(true)
    expect(server.to('POST', PARTS).filter((c) => !(c.body as { ifSmall?: boolean }).ifSmall)).toEqual([])
  })
})

describe('the number at the head', () => {
  it('comes all the same when something changes while it is counted', async () => {
    serve(records(1, 3))
    server.on('POST', COUNT, (call: Call) =>
      (call.body as { exact?: boolean }).exact
        ? { matching: 24000, total: 24000, exact: true }
        : { matching: 10000, total: 24000, exact: false },
    )
    const answer = useRows()
    server.hold(COUNT)
    const asking = answer.ask(question())
    await settled()
    const comparing = answer.compare()
    await settled()
    server.letGo()
    await Promise.all([asking, comparing])
    await settled()
    expect(answer.count.value).toMatchObject({ matching: 24000, exact: true })
  })
})

describe('what is dropped', () => {
  it('comes in no more, and what is there stays until it is asked anew', async () => {
    serve(records(1, 3))
    const answer = useRows()
    await answer.ask(question())
    const before = answer.rows.value
    server.hold(ROWS)
    serve(records(7, 12))
    const comparing = answer.compare()
    await settled()
    answer.drop()
    server.letGo()
    await comparing
    expect(answer.rows.value).toBe(before)
    expect(answer.news.value).toBeUndefined()
    expect(answer.stopped.value).toBe(false)
    await answer.ask(question('severity >= 4'))
    expect(answer.rows.value).toHaveLength(6)
  })
})

describe('what others change', () => {
  it('is told without touching the page, and brought in when it is wanted', async () => {
    serve([record(1), record(2), record(3)])
    const answer = useRows()
    await answer.ask(question())
    const before = answer.rows.value
    serve([record(1), record(9), record(3, 'other')])
    await answer.compare()
    expect(answer.rows.value).toBe(before)
    expect(answer.news.value).toEqual({ fresh: 1, gone: 1, changed: 1 })
    answer.bringIn()
    expect(answer.rows.value.map((r) => r.id)).toEqual([1, 9, 3])
    expect(answer.news.value).toBeUndefined()
  })

  it('beyond the last record of the page is another number, which is held until it is brought in', async () => {
    serve(records(1, 250))
    const answer = useRows()
    await answer.ask(question())
    serve([...records(1, 150), record(900), ...records(151, 250)])
    await answer.compare()
    const now = { matching: 251, total: 24000, exact: true }
    expect(answer.news.value).toEqual({ fresh: 0, gone: 0, changed: 0, matching: now })
    expect(answer.count.value?.matching).toBe(250)
    answer.bringIn()
    expect(answer.count.value).toEqual(now)
  })

  it('pushes records down without calling them gone', async () => {
    serve(records(1, 250))
    const answer = useRows()
    await answer.ask(question())
    serve([...records(900, 904), ...records(1, 250)])
    await answer.compare()
    expect(answer.news.value).toMatchObject({ fresh: 5, gone: 0, changed: 0 })
    // The head goes with the records below it.
    expect(answer.count.value?.matching).toBe(250)
    expect(answer.news.value?.matching?.matching).toBe(255)
  })

  it('is not looked for as of another day', async () => {
    serve(records(1, 3))
    const answer = useRows()
    await answer.ask(question('', { asOf: '2026-01-01' }))
    await answer.compare()
    expect(server.to('POST', ROWS)).toHaveLength(1)
  })

  it('fills an empty page at once, which has no place to lose', async () => {
    serve([])
    const answer = useRows()
    await answer.ask(question())
    serve(records(1, 2))
    await answer.compare()
    expect(answer.rows.value).toHaveLength(2)
  })
})
