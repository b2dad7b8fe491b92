import { sentence } from '@/api/client'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { ref } from 'vue'
import { useSession } from '@/people/session'
import { DEFECTS, using, viewOf } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import { useCarrying } from './useCarrying'
import { useKeeping } from './useKeeping'
import { useQuestion } from './useQuestion'
import { useViews } from './store'

const server = standIn()
const VIEW = '/api/views/7'
let leave: () => void = () => {}

beforeEach(() => {
  server.on('GET', '/api/registers/defects', DEFECTS)
  server.on('GET', VIEW, viewOf('7'))
  server.on('GET', '/api/views/*/own', { answers: {}, refined: null })
  server.on('GET', '/api/view-use', [])
  server.on('POST', '/api/registers/defects/statement', (call: Call) => ({
    statement: (call.body as { statement: string }).statement,
    condition: { all: [] },
    outline: { kind: 'all', path: '', parts: [] },
    findings: [],
    asks: [],
  }))
  server.on('POST', '/api/registers/defects/rows', { rows: [], asOf: '2026-11-23T09:00:00Z', next: null })
  server.on('POST', '/api/registers/defects/count', { matching: 0, total: 24000, exact: true })
  server.on('GET', '/api/views/*/count', { matching: 12, total: 24000, exact: true })
  server.on('POST', '/api/registers/defects/parts', { parts: [] })
  server.on('DELETE', '/api/questions/*', undefined)
})
afterEach(() => leave())

async function at(path: string) {
  const said = ref('')
  const mishap = ref('')
  const writing = ref(false)
  const used = await using(path, () => {
    const q = useQuestion()
    const zone = ref('Europe/London')
    return {
      q,
      keeping: useKeeping(q, said, mishap),
      carrying: useCarrying(q, zone, said, () => (writing.value = true)),
      views: useViews(),
      session: useSession(),
    }
  })
  leave = used.leave
  return { ...used.made, router: used.router, said, mishap, writing }
}
const CHANGED = '/views/7?where=severity+%3E%3D+5'

describe('keeping', () => {
  it('of a view that was left meanwhile leaves the page that was gone to alone', async () => {
    server.on('GET', '/api/views/8', viewOf('8'))
    server.on('PATCH', VIEW, viewOf('7', { statement: 'severity >= 5', version: 4 }))
    const { q, keeping, router } = await at(CHANGED)
    server.hold(VIEW)
    const kept = keeping.keepChanges()
    await settled()
    await router.push('/views/8')
    server.letGo()
    await kept
    await settled()
    expect(q.view.value?.id).toBe('8')
    expect(router.currentRoute.value.fullPath).toBe('/views/8')
  })

  it('makes a view of what the page asks, and goes to it', async () => {
    server.on('POST', '/api/views', (call: Call) => viewOf('8', { ...(call.body as object), version: 0 }))
    const { keeping, said, router, views } = await at('/registers/defects?where=severity+%3E%3D+5&order=-due')
    keeping.startKeeping('new')
    expect(keeping.keepOpen.value).toBe(true)
    await keeping.keep('Severe', 'For the mornings', ['dawn'])
    await settled()
    expect(server.to('POST', '/api/views')[0]!.body).toMatchObject({
      register: 'defects',
      name: 'Severe',
      purpose: 'For the mornings',
      labels: ['dawn'],
      statement: 'severity >= 5',
      order: ['-due'],
      columns: DEFECTS.columns,
    })
    expect(said.value).toBe('Saved as “Severe”.')
    expect(router.currentRoute.value.fullPath).toBe('/views/8')
    expect(views.all.map((v) => v.id)).toEqual(['8'])
    expect(keeping.keepOpen.value).toBe(false)
  })

  it('that is refused leaves the dialog open with the reason, and nothing is lost', async () => {
    server.on(
      'POST',
      '/api/views',
      refusal(409, 'name-taken', 'There is a view “Severe” of the same owner already.'),
    )
    const { keeping, q } = await at('/registers/defects?where=severity+%3E%3D+5')
    keeping.startKeeping('new')
    await keeping.keep('Severe', '', [])
    expect(sentence(keeping.keepRefusal.value)).toContain('“Severe”')
    expect(keeping.keepOpen.value).toBe(true)
    expect(keeping.busy.value).toBe(false)
    expect(q.where.value).toBe('severity >= 5')
  })

  it('changes one’s own view at once, and one that others have only after what it means was shown', async () => {
    server.on('PATCH', VIEW, (call: Call) => viewOf('7', { ...(call.body as object), version: 4 }))
    const { keeping, q, said } = await at(CHANGED)
    keeping.keepReviewed()
    await settled()
    expect(server.to('PATCH', VIEW)[0]!.body).toMatchObject({ version: 3, statement: 'severity >= 5' })
    expect(said.value).toBe('Changes saved.')
    expect(q.changed.value).toBe(false)
    leave()

    server.on('GET', VIEW, viewOf('7', { shares: [{ team: '1', may: 'LOOK', label: 'Berths' }] as never }))
    const shared = await at(CHANGED)
    shared.keeping.keepReviewed()
    await settled()
    expect(shared.keeping.reviewOpen.value).toBe(true)
    expect(server.to('PATCH', VIEW)).toHaveLength(1)
    await shared.keeping.keepChanges()
    expect(shared.keeping.reviewOpen.value).toBe(false)
    expect(server.to('PATCH', VIEW)).toHaveLength(2)
  })

  it('shows what somebody else kept meanwhile, writes over nothing, and can still be done', async () => {
    const theirs = viewOf('7', { statement: 'severity >= 3', version: 4 })
    server.on('PATCH', VIEW, (call: Call) =>
      (call.body as { version: number }).version === 3
        ? refusal(409, 'changed-meanwhile', 'Bo Lindqvist changed this view.', { current: theirs })
        : viewOf('7', { ...(call.body as object), version: 5 }),
    )
    const { keeping, q } = await at(CHANGED)
    await keeping.keepChanges()
    expect(keeping.conflictOpen.value).toBe(true)
    expect(keeping.theirs.value?.statement).toBe('severity >= 3')
    expect(q.where.value).toBe('severity >= 5')
    await keeping.keepChanges(4)
    await settled()
    expect(keeping.conflictOpen.value).toBe(false)
    expect(q.view.value?.version).toBe(5)
    expect(q.where.value).toBe('severity >= 5')
  })

  it('can give way to what somebody else kept', async () => {
    const theirs = viewOf('7', { statement: 'severity >= 3', version: 4 })
    server.on(
      'PATCH',
      VIEW,
      refusal(409, 'changed-meanwhile', 'Bo Lindqvist changed it.', { current: theirs }),
    )
    const { keeping, q } = await at(CHANGED)
    await keeping.keepChanges()
    await keeping.openTheirs()
    await settled()
    expect(q.where.value).toBe('severity >= 3')
    expect(q.changed.value).toBe(false)
  })

  it('for oneself writes what differs, and dropping it comes back to the view', async () => {
    let refined: unknown = null
    server.on('GET', VIEW + '/own', () => ({ answers: {}, refined }))
    server.on('PUT', VIEW + '/own', (call: Call) => {
      refined = { ...(call.body as object), carried: true }
      return { answers: {}, refined }
    })
    server.on('DELETE', VIEW + '/own', () => {
      refined = null
      return { answers: {}, refined }
    })
    const { keeping, q } = await at(CHANGED)
    await keeping.keepForMe()
    await settled()
    expect(server.to('PUT', VIEW + '/own')[0]!.body).toEqual({ statement: 'severity >= 5' })
    expect(q.where.value).toBe('severity >= 5')
    expect(q.changed.value).toBe(false)
    await keeping.dropMine()
    await settled()
    expect(q.where.value).toBe('severity >= 4')
  })

  it('takes what others kept while there is nothing of one’s own to lose, and asks otherwise', async () => {
    const { keeping, q, router } = await at('/views/7')
    server.on('GET', VIEW, viewOf('7', { statement: 'severity >= 2', version: 4 }))
    await keeping.takeNewer()
    await settled()
    expect(q.where.value).toBe('severity >= 2')
    await router.push(CHANGED)
    await settled()
    server.on('GET', VIEW, viewOf('7', { statement: 'severity >= 1', version: 5 }))
    await keeping.takeNewer()
    expect(keeping.conflictOpen.value).toBe(true)
    expect(q.where.value).toBe('severity >= 5')
  })

  it('no more: a deleted view is gone from the lists, and the page goes to all views', async () => {
    server.on('DELETE', VIEW, undefined)
    const { keeping, views, router } = await at('/views/7')
    views.all = [viewOf('7'), viewOf('9')]
    await keeping.remove()
    await settled()
    expect(server.to('DELETE', VIEW)[0]!.query.get('version')).toBe('3')
    expect(views.all.map((v) => v.id)).toEqual(['9'])
    expect(router.currentRoute.value.path).toBe('/views')
  })

  it('no more, refused: the page stays and says why', async () => {
    server.on('DELETE', VIEW, refusal(409, 'changed-meanwhile', 'Bo Lindqvist changed this view.'))
    const { keeping, views, router, mishap } = await at('/views/7')
    views.all = [viewOf('7')]
    await keeping.remove()
    expect(mishap.value).toBe('Bo Lindqvist changed this view.')
    expect(views.all).toHaveLength(1)
    expect(router.currentRoute.value.path).toBe('/views/7')
  })

  it('is for whoever manages the view and may write', async () => {
    const { keeping, session } = await at('/views/7')
    const person = (role: string) =>
      ({ person: { id: '2', role, fullName: 'Ines Marlow' }, zone: 'Europe/London' }) as unknown
    session.current = person('MEMBER') as never
    expect(keeping.manages.value).toBe(true)
    session.current = person('AUDITOR') as never
    expect(keeping.manages.value).toBe(false)
  })
})

describe('carrying the question elsewhere', () => {
  it('as a file: of the view as it is kept, or of what the page asks now', async () => {
    const { carrying, router } = await at('/views/7?asOf=2026-11-01&ask.from=3&times=local&bom=true')
    expect(carrying.exportUrl.value).toBe(
      '/api/views/7/export.csv?asOf=2026-11-01&ask.from=3&times=local&bom=true',
    )
    await router.push(CHANGED)
    await settled()
    const url = new URL(carrying.exportUrl.value, 'http://here')
    expect(url.pathname).toBe('/api/registers/defects/export.csv')
    expect(Object.fromEntries(url.searchParams)).toMatchObject({
      statement: 'severity >= 5',
      columns: 'number,severity',
      name: 'View 7',
    })
  })

  it('as a link, with what is filled in only where it is wanted', async () => {
    const copied: string[] = []
    Object.defineProperty(navigator, 'clipboard', {
      configurable: true,
      value: { writeText: (text: string) => Promise.resolve(void copied.push(text)) },
    })
    const { carrying, said } = await at('/views/7?where=severity+%3E%3D+5&ask.from=3')
    await carrying.copyLink(false)
    await carrying.copyLink(true)
    await carrying.copyWords()
    expect(copied[0]).toMatch(/^http:\/\/localhost:8420\/views\/7\?where=/)
    expect(copied[0]).not.toContain('ask.')
    expect(copied[1]).toContain('ask.from=3')
    expect(copied[2]).toBe('severity >= 5')
    expect(said.value).toBe('The statement is copied.')
  })

  it('says another way where the clipboard cannot be reached', async () => {
    Object.defineProperty(navigator, 'clipboard', {
      configurable: true,
      value: { writeText: () => Promise.reject(new Error('denied')) },
    })
    const { carrying, said, writing } = await at('/views/7')
    await carrying.copyLink(false)
    expect(said.value).toContain('address bar')
    await carrying.copyWords()
    expect(writing.value).toBe(true)
  })
})
