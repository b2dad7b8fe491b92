import { onBeforeUnmount, ref, watch } from 'vue'
import { announce } from '@/platform/announcements'

/** How long a message that asks for nothing stands there, in milliseconds. */
const SEEN_FOR = 8_000

/** A change of the question, as far as it is announced. */
interface Change {
  /** the question that is asked, anything that is another value for another one */
  question: () => unknown
  /** what was done last, in words; none before anything was */
  step: () => string | undefined
  /** how many records there are now, in words, once they are counted to the end */
  matching: () => string | undefined
}

/**
 * What a page says of what is done on it: `said` is seen for a moment and announced, changes of the question are announced.
 */
export function useAnnouncements() {
  const said = ref('')
  let passing = 0
  watch(said, (words) => {
    window.clearTimeout(passing)
    if (!words) return
    announce(words)
    passing = window.setTimeout(() => (said.value = ''), SEEN_FOR)
  })
  onBeforeUnmount(() => window.clearTimeout(passing))

  /**
   * Announces what was done and how many records there are now: one short message for each change, when the number is known, and
   * none when the page is opened.
   */
  function announceChanges(change: Change) {
    let announcedOf: unknown
    let begun = false
    watch([change.question, change.matching], ([question, matching]) => {
      if (matching === undefined || question === announcedOf) return
      announcedOf = question
      if (begun) announce([change.step(), matching].filter(Boolean).join(': '))
      begun = true
    })
  }

  return { said, announceChanges }
}
