import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { Own } from '@/api/client'
import { useSession } from '@/people/session'
import { forgetDefinitions, hear } from '@/platform/definitions'
import { DEFECTS, field, using, viewOf } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import { useQuestion } from './useQuestion'

const server = standIn()
const VIEW = '/api/views/7'
const STATEMENT = '/api/registers/defects/statement'
const ROWS = '/api/registers/defects/rows'
let leave: () => void = () => {}

beforeEach(() => {
  server.on('GET', '/api/registers/defects', DEFECTS)
  server.on('GET', VIEW, viewOf('7'))
  server.on('GET', VIEW + '/own', { answers: {}, refined: null })
  server.on('POST', STATEMENT, (call: Call) => {
    const { statement, condition } = call.body as { statement?: string; condition?: { said: string } }
    return {
      statement: condition ? condition.said : statement,
      condition: { all: [] },
      outline: { kind: 'all', path: '', parts: [] },
      findings: [],
      asks: [],
    }
  })
  server.on('POST', ROWS, { rows: [], asOf: '2026-11-23T09:00:00Z', next: null })
  server.on('POST', '/api/registers/defects/count', { matching: 0, total: 24000, exact: true })
  server.on('POST', '/api/registers/defects/parts', { parts: [] })
  server.on('DELETE', '/api/questions/*', undefined)
})
afterEach(() => {
  leave()
  leave = () => {}
})

async function at(path: string) {
  const used = await using(path, useQuestion)
  leave = used.leave
  return { q: used.made, router: used.router }
}
const lastAsked = () => server.to('POST', ROWS).at(-1)!.body as Record<string, unknown>

describe('the question of a register', () => {
  it('begins with the register’s own order and columns, and every record', async () => {
    const { q } = await at('/registers/defects')
    expect(q.where.value).toBe('')
    expect(q.order.value).toEqual(['due'])
    expect(lastAsked()).toMatchObject({ statement: '', order: ['due'], columns: DEFECTS.columns, limit: 100 })
    expect(document.title).toBe('Defects · Deft Lens')
  })

  it('is in the address, so that a link puts it again', async () => {
    const { q } = await at(
      '/registers/defects?where=severity+%3E%3D+4&order=-due&columns=number&asOf=2026-11-01&zone=UTC',
    )
    expect(lastAsked()).toMatchObject({
      statement: 'severity >= 4',
      order: ['-due'],
      columns: ['number'],
      asOf: '2026-11-01',
      zone: 'UTC',
    })
    expect(q.changed.value).toBe(false)
  })

  it('changes step by step, each of which can be taken back and done again', async () => {
    const { q, router } = await at('/registers/defects')
    await q.step({ where: 'severity >= 4' })
    await q.step({ order: ['-severity'] })
    await settled()
    expect(q.done.value).toEqual(['severity >= 4', 'by severity, highest first'])
    expect(router.currentRoute.value.query).toEqual({ where: 'severity >= 4', order: '-severity' })
    q.back()
    await settled()
    expect(lastAsked()).toMatchObject({ statement: 'severity >= 4', order: ['due'] })
    expect([q.steps.value, q.stepsAhead.value]).toEqual([1, 1])
    q.goToStep(0)
    await settled()
    expect(q.where.value).toBe('')
    expect(q.stepsAhead.value).toBe(2)
    q.goToStep(2)
    await settled()
    expect(lastAsked()).toMatchObject({ statement: 'severity >= 4', order: ['-severity'] })
    // Another step from the middle leaves what was ahead.
    q.back()
    await settled()
    await q.step({ where: 'due in today' })
    expect(q.done.value).toEqual(['severity >= 4', 'due in today'])
    expect(q.stepsAhead.value).toBe(0)
  })

  it('has fields that are calculated for it alone in its address, and is asked with them', async () => {
    const worse = {
      ...DEFECTS,
      key: 'defects~0a1b',
      added: ['_worse'],
      fields: [
        ...DEFECTS.fields,
        field('_worse', 'number', { label: 'Worse', calculation: { words: 'severity + 1' } }),
      ],
    } as typeof DEFECTS
    const AT = '/api/registers/defects~0a1b'
    server.on('GET', AT, worse)
    server.on('POST', AT + '/statement', (call: Call) => ({
      statement: (call.body as { statement: string }).statement,
      condition: { all: [] },
      outline: { kind: 'all', path: '', parts: [] },
      findings: [],
      asks: [],
    }))
    server.on('POST', AT + '/rows', { rows: [], asOf: '2026-11-23T09:00:00Z', next: null })
    server.on('POST', AT + '/count', { matching: 0, total: 24000, exact: true })
    server.on('POST', AT + '/parts', { parts: [] })
    const asked = () => server.to('POST', AT + '/rows').map((c) => c.body)
    const { q, router } = await at('/registers/defects?with=0a1b&where=_worse+%3E+3')
    expect(server.to('POST', ROWS)).toEqual([])
    expect(asked()).toHaveLength(1)
    expect(q.register.value!.added).toEqual(['_worse'])
    await q.step({ where: '' })
    await q.step({ added: DEFECTS })
    await settled()
    expect(q.done.value.at(-1)).toBe('nothing calculated here')
    expect(router.currentRoute.value.query.with).toBeUndefined()
    expect(lastAsked()).toMatchObject({ statement: '' })
    const before = asked().length
    q.back()
    await settled()
    expect(asked()).toHaveLength(before + 1)
    leave()
    // On a view it is a change like another; the view as it is has none in its address.
    server.on('GET', VIEW, viewOf('7', { reads: 'defects~0a1b' }))
    const { q: kept, router: there } = await at('/views/7')
    expect(kept.register.value!.key).toBe('defects~0a1b')
    expect(kept.changed.value).toBe(false)
    await kept.step({ added: DEFECTS })
    await settled()
    expect(there.currentRoute.value.query.with).toBe('')
    expect([kept.changed.value, kept.addsOtherwise.value]).toEqual([true, true])
    expect(kept.unsaved.value).toMatchObject({ register: 'defects' })
    await kept.step({ added: worse })
    expect(there.currentRoute.value.query.with).toBeUndefined()
    expect(kept.changed.value).toBe(false)
  })

  it('says so where the fields of an address are not known', async () => {
    server.on('GET', '/api/registers/defects~ff', refusal(404, 'not-found', 'Nothing is calculated so.'))
    const { q } = await at('/registers/defects?with=ff')
    expect(q.missing.value).toBe('Nothing is calculated so.')
    expect(server.to('POST', ROWS)).toEqual([])
  })

  it('asks again only for what a step changed', async () => {
    server.on('POST', '/api/registers/defects/groups', { groups: [], records: 3, figures: [], more: false })
    const { q } = await at('/registers/defects?where=severity+%3E%3D+4')
    const asked = () => [server.to('POST', STATEMENT).length, server.to('POST', ROWS).length]
    const [words, records] = asked() as [number, number]
    await q.step({ shape: { measures: [{ function: 'average', field: 'severity' }] } })
    await settled()
    expect(server.to('POST', '/api/registers/defects/groups')).toHaveLength(1)
    expect(asked()).toEqual([words, records])
    await q.step({ order: ['-severity'] })
    await settled()
    expect(asked()).toEqual([words, records + 1])
    await q.step({ shape: { take: { count: 5 } as never } })
    await settled()
    expect(asked()).toEqual([words, records + 2])
    await q.step({ where: 'severity >= 5' })
    await settled()
    expect(asked()).toEqual([words + 1, records + 3])
  })

  it('that failed is put again with any step', async () => {
    const { q } = await at('/registers/defects?where=severity+%3E%3D+4')
    server.on('POST', ROWS, refusal(503, 'busy', 'Try again in a moment.'))
    await q.step({ order: ['-severity'] })
    await settled()
    expect(q.answer.trouble.value).not.toBe('')
    const before = server.to('POST', ROWS).length
    await q.step({ shape: { groups: [], rowHeight: 'low' } as never })
    await q.step({ shape: { measures: [{ function: 'average', field: 'severity' }] } })
    await settled()
    expect(server.to('POST', ROWS)).toHaveLength(before + 1)
  })

  it('that says the same again is no step', async () => {
    const { q } = await at('/registers/defects?where=severity+%3E%3D+4')
    await q.step({ where: 'severity >= 4' })
    expect(q.steps.value).toBe(0)
  })

  it('goes behind the # when it is too long for a server to take', async () => {
    const { q, router } = await at('/registers/defects')
    const long = `number is in (${Array.from({ length: 400 }, (_, i) => `"D-${i}"`).join(', ')})`
    await q.step({ where: long })
    await settled()
    expect(router.currentRoute.value.query.where).toBeUndefined()
    expect(router.currentRoute.value.hash.length).toBeGreaterThan(1200)
    expect(q.where.value).toBe(long)
    expect(lastAsked()).toMatchObject({ statement: long })
    await q.step({ where: 'severity >= 4' })
    expect(router.currentRoute.value.hash).toBe('')
  })

  it('is put in the words of the server when a tree was changed', async () => {
    const { q } = await at('/registers/defects')
    await q.rewrite({ said: 'severity >= 5' } as never)
    await q.whenRead()
    expect(q.where.value).toBe('severity >= 5')
    expect(q.read.value?.statement).toBe('severity >= 5')
  })

  it('is put once when it is opened, and never to the register that was there before', async () => {
    server.on('GET', '/api/registers/moves', {
      ...DEFECTS,
      key: 'moves',
      label: 'Moves',
      columns: ['number'],
    })
    const { q, router } = await at('/registers/defects?where=severity+%3E%3D+4')
    for (const kind of ['rows', 'count', 'parts'])
      server.on('POST', '/api/registers/moves/' + kind, { rows: [], parts: [], matching: 0, exact: true })
    server.on('POST', '/api/registers/moves/statement', {
      statement: 'kind is "Issued"',
      outline: { parts: [] },
    })
    await router.push('/registers/moves?where=kind+is+%22Issued%22&order=-number')
    await settled()
    expect(q.register.value?.key).toBe('moves')
    expect(server.to('POST', ROWS).map((c) => (c.body as { statement: string }).statement)).toEqual([
      'severity >= 4',
    ])
    expect(server.to('POST', '/api/registers/moves/rows').map((c) => c.body)).toMatchObject([
      { statement: 'kind is "Issued"', order: ['-number'], columns: ['number'] },
    ])
  })

  it('is worded before its records are drawn, so that they stay where they are', async () => {
    server.hold(STATEMENT)
    const { q } = await at('/registers/defects?where=severity+%3E%3D+4')
    expect(server.to('POST', ROWS)).toHaveLength(1)
    expect(q.worded.value).toBe(false)
    server.letGo()
    await settled()
    expect(q.worded.value).toBe(true)
    server.on('POST', STATEMENT, refusal(422, 'unreadable', 'It cannot be read.'))
    await q.step({ where: 'severity >=' })
    await settled()
    expect(q.worded.value).toBe(true)
  })

  it('that cannot be read says so, and the text stays', async () => {
    server.on('POST', STATEMENT, refusal(422, 'unreadable', 'After “severity” something is missing.'))
    const { q } = await at('/registers/defects?where=severity')
    expect(q.unreadable.value).toBe('After “severity” something is missing.')
    expect(q.where.value).toBe('severity')
    expect(q.settling.value).toBe(false)
    expect(q.unchecked.value).toBe(false)
  })

  it('for a register that is not there says so', async () => {
    server.on(
      'GET',
      '/api/registers/defects',
      refusal(404, 'not-found', 'The register “defects” is not there.'),
    )
    const { q } = await at('/registers/defects')
    expect(q.missing.value).toBe('The register “defects” is not there.')
    expect(server.to('POST', ROWS)).toHaveLength(0)
  })
})

describe('the question of a view', () => {
  it('is the view’s; what equals it is not in the address', async () => {
    const { q, router } = await at('/views/7')
    expect(lastAsked()).toMatchObject({ statement: 'severity >= 4', columns: ['number', 'severity'] })
    await q.step({ where: 'severity >= 5' })
    expect(q.changed.value).toBe(true)
    await q.step({ where: 'severity >= 4' })
    expect(router.currentRoute.value.query).toEqual({})
    expect(q.changed.value).toBe(false)
  })

  it('comes with its words, which are asked for only where the question is another', async () => {
    const read = {
      statement: 'severity >= 4',
      condition: { all: [] },
      outline: { kind: 'all', path: '', parts: [] },
      findings: [],
      asks: [],
      checked: true,
    }
    server.on('GET', VIEW + '/page', {
      view: viewOf('7'),
      own: { answers: {}, refined: null },
      register: DEFECTS,
      definitions: '',
      read,
    })
    const { q } = await at('/views/7')
    expect(q.read.value).toEqual(read)
    expect(server.to('POST', STATEMENT)).toHaveLength(0)
    await q.step({ where: 'severity >= 5' })
    await settled()
    expect(server.to('POST', STATEMENT)).toHaveLength(1)
    await q.step({ where: 'severity >= 4' })
    await settled()
    expect(server.to('POST', STATEMENT)).toHaveLength(2)
  })

  it('comes with its words alone where the register is large, and the records are looked at then', async () => {
    const read = {
      statement: 'severity >= 4',
      condition: { all: [] },
      outline: { kind: 'all', path: '', parts: [] },
      findings: [],
      asks: [],
      checked: false,
    }
    server.on('GET', VIEW + '/page', {
      view: viewOf('7'),
      own: { answers: {}, refined: null },
      register: DEFECTS,
      definitions: '',
      read,
    })
    await at('/views/7')
    expect(server.to('POST', STATEMENT).map((c) => (c.body as { ifSmall: boolean }).ifSmall)).toEqual([false])
  })

  it('is carried on by the reader’s own refinement, until it is wanted as it is shared', async () => {
    const refined = {
      statement: 'severity >= 4 and stay is empty',
      columns: ['number'],
      order: null,
      shape: null,
    }
    server.on('GET', VIEW + '/own', { answers: { from: '3' }, refined } as unknown as Own)
    const { q, router } = await at('/views/7')
    expect(q.where.value).toBe(refined.statement)
    expect(lastAsked()).toMatchObject({ columns: ['number'], order: ['due'], answers: { from: '3' } })
    expect(q.changed.value).toBe(false)
    await router.push('/views/7?as=shared')
    await settled()
    expect(lastAsked()).toMatchObject({
      statement: 'severity >= 4',
      columns: ['number', 'severity'],
      answers: {},
    })
  })

  it('remembers what is filled in, and a step back comes to what was there before', async () => {
    let kept: Record<string, string> = { from: '3' }
    server.on('GET', VIEW + '/own', () => ({ answers: kept, refined: null }))
    server.on('PUT', VIEW + '/own/answers', (call: Call) => {
      kept = { ...kept, ...(call.body as Record<string, string>) }
      return { answers: kept, refined: null }
    })
    const { q } = await at('/views/7')
    await q.step({ answers: { from: '5' } })
    await settled()
    expect(lastAsked()).toMatchObject({ answers: { from: '5' } })
    expect(kept).toEqual({ from: '5' })
    q.back()
    await settled()
    expect(lastAsked()).toMatchObject({ answers: { from: '3' } })
  })

  it('stands as it is when nothing may be remembered for the reader', async () => {
    server.on(
      'PUT',
      VIEW + '/own/answers',
      refusal(403, 'forbidden', 'Whoever looks as somebody else changes nothing.'),
    )
    const { q } = await at('/views/7')
    await q.step({ answers: { from: '5' } })
    await settled()
    expect(lastAsked()).toMatchObject({ answers: { from: '5' } })
  })

  it('drops an answer that does not fit from the reading, not from the page', async () => {
    server.on('POST', STATEMENT, (call: Call) => {
      const { answers } = call.body as { answers: Record<string, string> }
      return answers.from
        ? refusal(422, 'bad-answer', '“many” is no number.')
        : { statement: 'severity >= 4', condition: {}, outline: { parts: [] }, findings: [], asks: [] }
    })
    const { q } = await at('/views/7?ask.from=many')
    expect(q.unreadable.value).toBe('')
    expect(q.read.value?.statement).toBe('severity >= 4')
    expect(q.answers.value).toEqual({ from: 'many' })
  })

  it('keeps its statement where the past that is asked for is not known', async () => {
    server.on('POST', STATEMENT, (call: Call) =>
      (call.body as { recordsAt?: string }).recordsAt
        ? refusal(422, 'no-past', 'What its records were is known from 1 Sep 2026 on.')
        : { statement: 'severity >= 4', condition: {}, outline: { parts: [] }, findings: [], asks: [] },
    )
    const { q } = await at('/views/7?recordsAt=2025-01-01')
    expect(q.unreadable.value).toBe('')
    expect(q.read.value?.statement).toBe('severity >= 4')
    expect(q.recordsAt.value).toBe('2025-01-01')
  })

  it('reads days where the reader is, for a view that wants it', async () => {
    server.on('GET', VIEW, viewOf('7', { zone: 'reader' }))
    const { q } = await at('/views/7')
    expect(q.chosenZone.value).toBe('reader')
    expect(lastAsked().zone).toBe(Intl.DateTimeFormat().resolvedOptions().timeZone)
  })

  it('takes nobody back who has gone elsewhere while a change was being put into words', async () => {
    const { q, router } = await at('/views/7')
    server.hold(STATEMENT)
    const changing = q.rewrite({ said: 'severity = 5' } as never)
    await settled()
    await router.push('/elsewhere')
    server.letGo()
    await changing
    await settled()
    expect(router.currentRoute.value.fullPath).toBe('/elsewhere')
  })

  it('forgets an answer that comes after the reader has gone elsewhere', async () => {
    server.on('GET', '/api/views/8', viewOf('8', { statement: 'severity = 1' }))
    server.on('GET', '/api/views/8/own', { answers: {}, refined: null })
    server.hold(VIEW)
    const { q, router } = await at('/views/7')
    await router.push('/views/8')
    await settled()
    server.letGo()
    await settled()
    expect(q.view.value?.id).toBe('8')
    expect(q.where.value).toBe('severity = 1')
  })

  it('takes a fresh state of the view as its own', async () => {
    const { q, router } = await at('/views/7?where=severity+%3E%3D+5&asOf=2026-11-01')
    await q.settle(viewOf('7', { statement: 'severity >= 5', version: 4 }))
    await settled()
    expect(q.changed.value).toBe(false)
    expect(router.currentRoute.value.query).toEqual({ asOf: '2026-11-01' })
    expect(q.where.value).toBe('severity >= 5')
  })

  it('says what of it is the reader’s own', async () => {
    const { q } = await at('/views/7?where=severity+%3E%3D+5&columns=number')
    expect(q.mine.value).toEqual({
      statement: 'severity >= 5',
      columns: ['number'],
      order: undefined,
      shape: undefined,
    })
  })
})

describe('what answers rest on', () => {
  const SESSION = { zone: 'Europe/London', weekStarts: 'MONDAY', person: { role: 'MEMBER' } }
  beforeEach(() => {
    forgetDefinitions()
    server.on('GET', '/api/session', SESSION)
    server.stamp('4-aaaa')
  })
  /** A page of somebody who is signed in. */
  async function signedInAt(path: string) {
    const { q } = await at(path)
    await useSession().load()
    await settled()
    return { q }
  }

  it('is of one kind on a page: what comes with another stamp is not shown, and all is asked anew', async () => {
    const { q } = await signedInAt('/registers/defects?where=severity+%3E%3D+4')
    const asked = () => server.to('POST', ROWS).length
    const before = asked()
    expect(q.renewed.value).toBe('')
    // Somebody moves the organisation; the next thing that the page happens to ask tells it so.
    server.stamp('5-bbbb')
    server.on('GET', '/api/session', { ...SESSION, zone: 'Asia/Tokyo' })
    server.on('POST', ROWS, { rows: [{ id: '1', values: {} }], asOf: '2026-11-23T09:00:00Z', next: null })
    server.on('POST', '/api/registers/defects/count', { matching: 1, total: 24000, exact: true })
    await q.step({ order: ['-severity'] })
    await settled()
    expect(q.renewed.value).toContain('Asia/Tokyo')
    expect(asked()).toBeGreaterThan(before + 1)
    expect(lastAsked()).toMatchObject({ statement: 'severity >= 4', order: ['-severity'] })
    expect([q.answer.rows.value.length, q.answer.count.value?.matching]).toEqual([1, 1])
    // All of it is of one kind now: nothing is asked again.
    const settledAt = asked()
    await q.checkAgain()
    await settled()
    expect(asked()).toBe(settledAt)
    // An answer from before that comes late is no change.
    server.stamp('4-aaaa')
    await q.checkAgain()
    await settled()
    expect(asked()).toBe(settledAt)
  })

  it('that changes while a page is being opened is asked for anew at once', async () => {
    await signedInAt('/registers/defects')
    leave()
    // The register is known from before; meanwhile it gets another field.
    server.stamp('12-eeee')
    server.on('GET', '/api/registers/defects', { ...DEFECTS, label: 'Defects anew' })
    server.hold(VIEW)
    const opening = signedInAt('/views/7')
    await settled()
    hear('defects', '12-eeee')
    server.letGo()
    const { q } = await opening
    await settled()
    expect(q.register.value?.label).toBe('Defects anew')
    expect(server.to('POST', ROWS).length).toBeGreaterThan(0)
  })

  it('tells of bands that were changed, and takes the view as it is then', async () => {
    const { q } = await signedInAt('/views/7')
    const banded = (name: string) => ({
      ...DEFECTS,
      fields: DEFECTS.fields.map((f) =>
        f.key === 'severity' ? { ...f, bands: [{ name, extents: [], bands: [] }] } : f,
      ),
    })
    server.stamp('9-cccc')
    server.on('GET', '/api/registers/defects', banded('Grave'))
    server.on('GET', VIEW, viewOf('7', { statement: 'severity is in band "Grave"', version: 4 }))
    await q.checkAgain()
    await settled()
    expect(q.renewed.value).toBe(
      'While you looked at it: the bands of Severity changed. Everything was read anew.',
    )
    expect(lastAsked()).toMatchObject({ statement: 'severity is in band "Grave"' })
    // What the reader has changed themselves is left to them.
    await q.step({ where: 'severity >= 5' })
    await settled()
    server.stamp('10-dddd')
    server.on('GET', VIEW, viewOf('7', { statement: 'severity is in band "Deep"', version: 5 }))
    await q.checkAgain()
    await settled()
    expect(q.view.value?.version).toBe(4)
    expect(lastAsked()).toMatchObject({ statement: 'severity >= 5' })
  })
})
