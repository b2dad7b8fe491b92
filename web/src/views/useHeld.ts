import { onScopeDispose, shallowRef, watch } from 'vue'

/** How long an answer may be seen after its question, in milliseconds: as long as a wait needs no word. */
export const HELD = 300

/**
 * What a page shows of an answer: the one there is, or for a moment, marked as such, the one before. A quick step does not
 * blink that way, and the keys stay where they are; a slow one leaves nothing of before beside the new question.
 *
 * @param live the answer as it stands, absent while there is none
 * @param gone whether the answer that is shown has nothing to do with what the page is about any more
 * @param arrived told when an answer has taken the place of the one before
 */
export function useHeld<T>(
  live: () => T | undefined,
  gone: (answer: T) => boolean,
  arrived: () => void = () => {},
) {
  const shown = shallowRef<{ answer: T; held: boolean }>()
  let timer = 0

  watch(
    [live, () => shown.value !== undefined && gone(shown.value.answer)] as const,
    ([now, left]) => {
      if (now !== undefined) {
        const before = shown.value?.held
        window.clearTimeout(timer)
        shown.value = { answer: now, held: false }
        if (before) arrived()
      } else if (left) {
        window.clearTimeout(timer)
        shown.value = undefined
      } else if (shown.value && !shown.value.held) {
        shown.value = { answer: shown.value.answer, held: true }
        timer = window.setTimeout(() => (shown.value = undefined), HELD)
      }
    },
    // Once all that a step changes has changed, so that no old records are taken for those of a new question.
    { immediate: true, flush: 'post' },
  )
  onScopeDispose(() => window.clearTimeout(timer))
  return shown
}
