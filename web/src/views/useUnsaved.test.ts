import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import { DEFECTS, using, viewOf } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import { useKeeping } from './useKeeping'
import { useQuestion } from './useQuestion'
import { RESTS, useUnsaved } from './useUnsaved'

const server = standIn()
const VIEW = '/api/views/7'
const UNSAVED = VIEW + '/own/unsaved'
const OWN = { answers: {}, refined: null, unsaved: null }
let leave: () => void = () => {}

beforeEach(() => {
  server.on('GET', '/api/registers/defects', DEFECTS)
  server.on('GET', '/api/views/*', viewOf('7'))
  server.on('GET', '/api/views/*/own', OWN)
  server.on('PUT', UNSAVED, OWN)
  server.on('DELETE', UNSAVED, OWN)
  server.on('POST', '/api/registers/defects/statement', (call: Call) => ({
    statement: (call.body as { statement: string }).statement,
    condition: { all: [] },
    outline: { kind: 'all', path: '', parts: [] },
    findings: [],
    asks: [],
  }))
  server.on('POST', '/api/registers/defects/rows', { rows: [], asOf: '2026-11-23T09:00:00Z', next: null })
  server.on('POST', '/api/registers/defects/count', { matching: 0, total: 24000, exact: true })
  server.on('POST', '/api/registers/defects/parts', { parts: [] })
  server.on('DELETE', '/api/questions/*', undefined)
})
afterEach(() => leave())

async function at(path: string) {
  const said = ref('')
  const used = await using(path, () => {
    const q = useQuestion()
    return { q, unsaved: useUnsaved(q, said), keeping: useKeeping(q, said, ref('')) }
  })
  leave = used.leave
  return { ...used.made, router: used.router, said }
}
const rested = async () => {
  await new Promise((resolve) => setTimeout(resolve, RESTS + 50))
  await settled()
}

describe('unsaved changes', () => {
  it('are remembered once they rest, with nothing that is as the view has it', async () => {
    const { q, unsaved } = await at('/views/7')
    await q.step({ where: 'severity >= 2' })
    await q.step({ where: 'severity >= 5' })
    await rested()
    expect(server.to('PUT', UNSAVED).map((c) => c.body)).toEqual([{ statement: 'severity >= 5' }])
    expect(unsaved.offered.value).toBeUndefined()
  })

  it('are remembered at once when the view is left before they rest', async () => {
    const { q, router } = await at('/views/7')
    await q.step({ order: ['-severity'] })
    server.on('GET', '/api/views/8', viewOf('8'))
    await router.push('/views/8')
    await settled()
    expect(server.to('PUT', UNSAVED).map((c) => c.body)).toEqual([{ order: ['-severity'] }])
  })

  it('are remembered at once when the page goes before they rest, and behind what waits', async () => {
    const { q } = await at('/views/7')
    server.hold(UNSAVED)
    await q.step({ where: 'severity >= 2' })
    await rested()
    await q.step({ where: 'severity >= 5' })
    window.dispatchEvent(new Event('pagehide'))
    await new Promise((resolve) => setTimeout(resolve))
    expect(server.to('PUT', UNSAVED).map((c) => c.body)).toEqual([
      { statement: 'severity >= 2' },
      { statement: 'severity >= 5' },
    ])
    server.letGo()
  })

  it('of a link that somebody opened are none of theirs', async () => {
    await at('/views/7?where=severity+%3E%3D+5')
    await rested()
    expect(server.to('PUT', UNSAVED)).toHaveLength(0)
  })

  it('are forgotten when the last of them is taken back, and when they are saved', async () => {
    const { q } = await at('/views/7')
    await q.step({ where: 'severity >= 2' })
    await rested()
    q.back()
    await settled()
    expect(server.to('DELETE', UNSAVED)).toHaveLength(1)
  })

  it('are forgotten where they became a view of their own', async () => {
    const { q, keeping } = await at('/views/7')
    await q.step({ where: 'severity >= 2' })
    await rested()
    server.on('POST', '/api/views', viewOf('9', { statement: 'severity >= 2' }))
    server.on('GET', '/api/view-use', [])
    server.on('GET', '/api/views/*/count', { matching: 12, total: 24000, exact: true })
    keeping.startKeeping('copy')
    await keeping.keep('Mine', '', [])
    await settled()
    expect(q.view.value?.id).toBe('9')
    expect(server.to('DELETE', UNSAVED)).toHaveLength(1)
  })

  const LEFT = { ...OWN, unsaved: { changes: { statement: 'severity >= 2' }, at: '2026-11-23T09:18:00Z' } }

  it('of an earlier time are offered, and taken up in one step that can be taken back', async () => {
    server.on('GET', '/api/views/*/own', LEFT)
    const { q, unsaved } = await at('/views/7')
    expect(unsaved.offered.value?.at).toBe('2026-11-23T09:18:00Z')
    await unsaved.show()
    await settled()
    expect(q.where.value).toBe('severity >= 2')
    expect(q.steps.value).toBe(1)
    expect(unsaved.offered.value).toBeUndefined()
    q.back()
    await settled()
    expect(q.where.value).toBe(viewOf('7').statement)
  })

  it('are discarded when their reader says so', async () => {
    server.on('GET', '/api/views/*/own', LEFT)
    const { unsaved, said } = await at('/views/7')
    unsaved.discard()
    await settled()
    expect(server.to('DELETE', UNSAVED)).toHaveLength(1)
    expect(unsaved.offered.value).toBeUndefined()
    expect(said.value).toBe('Your unsaved changes are discarded.')
  })

  it('of somebody who may keep nothing stay in the address, and nothing is said', async () => {
    const warned = vi.spyOn(console, 'error')
    server.on('PUT', UNSAVED, refusal(403, 'forbidden', 'An auditor changes nothing.'))
    const { q, said } = await at('/views/7')
    await q.step({ where: 'severity >= 2' })
    await rested()
    expect(q.where.value).toBe('severity >= 2')
    expect(said.value).toBe('')
    expect(warned).not.toHaveBeenCalled()
  })
})
