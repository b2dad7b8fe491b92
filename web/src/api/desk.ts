import { isEarly } from './early'
import { api, data, type Desk } from './client'

/** How each part is asked for by itself. */
const ALONE: { [K in keyof Desk]: () => Promise<Desk[K]> } = {
  session: () => data(api.GET('/api/session')) as Promise<Desk['session']>,
  views: () => data(api.GET('/api/views')) as Promise<Desk['views']>,
  pins: () => data(api.GET('/api/pins')) as Promise<Desk['pins']>,
  teamLists: () => data(api.GET('/api/team-lists')) as Promise<Desk['teamLists']>,
  use: () => data(api.GET('/api/view-use')) as Promise<Desk['use']>,
  registers: () => data(api.GET('/api/registers')) as Promise<Desk['registers']>,
  setup: () => data(api.GET('/api/setup')) as Promise<Desk['setup']>,
}
/** From so many parts on, all of them in one answer cost less. */
const WORTH_ALL = 3
/** How long, in milliseconds, the answer that the page began with is still that of its beginning. */
const BEGINNING = 5_000

type Part = keyof Desk

/** What is wanted at this moment, by all who ask before the next. */
let wanted = new Set<Part>()
let gathering: Promise<{ [K in Part]?: Promise<Desk[K]> }> | undefined
/** The answer that the page began with: each part is taken once. */
let beginning: { answer: Promise<Desk>; left: Set<Part>; until: number } | undefined

function whole(): Promise<Desk> {
  return data(api.GET('/api/desk')) as Promise<Desk>
}

/**
 * A part of what the frame of a page shows, as it is now. Whoever asks for parts at the same moment shares one call for all of them; what
 * was asked early, while the page was loading, is taken first.
 */
export function deskPart<K extends Part>(part: K): Promise<Desk[K]> {
  if (isEarly('/api/desk')) {
    const left = new Set(Object.keys(ALONE) as Part[])
    beginning = { answer: whole(), left, until: Date.now() + BEGINNING }
    // Told to each who takes a part.
    beginning.answer.catch(() => {})
  }
  if (beginning?.left.has(part) && Date.now() < beginning.until) {
    beginning.left.delete(part)
    return beginning.answer.then((desk) => desk[part])
  }
  wanted.add(part)
  gathering ??= Promise.resolve().then(() => {
    const parts = [...wanted]
    wanted = new Set()
    gathering = undefined
    if (parts.length >= WORTH_ALL) {
      const answer = whole()
      return Object.fromEntries(parts.map((p) => [p, answer.then((desk) => desk[p])]))
    }
    return Object.fromEntries(parts.map((p) => [p, ALONE[p]()]))
  })
  return gathering.then((parts) => parts[part] as Promise<Desk[K]>)
}

/** Forgets what the page began with: somebody else reads from now on. */
export function forgetDesk() {
  beginning = undefined
}
