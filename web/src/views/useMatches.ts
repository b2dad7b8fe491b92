import { nextTick, ref, watch, type Ref } from 'vue'
import { number } from '@/platform/format'
import type { useRows } from '@/rows/useRows'

/** The most records that are read on at a stroke. */
const MOST_READ_ON = 5_000

/**
 * Goes from match to match where all records are shown, reading on where the next one is further down.
 *
 * @param table what the records stand in
 * @param asked changes with the question
 */
export function useMatches(
  { rows, done, trouble, more }: ReturnType<typeof useRows>,
  table: Ref<{ toMatch: (by: 1 | -1) => boolean } | undefined>,
  asked: () => unknown,
) {
  /** that there is no further one, in words */
  const noMatch = ref('')
  watch(asked, () => (noMatch.value = ''))

  /** Goes to the next record that matches, or the one before. */
  async function toMatch(by: 1 | -1) {
    noMatch.value = ''
    if (table.value?.toMatch(by)) return
    const from = rows.value.length
    if (by === -1) {
      noMatch.value = 'There is no match before this one.'
      return
    }
    while (!done.value && !trouble.value && rows.value.length - from < MOST_READ_ON) {
      const until = rows.value.length
      await more()
      if (rows.value.length === until) break
      await nextTick()
      if (rows.value.slice(until).some((r) => r.matches !== false) && table.value?.toMatch(1)) return
    }
    noMatch.value = done.value
      ? 'There is no further match.'
      : `No match in the next ${number(rows.value.length - from)}; press again to read on.`
  }
  return { noMatch, toMatch }
}
