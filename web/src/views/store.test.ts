import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Pin, TeamList, View, ViewUse } from '@/api/client'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import { granted, sharing, useViews } from './store'

const server = standIn()

const view = (id: string, name: string, mine = false, more: Partial<View> = {}) =>
  ({
    id,
    name,
    mine,
    shares: [],
    owner: { id: '9', name: 'o', fullName: 'Olga Owner' },
    register: 'defects',
    may: mine ? 'MANAGE' : 'LOOK',
    ...more,
  }) as unknown as View
const pin = (id: string) => ({ id, name: `v${id}` }) as unknown as Pin
const used = (view: string, mineAt?: string, attention: unknown[] = []) =>
  ({ view, mineAt, readers: 0, attention }) as unknown as ViewUse

describe('the list of views', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('shows each view once: pinned, of a team, mine or from colleagues', () => {
    const views = useViews()
    views.all = [view('1', 'a', true), view('2', 'b'), view('3', 'c'), view('4', 'd'), view('5', 'e', true)]
    views.pins = [pin('2')]
    views.teamLists = [
      { team: '1', name: 'One', views: [pin('2'), pin('3')] },
      { team: '2', name: 'Two', views: [pin('3')] },
    ] as unknown as TeamList[]
    expect(views.fromTeams.map((l) => [l.name, l.views.map((v) => v.id)])).toEqual([['One', ['3']]])
    expect(views.mine.map((v) => v.id)).toEqual(['1', '5'])
    expect(views.fromColleagues.map((v) => v.id)).toEqual(['4'])
    expect(views.isPinned('2')).toBe(true)
  })

  it('is cut to those that were opened last, and stays in the order of names', () => {
    const views = useViews()
    views.all = Array.from({ length: 30 }, (_, i) =>
      view(String(i), `view ${String(i).padStart(2, '0')}`, true),
    )
    views.use = Object.fromEntries(
      ['28', '3', '17'].map((id, i) => [id, used(id, `2026-11-2${i}T00:00:00Z`)]),
    )
    expect(views.mine).toHaveLength(30)
    const shown = views.shortMine.map((v) => v.id)
    expect(shown).toHaveLength(9)
    expect(shown).toEqual(expect.arrayContaining(['3', '17', '28']))
    expect(shown).toEqual([...shown].sort((a, b) => Number(a) - Number(b)))
  })

  it('tells only those who can see to it what needs attention', () => {
    const views = useViews()
    views.all = [view('1', 'a', true), view('2', 'b'), view('3', 'c', true)]
    const note = { code: 'unused', message: 'Nobody has opened it for 90 days.' }
    views.use = { 1: used('1', undefined, [note]), 2: used('2', undefined, [note]), 3: used('3') }
    expect(views.needing.map((v) => v.id)).toEqual(['1'])
  })

  it('forgets everything when somebody else may come', () => {
    const views = useViews()
    views.all = [view('1', 'a')]
    views.pins = [pin('1')]
    views.clear()
    expect([views.all, views.pins, views.teamLists, views.use]).toEqual([[], [], [], {}])
  })
})

describe('pinned views', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    server.on('PUT', '/api/pins', (call: Call) => (call.body as { views: string[] }).views.map(pin))
  })
  const order = () => useViews().pins.map((p) => p.id)

  it('are moved at once, and quick moves follow each other', async () => {
    const views = useViews()
    views.pins = ['1', '2', '3'].map(pin)
    server.hold('/api/pins')
    const moves = [views.movePin('1', 1), views.movePin('1', 1), views.movePin('1', 1)]
    expect(order()).toEqual(['2', '3', '1'])
    await settled()
    server.letGo()
    await Promise.all(moves)
    expect(order()).toEqual(['2', '3', '1'])
    expect(server.to('PUT', '/api/pins').map((c) => c.body)).toEqual([{ views: ['2', '3', '1'] }])
  })

  it('stand as they are kept where a move is refused', async () => {
    const views = useViews()
    views.pins = ['1', '2'].map(pin)
    server.on('PUT', '/api/pins', refusal(503, 'unavailable', 'The database is not there. Try again.'))
    server.on('GET', '/api/pins', ['1', '2'].map(pin))
    await expect(views.movePin('2', -1)).rejects.toThrow('Try again.')
    expect(order()).toEqual(['1', '2'])
  })

  it('are put on the list and taken off', async () => {
    const views = useViews()
    views.pins = [pin('1')]
    await views.togglePin('2')
    expect(order()).toEqual(['1', '2'])
    await views.togglePin('1')
    expect(order()).toEqual(['2'])
  })
})

describe('what is asked for', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    server.on('GET', '/api/views', [view('1', 'a', true), view('2', 'b', true)])
    server.on('GET', '/api/pins', [pin('1')])
    server.on('GET', '/api/team-lists', [])
    server.on('GET', '/api/view-use', [used('1')])
    server.on('GET', '/api/views/1/count', { matching: 1204, total: 24000, exact: true })
    server.on('GET', '/api/views/2/count', refusal(422, 'broken', 'The field is gone.'))
  })

  it('comes with counts, and marks a view that cannot be counted', async () => {
    const views = useViews()
    await views.load()
    await settled()
    expect(views.counts).toEqual({ 1: '1,204', 2: '!' })
  })

  it('is one call for all numbers, and one more for each that takes longer', async () => {
    server.on('POST', '/api/counts', {
      views: { 1: { matching: 3, total: 9, exact: true } },
      figures: {},
      registers: {},
      later: { views: ['2'], registers: [] },
      failed: [],
    })
    server.on('GET', '/api/views/2/count', { matching: 10000, total: 5000000, exact: false })
    const views = useViews()
    await views.load()
    await settled()
    expect(views.counts).toEqual({ 1: '3', 2: '10,000+' })
    expect(server.to('POST', '/api/counts')).toHaveLength(1)
    expect(server.to('GET', '/api/views/1/count')).toHaveLength(0)
  })

  it('is a figure where one stands beside a pinned view', async () => {
    const sum = {
      name: 'sum_of_cost',
      label: 'sum of Cost',
      function: 'sum',
      kind: 'value',
      type: 'money',
      value: 1234.5,
    }
    server.on('POST', '/api/counts', {
      views: {},
      figures: { 1: sum },
      registers: {},
      later: { views: ['2'], registers: [] },
      failed: [],
    })
    server.on('GET', '/api/pins', [
      { ...pin('1'), figure: 'sum_of_cost' },
      { ...pin('2'), figure: 'growth_of_number' },
    ])
    server.on('GET', '/api/views/2/figure', { ...sum, kind: 'growth', type: 'number', value: 0.25 })
    const views = useViews()
    await views.load()
    await settled()
    expect(views.counts).toEqual({ 1: '1,234.50', 2: '+25.0%' })
    expect(views.besides['1']).toBe('sum of Cost')
    expect(server.to('GET', '/api/views/2/count')).toHaveLength(0)
    // The number of records again.
    server.on('PUT', '/api/pins/1/figure', [pin('1')])
    server.on('POST', '/api/counts', {
      views: { 1: { matching: 3, total: 9, exact: true } },
      figures: {},
      registers: {},
      later: { views: [], registers: [] },
      failed: [],
    })
    await views.tellBeside('1', undefined)
    expect(views.counts['1']).toBe('3')
    expect(views.besides['1']).toBeUndefined()
  })

  it('is for nobody when somebody else may have signed in meanwhile', async () => {
    const views = useViews()
    server.hold('/api/views')
    const loading = views.load()
    await settled()
    views.clear()
    server.letGo()
    await loading
    await settled()
    expect([views.all, views.pins, views.counts]).toEqual([[], [], {}])
  })

  it('counts only the views of the registers that changed', async () => {
    const views = useViews()
    await views.load()
    await settled()
    views.all = [view('1', 'a', true), view('2', 'b', true, { register: 'dues' })]
    await views.recount(['defects'])
    expect(server.to('POST', '/api/counts').at(-1)!.body).toEqual({ views: ['1'], registers: [] })
  })
})

describe('with whom a view is shared', () => {
  it('is said in a few words', () => {
    const share = (label: string, may?: string, mayChange?: boolean) => ({ label, may, mayChange })
    const shares = [share('Quay crews', 'LOOK'), share('Bram Oake', 'MANAGE'), share('Everyone', 'LOOK')]
    expect(sharing(view('1', 'a', true))).toBe('only for you')
    expect(sharing(view('1', 'a'))).toBe('Olga Owner’s own')
    expect(sharing(view('1', 'a', true, { shares } as unknown as Partial<View>))).toBe(
      'shared with Quay crews, to look; Bram Oake, to manage and 1 more',
    )
    expect(sharing(view('1', 'a', false, { shares: shares.slice(0, 1) } as unknown as Partial<View>))).toBe(
      'from Olga Owner, shared with Quay crews, to look',
    )
  })
  it('reads the form that shares had before', () => {
    expect(granted({ mayChange: true } as never)).toBe('CHANGE')
    expect(granted({ mayChange: false } as never)).toBe('LOOK')
    expect(granted({ may: 'MANAGE', mayChange: false } as never)).toBe('MANAGE')
  })
})
