import { watch, type Ref } from 'vue'

/** What happened on the page, as far as it is told. */
interface Told {
  /** the question that is asked, anything that is another value for another one */
  question: () => unknown
  /** what was done last, in words; none before anything was */
  step: () => string | undefined
  /** how many records there are now, in words, once they are counted to the end */
  matching: () => string | undefined
}

/**
 * Tells readers of the screen's words what was done and how many records there are now: one short message for each change, when the
 * number is known, and none when the page is opened.
 *
 * @param said the page's one region for what is told
 */
export function useTold(said: Ref<string>, told: Told) {
  let toldOf: unknown
  let begun = false
  watch([told.question, told.matching], ([question, matching]) => {
    if (matching === undefined || question === toldOf) return
    toldOf = question
    if (begun) said.value = [told.step(), matching].filter(Boolean).join(': ')
    begun = true
  })
}
