import { nextTick, onScopeDispose, watch, type Ref } from 'vue'
import { useRoute } from 'vue-router'

/** What floats over the page: keys in it are still in what it was opened from. */
const FLOATING = '[role=menu], [role=dialog], .el-popper'

/** A table that answers are read in. */
export interface Table {
  /** what it stands in, while it is there */
  table: () => HTMLElement | undefined
  /**
   * Puts the keys where they were last.
   *
   * @param stop the button of the heads that they were at, by its `data-stop`
   */
  focus: (stop?: string) => unknown
}

/**
 * Brings the keys back to a table whose lines, or which itself, was taken away while another answer was waited for; unless somebody has
 * done anything else meanwhile.
 *
 * @param shown what the table shows, and whether that is only held until the next answer comes
 * @param table the table while it is there
 */
export function useKeysKept(shown: Ref<{ held: boolean } | undefined>, table: Ref<Table | null | undefined>) {
  const route = useRoute()
  /** where the keys are in the table, or were when it was taken away */
  let place: { stop?: string } | undefined
  let away = false
  const holds = (target: EventTarget | null) => table.value?.table()?.contains(target as Element) ?? false

  function came(event: FocusEvent) {
    const target = event.target as HTMLElement
    if (holds(target)) place = { stop: target.closest<HTMLElement>('thead [data-stop]')?.dataset.stop }
    // While the table is away the keys may be put elsewhere by the page itself.
    else if (!away && !target.closest(FLOATING)) place = undefined
  }
  function acted(event: Event) {
    if (away && !holds(event.target)) place = undefined
  }
  document.addEventListener('focusin', came)
  document.addEventListener('keydown', acted, true)
  document.addEventListener('pointerdown', acted, true)
  onScopeDispose(() => {
    document.removeEventListener('focusin', came)
    document.removeEventListener('keydown', acted, true)
    document.removeEventListener('pointerdown', acted, true)
  })

  watch(
    () => route.path,
    () => (place = undefined),
  )
  // Before the page is drawn anew: what has the keys has them still.
  watch(shown, (now) => {
    if (!now || now.held) {
      away = true
    } else if (away) {
      away = false
      const to = place
      void nextTick(() => {
        if (to && !holds(document.activeElement)) void table.value?.focus(to.stop)
      })
    }
  })
}
