import { onBeforeUnmount, shallowReactive, watchEffect } from 'vue'

/** Something that can be done on the page, for the palette. */
export interface Action {
  words: string
  /** what kind of thing it is */
  what: string
  /** the key that does the same, if one does */
  key?: string
  run(): void
}

const offered = shallowReactive(new Map<symbol, Action[]>())

/** Offers what can be done on a page for as long as it is there. */
export function offerActions(actions: () => Action[]) {
  const own = Symbol('actions')
  watchEffect(() => offered.set(own, actions()))
  onBeforeUnmount(() => offered.delete(own))
}

/** Everything that can be done now. */
export function allActions(): Action[] {
  return [...offered.values()].flat()
}
