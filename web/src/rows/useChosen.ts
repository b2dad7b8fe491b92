import { computed, ref, shallowRef, watch } from 'vue'
import type { Row } from '@/api/client'

/** Which records are meant: those with these numbers, or all that match but those. */
export interface Meant {
  all: boolean
  ids: string[]
}

/**
 * The records that somebody has chosen on a page, by one, from one to another, all that match, or the others. They stay chosen while the
 * page is scrolled, ordered and shaped otherwise, until another question is asked.
 *
 * @param question what decides which records match; another one lets all of them go
 * @param matching how many match, where that is known
 */
export function useChosen(question: () => string, matching: () => number | undefined) {
  /** those that are chosen, or, where all are, those that are not; with their values as far as they were read */
  const rows = shallowRef(new Map<string, Row>())
  const all = ref(false)
  /** from where the next range goes */
  const anchor = ref<string>()
  watch(question, none)

  const number = computed(() =>
    all.value ? Math.max(0, (matching() ?? 0) - rows.value.size) : rows.value.size,
  )
  const some = computed(() => all.value || rows.value.size > 0)
  const has = (id: string) => rows.value.has(id) !== all.value
  const meant = computed<Meant>(() => ({ all: all.value, ids: [...rows.value.keys()] }))

  function put(those: Row[], chosen: boolean) {
    const now = new Map(rows.value)
    for (const row of those) {
      if (chosen === all.value) now.delete(row.id)
      else now.set(row.id, row)
    }
    rows.value = now
  }

  /** Chooses a record, or no more. */
  function toggle(row: Row) {
    put([row], !has(row.id))
    anchor.value = row.id
  }

  /**
   * Chooses all from the last one that was chosen, or let go, to this one.
   *
   * @param shown the records as they are shown
   */
  function rangeTo(row: Row, shown: Row[]) {
    const to = shown.findIndex((r) => r.id === row.id)
    const from = shown.findIndex((r) => r.id === anchor.value)
    if (to < 0) return
    put(from < 0 ? [row] : shown.slice(Math.min(from, to), Math.max(from, to) + 1), true)
    if (from < 0) anchor.value = row.id
  }

  /** Chooses all that match, whether they are on the page or not. */
  function everything() {
    all.value = true
    rows.value = new Map()
  }
  /** Chooses those of all that match that are not, and lets the others go. */
  function invert() {
    all.value = !all.value
  }
  function none() {
    all.value = false
    rows.value = new Map()
    anchor.value = undefined
  }

  return { number, some, has, meant, rows, all, toggle, rangeTo, everything, invert, none }
}
