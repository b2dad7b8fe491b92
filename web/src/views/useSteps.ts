import { computed, ref, watch } from 'vue'
import { useRoute, useRouter, type LocationQueryRaw } from 'vue-router'
import type { useLeaving } from '@/platform/leaving'

/** What was done is remembered here while the tab is open, also after the page was loaded again. */
const STORED = 'deft-steps'

/**
 * The steps of a page, each an entry of the browser's history with a few words, so that back undoes it. Each entry says which opening of
 * the page it belongs to; one that says nothing was opened anew.
 */
export function useSteps(leaving: ReturnType<typeof useLeaving>) {
  const route = useRoute()
  const router = useRouter()
  /** how many steps were done since the page was opened */
  const steps = ref(0)
  /** the steps in words, also those that were taken back */
  const done = ref<string[]>(remembered())
  const stepsAhead = computed(() => Math.max(0, done.value.length - steps.value))
  /** a step whose statement is not in words yet, and the statement */
  let wordless: { step: number; where: string } | undefined

  function remembered(): string[] {
    try {
      const kept = JSON.parse(sessionStorage.getItem(STORED) ?? '{}') as {
        opening?: string
        done?: string[]
      }
      return kept.opening && kept.opening === history.state?.opening ? (kept.done ?? []) : []
    } catch {
      return []
    }
  }
  function keepDone() {
    sessionStorage.setItem(
      STORED,
      JSON.stringify({ opening: history.state?.opening as string, done: done.value }),
    )
  }

  /**
   * Goes to an address by a step.
   *
   * @param words what it is called; none is remembered where the address is the same
   * @param where a statement whose words come later
   */
  async function take(to: { query: LocationQueryRaw; hash: string }, words: string, where?: string) {
    const before = route.fullPath
    const count = steps.value
    const opening = (history.state?.opening as string | undefined) ?? crypto.randomUUID()
    if (count === 0) history.replaceState({ ...history.state, opening }, '')
    await leaving.own(() => router.push({ ...to, state: { step: count + 1, opening } }))
    if (route.fullPath === before) return
    done.value = [...done.value.slice(0, count), words]
    keepDone()
    steps.value = count + 1
    if (where) wordless = { step: count, where }
  }

  /** Says a step in the words in which its statement was read; one that cannot be read, as it was written. */
  function word(statement: string, words: string) {
    if (wordless?.where !== statement || !words) return
    const { step } = wordless
    wordless = undefined
    done.value = done.value.map((said, i) => (i === step ? words : said))
    keepDone()
  }

  /** What an entry of the history has to keep when its address changes without a step. */
  const stateOfStep = () => ({ step: steps.value, opening: history.state?.opening as string | undefined })
  /** Where the page stands among its steps, by the entry of the history it is at. */
  function locate() {
    steps.value = Number(history.state?.step ?? 0)
    done.value = remembered()
  }
  watch(() => route.fullPath, locate, { immediate: true })

  function back() {
    if (steps.value > 0) router.back()
  }
  function forward() {
    if (stepsAhead.value > 0) router.forward()
  }
  /** Goes to the state after so many steps; 0 is how the page was opened. */
  function goToStep(count: number) {
    if (count !== steps.value) router.go(count - steps.value)
  }

  return { steps, done, stepsAhead, take, word, stateOfStep, back, forward, goToStep }
}
