import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { ref, shallowRef } from 'vue'
import type { View } from '@/api/client'
import { using, viewOf } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import { usePresence } from './usePresence'

const server = standIn()
const PRESENCE = '/api/views/7/presence'
const others = { others: [{ fullName: 'Bo Lindqvist', changing: true }], version: 3 }

beforeEach(() => {
  server.on('PUT', '/api/views/*/presence', others)
  server.on('DELETE', '/api/views/*/presence/*', undefined)
})
afterEach(() => vi.useRealTimers())

async function present(view = shallowRef<View | undefined>(viewOf('7')), changing = ref(false)) {
  const { made, leave } = await using('/views/7', () => usePresence(view, changing))
  return { ...made, view, changing, leave }
}

describe('who else has a view open', () => {
  it('is told at once, and whether this page has changes with every sign of life', async () => {
    const { together, changing, leave } = await present()
    expect(together.value).toEqual(others)
    changing.value = true
    await settled()
    expect(server.to('PUT', PRESENCE).map((c) => (c.body as { changing: boolean }).changing)).toEqual([
      false,
      true,
    ])
    leave()
  })

  it('is nobody once the page has left; nothing more is said then', async () => {
    const { leave } = await present()
    const page = (server.to('PUT', PRESENCE)[0]!.body as { page: string }).page
    leave()
    await settled()
    expect(server.to('DELETE', `${PRESENCE}/${page}`)).toHaveLength(1)
  })

  it('is not said by a page that left while its sign of life was under way', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'], shouldAdvanceTime: true })
    const { leave, changing } = await present()
    server.hold(PRESENCE)
    changing.value = true
    await settled()
    leave()
    server.letGo()
    await settled()
    const said = server.to('PUT', PRESENCE).length
    await vi.advanceTimersByTimeAsync(30_000)
    expect(server.to('PUT', PRESENCE)).toHaveLength(said)
  })

  it('goes on with the view that is opened next', async () => {
    const { view, together, leave } = await present()
    view.value = viewOf('8')
    await settled()
    expect(server.calls.filter((c) => c.method === 'DELETE')).toHaveLength(1)
    expect(server.to('PUT', '/api/views/8/presence')).toHaveLength(1)
    expect(together.value).toEqual(others)
    leave()
  })

  it('tells when the view was deleted, and when it is back', async () => {
    server.on('PUT', PRESENCE, refusal(404, 'not-found', 'This view is not there.'))
    const { gone, changing, leave } = await present()
    expect(gone.value).toBe(true)
    server.on('PUT', PRESENCE, others)
    changing.value = true
    await settled()
    expect(gone.value).toBe(false)
    leave()
  })

  it('is not told by a server that cannot answer just now', async () => {
    server.on('PUT', PRESENCE, refusal(503, 'busy', 'Try again in a moment.'))
    const { gone, leave } = await present()
    expect(gone.value).toBe(false)
    leave()
  })
})
