import { computed, ref, type Ref } from 'vue'
import type { Register } from '@/api/client'
import { AS_LISTED, readOrder } from '@/rows/orders'
import { withoutField } from '@/rows/shape'
import type { Node } from '@/statements/tree'
import type { useQuestion } from './useQuestion'

/** How many criteria of a statement are on a field, or hold it against another. */
function criteriaOn(part: Node, key: string): number {
  const own = part.field === key || part.other === key ? 1 : 0
  return Object.values(part)
    .flat()
    .filter((below): below is Node => typeof below === 'object' && below !== null)
    .reduce((sum, below) => sum + criteriaOn(below, key), own)
}

/**
 * Fields that are calculated for the question of a page alone: one is added, changed or taken away, each as a step.
 *
 * @param q the question of the page
 * @param tree its statement
 */
export function useCalculating(q: ReturnType<typeof useQuestion>, tree: Readonly<Ref<Node>>) {
  const open = ref(false)
  const field = ref<string>()
  /** How many criteria are on the field, those on its figures included. */
  const criteria = computed(() => {
    const key = field.value
    if (!key) return 0
    const { keep } = q.shape.value.totals ?? {}
    return criteriaOn(tree.value, key) + (keep?.match(new RegExp(`_of_${key}\\b`)) ? 1 : 0)
  })

  function start(key?: string) {
    field.value = key
    open.value = true
  }
  /** Asks with a field from now on; a new one is shown. */
  function take(added: Register, key: string) {
    const isNew = field.value === undefined && !q.shape.value.totals
    const [first, ...rest] = q.columns.value
    // Beside what names the record, where it is seen at once.
    void q.step({ added, columns: isNew ? [first!, key, ...rest] : undefined })
  }
  /** Asks without the field from now on, and shows nothing of it. */
  function drop(added: Register) {
    const key = field.value!
    const columns = q.columns.value.filter((c) => c !== key)
    void q.step({
      added,
      columns: columns.length ? columns : [added.titleField],
      order: q.order.value.filter((o) => readOrder(o).field !== key && o !== AS_LISTED + key),
      shape: withoutField(q.shape.value, key),
    })
  }
  return { open, field, criteria, start, take, drop }
}
