import { onBeforeUnmount } from 'vue'
import { hear } from './definitions'

/** Told the registers that changed, or may have, since the line had been away for a while. */
type Listener = (registers: string[], again: boolean) => void

const listeners = new Set<Listener>()
let source: EventSource | undefined
let watched: string[] = []
let opened = false

/**
 * Listens for changes of records in all registers, as server-sent events; the line comes back by itself.
 *
 * @param keys the registers that the reader may see now; with others it is opened anew
 */
export function watchRegisters(keys: string[]) {
  if ([...keys].sort().join() === [...watched].sort().join()) return
  stopWatching()
  watched = keys
  opened = false
  document.addEventListener('visibilitychange', onVisibility)
  open()
}

/** After how long a line is tried again that the server, or something before it, refused; in milliseconds. */
const AGAIN_AFTER = 15_000
let later = 0

function open() {
  window.clearTimeout(later)
  if (!watched.length || source || document.hidden) return
  // All that the reader may see; an address has no room to name hundreds of them.
  // What changed while the page was loading, and its answers were on the way, is told at once.
  source = new EventSource(opened ? '/api/changes' : `/api/changes?age=${Math.ceil(performance.now())}`)
  source.addEventListener('open', () => {
    if (opened) tell(watched, true)
    opened = true
  })
  // A line that breaks off comes back by itself; one that is refused does not.
  source.addEventListener('error', () => {
    if (source?.readyState !== EventSource.CLOSED) return
    close()
    later = window.setTimeout(open, AGAIN_AFTER)
  })
  source.addEventListener('changed', (event) => {
    const { registers } = JSON.parse((event as MessageEvent<string>).data) as { registers: string[] }
    tell(registers, false)
  })
  source.addEventListener('defined', (event) => {
    const { registers } = JSON.parse((event as MessageEvent<string>).data) as {
      registers: Record<string, string>
    }
    for (const [register, word] of Object.entries(registers)) hear(register, word)
  })
}

/** A browser holds few lines to one server: a page that nobody sees gives its own back. */
function onVisibility() {
  if (document.hidden) close()
  else open()
}

function tell(registers: string[], again: boolean) {
  for (const listener of listeners) listener(registers, again)
}

function close() {
  window.clearTimeout(later)
  source?.close()
  source = undefined
}

export function stopWatching() {
  document.removeEventListener('visibilitychange', onVisibility)
  close()
  watched = []
}

/** Calls back when records change, for as long as the component is there. */
export function onChanges(listener: Listener) {
  listeners.add(listener)
  onBeforeUnmount(() => listeners.delete(listener))
}

/**
 * Makes sure that something is done at most once in a while, and that the last wish is never lost; not while nobody looks.
 */
export function calmly(act: () => Promise<void> | void, every = 1000) {
  let waiting = false
  let busy = false
  let wanted = false
  async function run() {
    if (document.hidden) {
      document.addEventListener('visibilitychange', () => void run(), { once: true })
      return
    }
    waiting = false
    busy = true
    wanted = false
    try {
      await act()
    } finally {
      busy = false
      if (wanted) wish()
    }
  }
  function wish() {
    if (busy) wanted = true
    else if (!waiting) {
      waiting = true
      window.setTimeout(run, every)
    }
  }
  return wish
}
