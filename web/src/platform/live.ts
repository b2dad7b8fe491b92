import { onBeforeUnmount } from 'vue'

/** Told the registers that changed, or may have; the latter when the line was opened, first or again. */
type Listener = (registers: string[], opened: 'first' | 'again' | undefined) => void

const listeners = new Set<Listener>()
let source: EventSource | undefined
let watched = ''

/** Listens for changes of records in these registers, as server-sent events; the line comes back by itself. */
export function watchRegisters(keys: string[]) {
  const wanted = [...keys].sort().join()
  if (wanted === watched) return
  stopWatching()
  if (!wanted) return
  watched = wanted
  source = new EventSource('/api/changes?registers=' + encodeURIComponent(wanted))
  let opened = false
  source.addEventListener('open', () => {
    for (const listener of listeners) listener(keys, opened ? 'again' : 'first')
    opened = true
  })
  source.addEventListener('changed', (event) => {
    const { registers } = JSON.parse((event as MessageEvent<string>).data) as { registers: string[] }
    for (const listener of listeners) listener(registers, undefined)
  })
}

export function stopWatching() {
  source?.close()
  source = undefined
  watched = ''
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
