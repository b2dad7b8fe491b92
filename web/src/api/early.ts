/** Answers that `early.js` asked for before the code of the page had come, by their addresses. */
interface Early {
  asked: Record<string, EarlyAnswer | undefined>
}

/** An answer on its way, and how to let go of it. */
interface EarlyAnswer {
  /** when it was asked for, in milliseconds as {@link Performance.now} counts them */
  at: number
  answer: Promise<Response>
  stop: () => void
}

declare global {
  interface Window {
    deftEarly?: Early
  }
}

/** After this, in milliseconds, an answer is one of before. */
const OLD = 10_000

/** Whether an answer is on its way that nobody has taken yet. */
export function isEarly(address: string): boolean {
  const found = window.deftEarly?.asked[address]
  return found !== undefined && performance.now() - found.at < OLD
}

/** Takes such an answer; each is for one taker. */
export function takeEarly(address: string): EarlyAnswer | undefined {
  const found = isEarly(address) ? window.deftEarly!.asked[address] : undefined
  if (window.deftEarly) delete window.deftEarly.asked[address]
  return found
}

/** Lets go of answers that turned out not to be wanted. */
export function stopEarly(beginning: string) {
  for (const [address, early] of Object.entries(window.deftEarly?.asked ?? {})) {
    if (!address.startsWith(beginning)) continue
    early?.stop()
    delete window.deftEarly!.asked[address]
  }
}

/** Drops what was asked early: somebody else may be reading from now on. */
export function dropEarly() {
  for (const early of Object.values(window.deftEarly?.asked ?? {})) early?.stop()
  delete window.deftEarly
}
