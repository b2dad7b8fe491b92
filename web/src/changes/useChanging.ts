import { computed, reactive, ref, type Ref } from 'vue'
import type { Count, Register } from '@/api/client'
import { useSession } from '@/people/session'
import { useChosen } from '@/rows/useChosen'
import { askedOf, type Question } from '@/rows/useRows'

/**
 * What is done with the records of a page at once: which are chosen, which of the dialogs about them is open, and the change that was just
 * made, to be taken back.
 *
 * @param page what the page shows
 * @param said what is said on it
 * @param again reads the records anew
 */
export function useChanging(
  page: Readonly<{
    register: Ref<Register | undefined>
    asked: Ref<Question>
    count: Ref<Count | undefined>
    recordsAt: Ref<string | undefined>
    asTotals: Ref<boolean>
  }>,
  said: Ref<string>,
  again: () => void,
) {
  const session = useSession()
  const chosen = useChosen(
    () => JSON.stringify({ ...askedOf(page.asked.value), register: page.asked.value.register }),
    () => (page.count.value?.exact === false ? undefined : page.count.value?.matching),
  )
  /** whether each record has a box */
  const boxes = ref(false)
  const open = reactive({
    change: false,
    changes: false,
    since: false,
    compare: false,
    common: false,
    related: false,
    post: false,
  })
  /** whether the change is one of those that are chosen */
  const ofChosen = ref(false)
  const last = ref<{ words: string; change: string }>()

  /** Records are changed as they are now, by who may write. */
  const mayChange = computed(
    () =>
      Boolean(page.register.value?.mayChangeMany) &&
      session.mayWrite &&
      !page.recordsAt.value &&
      !page.asTotals.value,
  )

  function begin(those: 'all' | 'chosen') {
    ofChosen.value = those === 'chosen'
    open.change = true
  }
  /** Shows what was changed at once in the register, and asks nothing about any of it. */
  function list() {
    last.value = undefined
    open.changes = true
  }
  /** Says what was changed, and shows the records as they are by now. */
  function done(words: string, change?: string) {
    again()
    said.value = words
    if (ofChosen.value) chosen.none()
    last.value = change === undefined ? undefined : { words, change }
  }

  return { chosen, boxes, open, ofChosen, last, mayChange, begin, list, done }
}
