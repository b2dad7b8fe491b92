import { ref, watch, type Ref } from 'vue'
import { useRoute } from 'vue-router'
import { isAborted, sentence } from '@/api/client'
import { windowsOn } from '@/rows/rail'
import { withSum, type Shape } from '@/rows/shape'
import type { Place, TotalsFinding } from '@/totals/sheet'
import type { useQuestion } from './useQuestion'

/**
 * A question that is read as totals: what of it is changed, and the way from a figure to its records.
 *
 * @param on where it says what went wrong, what opens what the rows are, and what goes to the top of the sheet
 */
export function useTotalsOf(
  q: ReturnType<typeof useQuestion>,
  on: { mishap: Ref<string>; shapeFirst: () => void; toTop: () => void },
) {
  const route = useRoute()
  const { register, read, shape, asTotals, totals } = q

  /** How these records were read as totals last, for whoever comes back from their list. */
  const last = ref<Shape['totals']>()
  watch(
    [() => route.path, () => shape.value.totals] as const,
    ([path, now], [before]) => (last.value = now ?? (path === before ? last.value : undefined)),
    { immediate: true },
  )

  /** Reads the same records as totals, or as records again. */
  async function readAs(what: 'records' | 'totals') {
    if ((what === 'totals') === asTotals.value) return
    if (what === 'records') return q.step({ shape: { ...shape.value, totals: undefined } })
    const { groups: rowsBy } = shape.value
    // Totals are of all that matches.
    await q.step({
      shape: {
        ...shape.value,
        // Where there are no rows there are none to leave out.
        totals: { ...last.value, ...(rowsBy?.length ? {} : { keep: undefined, limit: undefined }) },
        take: undefined,
        marked: undefined,
        running: undefined,
      },
    })
    if (!rowsBy?.length) on.shapeFirst()
  }

  /** Changes how they are read. */
  const change = (parts: Shape['totals']) =>
    q.step({ shape: { ...shape.value, totals: { ...shape.value.totals, ...parts } } })
  /** Takes a criterion out of those on records and puts it to those on figures, in one step. */
  const holdAfter = ({ statement, keep }: TotalsFinding) =>
    q.step({ where: statement, shape: { ...shape.value, totals: { ...shape.value.totals, keep } } })

  /** Goes to the records behind a figure, as a list with the same figures on its last line; a step back comes to the totals again. */
  async function openFigure(place: Place) {
    try {
      const statement = await totals.behind(place)
      const { measures, totals: as } = shape.value
      await q.step({
        where: statement,
        shape: {
          ...shape.value,
          totals: undefined,
          groups: undefined,
          // A balance is the sum of its records, which stands on their last line.
          measures: as?.balances ? withSum(measures, register.value!.running!) : measures,
        },
      })
      on.toTop()
    } catch (e) {
      if (!isAborted(e)) on.mishap.value = sentence(e)
    }
  }

  /** The criterion whose place a window takes that is drawn over a chart: the only one that there is on its field. */
  function placeOfWindow(field: string): string | undefined {
    const own = windowsOn(read.value?.outline, [field])
    return own.length === 1 ? own[0]!.path : undefined
  }

  return { readAs, change, holdAfter, openFigure, placeOfWindow }
}
