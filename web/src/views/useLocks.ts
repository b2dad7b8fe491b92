import { computed, type Ref } from 'vue'
import type { ReadStatement, View } from '@/api/client'
import type { Node } from '@/statements/tree'

const outermost = (tree: Node) => ('all' in tree ? (tree.all as Node[]) : [tree])

/**
 * The parts of a view that its reader may not change, wherever they stand in what the page asks now.
 *
 * @param view the view of the page, if it shows one
 * @param tree the statement as it stands
 * @param read the statement as the server read it; absent while it cannot be read
 */
export function useLocks(view: Ref<View | undefined>, tree: Ref<Node>, read: Ref<ReadStatement | undefined>) {
  const nodes = computed(() => {
    if (!view.value || view.value.mayChange) return []
    const parts = outermost(view.value.condition as Node)
    return view.value.locked.map((i) => JSON.stringify(parts[i]))
  })
  /** their paths */
  const locked = computed(
    () =>
      new Set(
        outermost(tree.value).flatMap((part, i) =>
          nodes.value.includes(JSON.stringify(part)) ? ['all' in tree.value ? `/all/${i}` : ''] : [],
        ),
      ),
  )
  /** whether somebody wrote a statement in which one of them is no longer there */
  const unlocked = computed(() => read.value !== undefined && locked.value.size < nodes.value.length)
  return { locked, unlocked }
}
