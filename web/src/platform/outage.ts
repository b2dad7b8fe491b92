import { ref } from 'vue'
import { takeEarly } from '@/api/early'

/** How many calls that only read wait for a server that cannot answer just now. */
const waiting = ref(0)
const why = ref('')

/** What is said while calls wait; nothing while none does. */
export function useOutage() {
  return { waiting, why }
}

const AGAIN_MS = 3000
const READING =
  /^\/api\/(registers\/[^/]+\/(rows|groups|count|comparison|parts|values|edges|histogram|distribution|pasted|why|statement|complete)|windows\/.*|counts)$/

/** Whether a call changes nothing, so that it can be made again. */
function reads(request: Request): boolean {
  return request.method === 'GET' || READING.test(new URL(request.url).pathname)
}

/**
 * Fetches like the browser does, but waits where the database cannot be reached: a call that only reads is made again
 * until it is answered or nobody wants it any more. What changes something is refused at once, and never made twice.
 */
export async function patientFetch(request: Request): Promise<Response> {
  if (!reads(request)) return fetch(request)
  let counted = false
  try {
    for (;;) {
      const answer = await ((request.method === 'GET' && early(request)) || fetch(request.clone()))
      if (answer.status !== 503) return answer
      const problem = (await answer
        .clone()
        .json()
        .catch(() => ({}))) as { code?: string; detail?: string }
      if (problem.code !== 'database-away') return answer
      if (!counted) waiting.value++
      counted = true
      why.value = problem.detail ?? ''
      await pause(request.signal)
    }
  } finally {
    if (counted) waiting.value--
  }
}

/** What the page asked for before its code was there; one that could not be had is asked for again. */
function early(request: Request): Promise<Response> | undefined {
  const { pathname, search } = new URL(request.url)
  const found = takeEarly(pathname + search)
  if (!found) return undefined
  request.signal.addEventListener('abort', found.stop)
  return found.answer.catch((e) => {
    if (request.signal.aborted) throw e
    return fetch(request.clone())
  })
}

function pause(signal: AbortSignal): Promise<void> {
  return new Promise((go, stop) => {
    const timer = window.setTimeout(go, AGAIN_MS)
    signal.addEventListener('abort', () => {
      window.clearTimeout(timer)
      stop(new DOMException('nobody wants it any more', 'AbortError'))
    })
  })
}
