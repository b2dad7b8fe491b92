import { onBeforeUnmount, onMounted, watch, type Ref } from 'vue'
import type { Outline } from '@/api/client'
import { textAt, type Node } from './tree'

/** What the keys were at: a phrase with what it says, or the editor of one, or of a new one. */
interface Place {
  element: HTMLElement
  path?: string
  says?: string
}

/**
 * Keeps the keys at the phrase they were at while the statement is drawn anew around it: a phrase that is switched off, moved
 * or wrapped takes them along, and from an editor that closes they go to what it was about. Nothing happens when the reader
 * has gone elsewhere meanwhile.
 *
 * @param root the statement on the page; its phrases stand in elements with `data-path`
 * @param outline the statement as it is drawn
 * @param tree the same as a tree
 * @param opened what is open for writing
 * @param settling whether the statement is being read, so that it will be drawn anew in a moment
 */
export function useFocusKept(
  root: Ref<HTMLElement | undefined>,
  outline: () => Outline | undefined,
  tree: () => Node,
  opened: () => unknown,
  settling: () => boolean,
) {
  let place: Place | undefined

  const pathOf = (element: Element | null | undefined) =>
    element?.closest<HTMLElement>('[data-path]')?.dataset.path
  function note(event: Event) {
    const target = event.target as HTMLElement
    if (!root.value?.contains(target)) place = undefined
    else if (target.closest('.editor')) place = { element: target, path: pathOf(target.closest('.editor')) }
    else if (target.matches('.phrase, .tool')) {
      const path = pathOf(target)
      place = path === undefined ? undefined : { element: target, path, says: saying(path) }
    } else place = undefined
  }
  /** What a part says, without what switches it off. */
  const saying = (path: string) => textAt(tree(), path)?.replace(/^\{"off":(.*)\}$/, '$1')

  const phrases = () => [...(root.value?.querySelectorAll<HTMLElement>('[data-path] > .line .phrase') ?? [])]

  function restore() {
    if (!place) return
    const { element, path, says } = place
    // What had the keys is drawn no more; or it is drawn still, and says something else perhaps.
    const lost = !element.isConnected
    // What can be done with a part may be done again, as long as it stands there.
    if (!lost && (document.activeElement !== element || element.matches('.tool'))) return
    const there = phrases()
    const same = there.filter((p) => says !== undefined && saying(pathOf(p)!) === says)
    // Of several that say the same, the one that stands where it stood.
    const found = same.find((p) => pathOf(p) === path) ?? same.at(-1)
    if (found) found.focus()
    else if (lost) {
      const next = there.find((p) => samePlace(pathOf(p), path)) ?? there.at(-1)
      ;(next ?? root.value?.querySelector<HTMLElement>('.add'))?.focus()
    }
  }
  const samePlace = (a?: string, b?: string) => a?.replace(/\/off$/, '') === b?.replace(/\/off$/, '')

  watch(outline, restore, { flush: 'post' })
  // What was written is not drawn yet when its editor closes; what was left as it was is.
  watch(opened, () => !settling() && restore(), { flush: 'post' })
  const away = (event: Event) => {
    if (!(event.target as HTMLElement).closest?.('.phrase, .editor, .panel, .el-popper')) place = undefined
  }
  onMounted(() => {
    document.addEventListener('focusin', note)
    document.addEventListener('pointerdown', away)
  })
  onBeforeUnmount(() => {
    document.removeEventListener('focusin', note)
    document.removeEventListener('pointerdown', away)
  })
}
