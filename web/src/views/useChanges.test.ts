import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { DEFECTS, using } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import { add, remove, toggleOff, type Node } from '@/statements/tree'
import { useChanges } from './useChanges'
import { useQuestion } from './useQuestion'

const server = standIn()
const STATEMENT = '/api/registers/defects/statement'
let leave: () => void = () => {}

const on = (field: string): Node => ({ field, test: 'is', value: 'x' })

beforeEach(() => {
  server.on('GET', '/api/registers/defects', DEFECTS)
  // The words of a statement are its tree as JSON here.
  server.on('POST', STATEMENT, (call: Call) => {
    const { statement, condition } = call.body as { statement?: string; condition?: Node }
    const tree = condition ?? (statement ? JSON.parse(statement) : { all: [] })
    return {
      statement: tree.all?.length === 0 ? '' : JSON.stringify(tree),
      condition: tree,
      outline: { kind: 'all', path: '', parts: [] },
      findings: [],
      asks: [],
    }
  })
  server.on('POST', '/api/registers/defects/rows', { rows: [], asOf: '2026-11-23T09:00:00Z', next: null })
  server.on('POST', '/api/registers/defects/count', { matching: 0, total: 24000, exact: true })
  server.on('POST', '/api/registers/defects/parts', { parts: [] })
  server.on('DELETE', '/api/questions/*', undefined)
})
afterEach(() => {
  leave()
  leave = () => {}
})

async function at(...fields: string[]) {
  const start = encodeURIComponent(JSON.stringify({ all: fields.map(on) }))
  const used = await using('/registers/defects?where=' + start, () => {
    const q = useQuestion()
    return { q, changes: useChanges(q) }
  })
  leave = used.leave
  const asked = () =>
    (JSON.parse(used.made.q.where.value) as { all: Node[] }).all.map((p) =>
      String('off' in p ? `${(p.off as Node).field} off` : p.field),
    )
  return { ...used.made, router: used.router, asked }
}

describe('changes of a statement', () => {
  it('made quickly one after the other are all made', async () => {
    const { changes, asked } = await at('a', 'b', 'c')
    server.hold(STATEMENT)
    const first = changes.change((t) => toggleOff(t, '/all/0'), { paths: ['/all/0'] })
    const second = changes.change((t) => toggleOff(t, '/all/2'), { paths: ['/all/2'] })
    await settled()
    server.letGo()
    await Promise.all([first, second])
    expect(asked()).toEqual(['a off', 'b', 'c off'])
  })

  it('about a part that is another one by then are not made, and that is said', async () => {
    const { changes, asked } = await at('a', 'b', 'c')
    const first = changes.change((t) => remove(t, '/all/0'), { paths: ['/all/0'] })
    // Pressed twice: the second was about the part that is gone, not about the one that took its place.
    const second = changes.change((t) => remove(t, '/all/0'), { paths: ['/all/0'] })
    await Promise.all([first, second])
    expect(asked()).toEqual(['b', 'c'])
    expect(changes.mishap.value).toContain('has changed there meanwhile')
  })

  it('that cannot be made say why, and leave the statement', async () => {
    const { changes, asked } = await at('a')
    await changes.change(() => undefined, { otherwise: 'Not like this.' })
    expect(changes.mishap.value).toBe('Not like this.')
    expect(asked()).toEqual(['a'])
  })

  it('that the server refuses say so, and the next is made', async () => {
    const { changes, asked } = await at('a', 'b')
    server.on('POST', STATEMENT, refusal(422, 'bad-condition', 'That does not fit.'))
    await changes.change((t) => remove(t, '/all/0'))
    expect(changes.mishap.value).toBe('That does not fit.')
    server.on('POST', STATEMENT, (call: Call) => {
      const { statement, condition } = call.body as { statement?: string; condition?: Node }
      const tree = condition ?? JSON.parse(statement!)
      return { statement: JSON.stringify(tree), condition: tree, outline: {}, findings: [], asks: [] }
    })
    await changes.change((t) => toggleOff(t, '/all/1'))
    expect(asked()).toEqual(['a', 'b off'])
    expect(changes.mishap.value).toBe('')
  })

  it('take nobody back who has left meanwhile', async () => {
    const { changes, router } = await at('a', 'b')
    server.hold(STATEMENT)
    const changing = changes.change((t) => remove(t, '/all/0'))
    await settled()
    await router.push('/elsewhere')
    server.letGo()
    await changing
    expect(router.currentRoute.value.fullPath).toBe('/elsewhere')
  })

  it('take nobody back who has gone to the register as it is', async () => {
    const { q, changes, router } = await at('a', 'b')
    server.hold(STATEMENT)
    const changing = changes.change((t) => remove(t, '/all/0'))
    await settled()
    const going = router.push('/registers/defects')
    server.letGo()
    await Promise.all([changing, going])
    await settled()
    expect(router.currentRoute.value.fullPath).toBe('/registers/defects')
    expect(q.where.value).toBe('')
  })

  it('go on after one that left no criterion', async () => {
    const { changes, asked } = await at('a')
    void changes.change((t) => remove(t, '/all/0'))
    await changes.change((t) => add(t, '', 'all', on('b')))
    expect(asked().at(-1)).toContain('b')
  })
})

describe('what went wrong', () => {
  it('stands until the reader goes on', async () => {
    const { q, changes } = await at('a')
    await changes.change(() => undefined, { otherwise: 'Not like this.' })
    await q.step({ order: ['-due'] })
    await settled()
    expect(changes.mishap.value).toBe('')
  })

  it('is not taken away by a state that arrives by itself', async () => {
    const { q, changes, router } = await at('a')
    await changes.change(() => undefined, { otherwise: 'Not like this.' })
    await router.replace('/registers/defects')
    await settled()
    expect(q.where.value).toBe('')
    expect(changes.mishap.value).toBe('Not like this.')
  })
})

describe('what is open for writing', () => {
  it('goes into its place, and is closed', async () => {
    const { changes, asked } = await at('a', 'b')
    changes.opened.value = { path: '/all/1' }
    await changes.apply(on('c'))
    expect(asked()).toEqual(['a', 'c'])
    expect(changes.opened.value).toBeUndefined()
  })

  it('joins the whole, or a part', async () => {
    const { q, changes } = await at('a')
    changes.opened.value = { path: '', adds: 'all' }
    await changes.apply(on('b'))
    changes.opened.value = { path: '/all/1', adds: 'any' }
    await changes.apply(on('c'))
    expect(JSON.parse(q.where.value)).toEqual({ all: [on('a'), { any: [on('b'), on('c')] }] })
  })

  it('stays open when an earlier change of another part arrives', async () => {
    const { changes, asked } = await at('a', 'b')
    server.hold(STATEMENT)
    const changing = changes.change((t) => toggleOff(t, '/all/0'), { paths: ['/all/0'] })
    await settled()
    changes.opened.value = { path: '/all/1' }
    server.letGo()
    await changing
    expect(changes.opened.value).toEqual({ path: '/all/1' })
    await changes.apply(on('c'))
    expect(asked()).toEqual(['a off', 'c'])
  })

  it('is closed when the change moved what it was about, and on a step back', async () => {
    const { q, changes } = await at('a', 'b', 'c')
    server.hold(STATEMENT)
    const changing = changes.change((t) => remove(t, '/all/0'))
    await settled()
    changes.opened.value = { path: '/all/1' }
    server.letGo()
    await changing
    expect(changes.opened.value).toBeUndefined()
    changes.opened.value = { path: '/all/0' }
    q.back()
    await settled()
    expect(changes.opened.value).toBeUndefined()
  })

  it('is not applied to a part that is another one by then', async () => {
    const { changes, asked } = await at('a', 'b', 'c')
    changes.opened.value = { path: '/all/1' }
    const first = changes.change((t) => remove(t, '/all/0'))
    const second = changes.apply(on('d'))
    await Promise.all([first, second])
    expect(asked()).toEqual(['b', 'c'])
    expect(changes.mishap.value).toContain('has changed there meanwhile')
  })
})
