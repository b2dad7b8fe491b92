import { afterEach, beforeEach } from 'vitest'

/** One call as the stand-in received it. */
export interface Call {
  method: string
  /** the path, without what follows a question mark */
  path: string
  query: URLSearchParams
  headers: Headers
  body: unknown
}

/** What the stand-in answers: data, a refusal made by {@link refusal}, or what a function makes of the call. */
export type Answer = unknown | ((call: Call) => unknown)

class Refusal {
  constructor(
    readonly status: number,
    readonly body: Record<string, unknown>,
  ) {}
}

/** A refusal as the server sends it, RFC 9457. */
export function refusal(status: number, code: string, detail: string, more: Record<string, unknown> = {}) {
  return new Refusal(status, { code, detail, ...more })
}

/** Waits until nothing is under way any more: answers, and what is drawn and asked after them. */
export async function settled() {
  for (let i = 0; i < 12; i++) await new Promise((done) => setTimeout(done))
}

/**
 * A stand-in for the server during each test of a file: answers are registered by method and path, where `*` stands for
 * one part of a path. A call that nothing was registered for fails the test by a refusal that names it.
 */
export function standIn() {
  const calls: Call[] = []
  const answers: { method: string; path: RegExp; answer: Answer }[] = []
  const held: (() => void)[] = []
  let holding: string | undefined
  let stamp = ''

  async function receive(input: RequestInfo | URL, init?: RequestInit): Promise<Response> {
    const request = new Request(input, init)
    const url = new URL(request.url)
    const text = await request.text()
    const call: Call = {
      method: request.method,
      path: url.pathname,
      query: url.searchParams,
      headers: request.headers,
      body: text ? JSON.parse(text) : undefined,
    }
    calls.push(call)
    if (holding === call.path) {
      await new Promise<void>((go, stop) => {
        held.push(go)
        request.signal.addEventListener('abort', () => stop(new DOMException('stopped', 'AbortError')))
      })
    }
    const found = answers.findLast((a) => a.method === call.method && a.path.test(call.path))
    const composed = found ? undefined : await composedOf(call)
    if (composed) return composed
    const answer = found
      ? await (typeof found.answer === 'function' ? found.answer(call) : found.answer)
      : refusal(500, 'not-registered', `Nothing is registered for ${call.method} ${call.path}.`)
    const [status, body] = answer instanceof Refusal ? [answer.status, answer.body] : [200, answer]
    return new Response(body === undefined ? null : JSON.stringify(body), {
      status: body === undefined ? 204 : status,
      headers: {
        'Content-Type': status < 300 ? 'application/json' : 'application/problem+json',
        ...(stamp && call.path.startsWith('/api/registers/') ? { 'X-Definitions': stamp } : {}),
      },
    })
  }

  const has = (method: string, path: string) => answers.some((a) => a.method === method && a.path.test(path))
  const ask = (path: string, method = 'GET', body?: unknown) =>
    receive(new URL(path, location.href), {
      method,
      body: body === undefined ? undefined : JSON.stringify(body),
    })
  const json = (body: unknown) =>
    new Response(JSON.stringify(body), { status: 200, headers: { 'Content-Type': 'application/json' } })

  /** Calls that answer for several others at once are made of what is registered for those. */
  async function composedOf(call: Call): Promise<Response | undefined> {
    const of = async (parts: Record<string, string>, empty: Record<string, unknown>) => {
      const found: Record<string, unknown> = {}
      for (const [part, path] of Object.entries(parts)) {
        if (!has('GET', path) && part in empty) {
          found[part] = empty[part]
          continue
        }
        const answer = await ask(path)
        if (!answer.ok) return answer
        found[part] = await answer.json()
      }
      return json(found)
    }
    if (call.path === '/api/desk') {
      return of(
        {
          session: '/api/session',
          views: '/api/views',
          pins: '/api/pins',
          teamLists: '/api/team-lists',
          use: '/api/view-use',
          registers: '/api/registers',
          setup: '/api/setup',
        },
        { session: undefined, views: [], pins: [], teamLists: [], use: [], registers: [], setup: [] },
      )
    }
    if (call.path === '/api/counts') {
      const { views = [], registers = [] } = call.body as { views?: string[]; registers?: string[] }
      const counts = {
        views: {} as Record<string, unknown>,
        figures: {},
        registers: {} as Record<string, unknown>,
        later: { views: [], registers: [] },
        failed: [] as string[],
      }
      for (const id of views) {
        const answer = await ask(`/api/views/${id}/count`)
        if (answer.ok) counts.views[id] = await answer.json()
        else counts.failed.push(id)
      }
      for (const key of registers) {
        const answer = await ask(`/api/registers/${key}/count`, 'POST', {})
        if (answer.ok) counts.registers[key] = ((await answer.json()) as { total: number }).total
      }
      return json(counts)
    }
    const page = /^\/api\/views\/([^/]+)\/page$/.exec(call.path)
    if (page && call.method === 'GET') {
      const view = await ask(`/api/views/${page[1]}`)
      if (!view.ok) return view
      const kept = (await view.clone().json()) as { register: string }
      return of(
        {
          view: `/api/views/${page[1]}`,
          own: `/api/views/${page[1]}/own`,
          register: `/api/registers/${kept.register}`,
        },
        {},
      )
    }
    return undefined
  }

  beforeEach(() => {
    calls.length = 0
    answers.length = 0
    held.length = 0
    holding = undefined
    stamp = ''
    globalThis.fetch = receive as typeof fetch
  })
  afterEach(() => {
    // What is asked after its test has ended is for nobody, and goes to no real server.
    globalThis.fetch = () => new Promise(() => {})
  })

  return {
    calls,
    /** The calls of one kind, in the order in which they came. */
    to: (method: string, path: string) => calls.filter((c) => c.method === method && c.path === path),
    /** What answers of registers rest on from now on, as they say it. */
    stamp: (word: string) => (stamp = word),
    on(method: string, path: string, answer: Answer) {
      const pattern = path.replace(/[.]/g, '\\.').replace(/\*/g, '[^/]+')
      answers.push({ method, path: new RegExp(`^${pattern}$`), answer })
    },
    /** Lets calls to a path wait until {@link letGo}. */
    hold: (path: string) => (holding = path),
    letGo() {
      holding = undefined
      held.splice(0).forEach((go) => go())
    },
  }
}
