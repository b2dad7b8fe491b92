import { onBeforeUnmount } from 'vue'

/** In which header an answer says what it rests on beside the records. */
export const DEFINITIONS = 'X-Definitions'

/** Told the register whose answers rest on something else from now on. */
type Listener = (register: string) => void

const listeners = new Set<Listener>()
const known = new Map<string, { since: number; stamp: string }>()

/**
 * Notes what the answers of a register rest on: its fields and bands, the organisation's calendar, what the reader may see.
 * Whoever shows answers is told when that is something else than before.
 *
 * @param word how often anything was changed, and a stamp, as the server writes them: `41-9f3a0c77d2be1845`; an empty
 *     one says that the register is gone
 */
export function hear(register: string, word: string) {
  const parts = /^(\d+)-(\w+)$/.exec(word)
  const before = known.get(register)
  if (!parts) {
    known.delete(register)
    if (before) tell(register)
    return
  }
  const now = { since: Number(parts[1]), stamp: parts[2]! }
  // An answer from before the change that came late says nothing new.
  if (before && now.since < before.since) return
  known.set(register, now)
  if (before && before.stamp !== now.stamp) tell(register)
}

function tell(register: string) {
  for (const listener of [...listeners]) listener(register)
}

/** Somebody else signs in next, for whom it is something else altogether. */
export function forgetDefinitions() {
  known.clear()
}

/** Calls back when answers rest on something else, for as long as the component is there. */
export function onDefinitions(listener: Listener) {
  listeners.add(listener)
  onBeforeUnmount(() => listeners.delete(listener))
}
