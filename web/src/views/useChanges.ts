import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { sentence } from '@/api/client'
import { CHANGED_MEANWHILE, haveChanged, placing, type Opened, type Resting } from '@/statements/desk'
import { EVERYTHING, textAt, type Change, type Node } from '@/statements/tree'
import type { useQuestion } from './useQuestion'

/**
 * The statement of a page as a tree, and changes of it. Each change waits for the ones before it and is made of what they
 * left, so that none takes another one back however late the server answers; what is open for writing meanwhile stays open.
 */
export function useChanges(q: ReturnType<typeof useQuestion>) {
  const route = useRoute()
  const tree = computed(() => (q.read.value?.condition ?? EVERYTHING) as Node)
  const opened = ref<Opened>()
  const mishap = ref('')

  /** the statement in which the open part was pointed at */
  let openedIn = tree.value
  watch(opened, () => (openedIn = tree.value), { flush: 'sync' })

  let landing: { opened?: Opened; from: Node; to: Node } | undefined
  let queue = Promise.resolve()

  /** Makes a change once those before it are made. */
  function change(make: Change, resting: Resting = {}): Promise<void> {
    const left = q.leaving()
    const seen = resting.seen ?? tree.value
    queue = queue.then(async () => {
      if (left()) return
      try {
        await q.whenRead()
        if (left()) return
        const now = tree.value
        if (haveChanged(seen, now, resting.paths)) {
          mishap.value = CHANGED_MEANWHILE
          return
        }
        const changed = make(now)
        if (!changed) {
          mishap.value = resting.otherwise ?? ''
          return
        }
        mishap.value = ''
        landing = { opened: opened.value, from: now, to: changed }
        await q.rewrite(changed)
        if (opened.value === landing.opened) opened.value = undefined
        await q.whenRead()
      } catch (e) {
        if (!left()) mishap.value = sentence(e)
      } finally {
        landing = undefined
      }
    })
    return queue
  }

  /** Puts what was written into the statement, in the place that it was opened for. */
  function apply(node: Node): Promise<void> {
    return change(...placing(opened.value!, node, openedIn))
  }

  /** Whether what is open was opened while a change was on its way that leaves its place as it is. */
  function staysOpen(): boolean {
    if (!landing || !opened.value || opened.value === landing.opened) return false
    const { path, adds } = opened.value
    return (adds === 'all' && path === '') || textAt(landing.from, path) === textAt(landing.to, path)
  }
  watch([q.where, () => route.path], () => {
    if (!staysOpen()) opened.value = undefined
  })
  // What went wrong stands until the reader goes on; a state that arrives by itself does not take it away.
  watch([q.steps, () => route.path], () => (mishap.value = ''))

  return { tree, opened, mishap, change, apply }
}
