import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { refusal, settled, standIn } from '@/testing/server'
import { deskPart, forgetDesk } from './desk'
import { dropEarly } from './early'

const server = standIn()
const DESK = {
  session: { organisation: 'Early' },
  views: [{ id: '1' }],
  pins: [],
  teamLists: [],
  use: [],
  registers: [{ key: 'early' }],
  setup: [],
}
const paths = () => server.calls.map((c) => c.path)

/** As if the page had asked for the frame before its code was there. */
function early(answer: Promise<Response>) {
  window.deftEarly = { asked: { '/api/desk': { at: performance.now(), answer, stop: () => {} } } }
}
const told = (body: unknown) =>
  Promise.resolve(new Response(JSON.stringify(body), { headers: { 'Content-Type': 'application/json' } }))

beforeEach(() => {
  server.on('GET', '/api/session', { organisation: 'Now' })
  server.on('GET', '/api/registers', [{ key: 'now' }])
  server.on('GET', '/api/desk', {
    ...DESK,
    session: { organisation: 'Whole' },
    registers: [{ key: 'whole' }],
  })
})
afterEach(() => {
  forgetDesk()
  dropEarly()
  vi.useRealTimers()
})

describe('the parts of the frame', () => {
  it('that are wanted at one moment are one answer', async () => {
    const parts = await Promise.all([deskPart('session'), deskPart('views'), deskPart('registers')])
    expect(parts[2]).toEqual([{ key: 'whole' }])
    expect(paths()).toEqual(['/api/desk'])
  })

  it('are asked for by themselves where few are wanted', async () => {
    expect(await deskPart('registers')).toEqual([{ key: 'now' }])
    expect(await deskPart('registers')).toEqual([{ key: 'now' }])
    expect(paths()).toEqual(['/api/registers', '/api/registers'])
  })

  it('are taken once each from what the page asked for before its code was there', async () => {
    early(told(DESK))
    expect(await deskPart('session')).toEqual({ organisation: 'Early' })
    expect(await deskPart('registers')).toEqual([{ key: 'early' }])
    expect(server.calls).toHaveLength(0)
    // Whoever asks again wants them as they are now.
    expect(await deskPart('registers')).toEqual([{ key: 'now' }])
  })

  it('of the beginning are old after a while, and for somebody else', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    early(told(DESK))
    await deskPart('session')
    vi.setSystemTime(Date.now() + 6_000)
    expect(await deskPart('registers')).toEqual([{ key: 'now' }])
    early(told(DESK))
    await deskPart('session')
    forgetDesk()
    expect(await deskPart('registers')).toEqual([{ key: 'now' }])
  })

  it('are asked for again where the early answer could not be had', async () => {
    early(Promise.reject(new TypeError('no network')))
    expect(await deskPart('session')).toEqual({ organisation: 'Whole' })
    await settled()
    expect(paths()).toEqual(['/api/desk'])
  })

  it('say why they cannot be had', async () => {
    server.on('GET', '/api/registers', refusal(503, 'unavailable', 'Not now.'))
    await expect(deskPart('registers')).rejects.toThrow('Not now.')
  })
})
