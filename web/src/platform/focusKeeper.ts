/** What can have the focus by Tab. */
export const FOCUSABLE =
  'button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), a[href], [tabindex]:not([tabindex="-1"])'
/** So long whoever took something away may say where the keys go, in milliseconds. */
const WAITS = 120

/** what has the keys, or had them until it was taken away */
let last: HTMLElement | undefined

const isSeen = (e: HTMLElement) =>
  e.isConnected && (e.checkVisibility?.({ visibilityProperty: true }) ?? true)

/**
 * Sees to it that the keys are never dropped: when what had them is taken away and nobody says where they go on, they go to what now
 * stands in its place, or else to what stands before it. When it cannot be pressed for a while, they wait for it and come back. Whoever
 * clicks beside everything has left, and is not called back.
 *
 * @param root what is watched
 * @returns ends it
 */
export function keepFocus(root: HTMLElement): () => void {
  /** what stood before what has the keys, the nearest first */
  let before: HTMLElement[] = []
  let timer = 0

  const reached = () => [...root.querySelectorAll<HTMLElement>(FOCUSABLE)].filter(isSeen)

  function onFocusIn(event: FocusEvent) {
    const target = event.target as HTMLElement
    window.clearTimeout(timer)
    if (!root.contains(target)) {
      last = undefined
      return
    }
    last = target
    before = []
    for (const e of root.querySelectorAll<HTMLElement>(FOCUSABLE)) {
      if (e === target || e.compareDocumentPosition(target) & Node.DOCUMENT_POSITION_PRECEDING) break
      before.push(e)
    }
    before.reverse()
  }
  /** What gave the keys away by itself, and could have them still, is not called back either. */
  function onFocusOut() {
    const by = last
    window.setTimeout(() => {
      if (
        last === by &&
        by &&
        document.activeElement === document.body &&
        isSeen(by) &&
        !by.matches(':disabled')
      )
        last = undefined
    })
  }
  function onPointerDown(event: PointerEvent) {
    // What is clicked beside everything that can be reached takes the keys away on purpose.
    if (!(event.target as HTMLElement).closest?.(FOCUSABLE + ', label, [tabindex]')) last = undefined
  }

  function check() {
    if (!last || document.activeElement !== document.body) return
    window.clearTimeout(timer)
    timer = window.setTimeout(restore, WAITS)
  }
  function restore() {
    if (!last || document.activeElement !== document.body) return
    // What is being drawn anew may say itself where they go once it stands.
    if (root.querySelector('[aria-busy="true"]')) return check()
    if (isSeen(last)) {
      // It is there: perhaps it can be pressed again, or it will be.
      if (!last.matches(':disabled')) last.focus({ preventScroll: true })
      return
    }
    const now = reached()
    const anchor = before.find(isSeen)
    const place = anchor ? now[now.indexOf(anchor) + 1] : now[0]
    ;(place ?? anchor)?.focus({ preventScroll: true })
  }

  const watcher = new MutationObserver(check)
  watcher.observe(root, {
    childList: true,
    subtree: true,
    attributes: true,
    attributeFilter: ['disabled', 'hidden', 'aria-busy'],
  })
  document.addEventListener('focusin', onFocusIn)
  document.addEventListener('focusout', onFocusOut)
  document.addEventListener('pointerdown', onPointerDown, true)
  return () => {
    window.clearTimeout(timer)
    watcher.disconnect()
    document.removeEventListener('focusin', onFocusIn)
    document.removeEventListener('focusout', onFocusOut)
    document.removeEventListener('pointerdown', onPointerDown, true)
  }
}

/** How long a page may take to come, in milliseconds; whoever waits longer has looked elsewhere. */
const PAGE_TAKES = 4000

/**
 * Gives the keys to the heading of the page that was gone to, once it is there, unless they are somewhere already: in the list beside
 * the pages, or where the page put them.
 *
 * @param same whether it is the page that is there already
 */
export async function focusHeading(same = false) {
  const heading = () => document.querySelector<HTMLElement>('#page h1')
  const old = heading()
  last = undefined
  for (let waited = 0; waited < PAGE_TAKES; waited += 50) {
    await new Promise((done) => setTimeout(done, 50))
    if (document.activeElement !== document.body) return
    const now = heading()
    // A page that shows another register or view keeps its heading, with another name.
    if (!now || (now === old && !same && waited < 500)) continue
    now.tabIndex = -1
    now.focus({ preventScroll: true })
    return
  }
}

/** Gives the keys to the first thing in what has just opened in its place. */
export const vFocusFirst = {
  mounted: (opened: HTMLElement) =>
    opened.querySelector<HTMLElement>(FOCUSABLE)?.focus({ preventScroll: true }),
}
