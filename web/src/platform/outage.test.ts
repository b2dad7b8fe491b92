import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { patientFetch, useOutage } from './outage'

const away = () =>
  new Response(JSON.stringify({ code: 'database-away', detail: 'The database cannot be reached.' }), {
    status: 503,
  })
const original = globalThis.fetch
const asked = vi.fn<(request: Request) => Promise<Response>>()

beforeEach(() => {
  vi.useFakeTimers()
  asked.mockReset()
  globalThis.fetch = asked as typeof fetch
})
afterEach(() => {
  vi.useRealTimers()
  globalThis.fetch = original
})

const rows = (signal?: AbortSignal) =>
  new Request('http://localhost/api/registers/defects/rows', { method: 'POST', body: '{}', signal })

it('makes a reading call again until it is answered, and says that it waits', async () => {
  asked.mockImplementationOnce(async () => away()).mockImplementationOnce(async () => away())
  asked.mockImplementation(async (r) => new Response(await r.text()))
  const answer = patientFetch(rows())
  await vi.advanceTimersByTimeAsync(100)
  expect(useOutage().waiting.value).toBe(1)
  expect(useOutage().why.value).toBe('The database cannot be reached.')
  await vi.advanceTimersByTimeAsync(6000)
  expect(await (await answer).text()).toBe('{}')
  expect(asked).toHaveBeenCalledTimes(3)
  expect(useOutage().waiting.value).toBe(0)
})

it('stops waiting when nobody wants the answer any more', async () => {
  asked.mockImplementation(async () => away())
  const controller = new AbortController()
  const answer = patientFetch(rows(controller.signal)).catch((e: DOMException) => e.name)
  await vi.advanceTimersByTimeAsync(100)
  controller.abort()
  expect(await answer).toBe('AbortError')
  expect(useOutage().waiting.value).toBe(0)
})

it('never makes twice what changes something, nor repeats what is refused for another reason', async () => {
  asked.mockImplementation(async () => away())
  const put = new Request('http://localhost/api/views/1/shares', { method: 'PUT', body: '{}' })
  expect((await patientFetch(put)).status).toBe(503)
  asked.mockImplementation(async () => new Response('{"code":"busy"}', { status: 503 }))
  expect((await patientFetch(rows())).status).toBe(503)
  expect(asked).toHaveBeenCalledTimes(2)
})
