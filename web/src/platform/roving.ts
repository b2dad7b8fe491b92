import type { Directive } from 'vue'
import { alongArrows } from './arrows'

const ITEMS = 'button:not(:disabled), input[type=checkbox]:not(:disabled)'
const CHOSEN = '[aria-checked="true"], [aria-pressed="true"], [aria-current="true"]'

/** What an arrow does besides going there: radio buttons are chosen by it. */
type Goes = ((item: HTMLElement) => void) | undefined

const goes = new WeakMap<HTMLElement, Goes>()
const items = (group: HTMLElement) => [...group.querySelectorAll<HTMLElement>(ITEMS)]

/** Gives the Tab stop to the one that has the keys, that had them, that is chosen, or that stands first. */
function give(group: HTMLElement) {
  const all = items(group)
  const stop =
    all.find((item) => item === document.activeElement) ??
    all.find((item) => item.matches(CHOSEN)) ??
    all.find((item) => item.tabIndex === 0) ??
    all[0]
  // Set only where it is another: a change here must not bring about another one.
  for (const item of all) {
    const wanted = item === stop ? '0' : '-1'
    if (item.getAttribute('tabindex') !== wanted) item.setAttribute('tabindex', wanted)
  }
}

function arrows(event: KeyboardEvent) {
  const group = event.currentTarget as HTMLElement
  const at = (event.target as HTMLElement).closest<HTMLElement>(ITEMS)
  const to = at && alongArrows(event, items(group), at, 'both')
  if (!to) return
  event.preventDefault()
  event.stopPropagation()
  to.focus()
  goes.get(group)?.(to)
}

/**
 * Makes the buttons or boxes to tick of a group one Tab stop, gone along by arrows, Home and End (WAI-ARIA: toolbars and groups of
 * radio buttons; long lists of values as well, so that what follows them is near). The
 * value is called with the button that an arrow went to; a group of radio buttons chooses it there.
 *
 * @example <div v-roving="(item) => (test = item.dataset.test)" role="radiogroup">
 */
export const vRoving: Directive<HTMLElement, Goes> = {
  mounted(group, { value }) {
    goes.set(group, value)
    give(group)
    group.addEventListener('keydown', arrows)
    group.addEventListener('focusin', () => give(group))
  },
  updated(group, { value }) {
    goes.set(group, value)
    give(group)
  },
}
