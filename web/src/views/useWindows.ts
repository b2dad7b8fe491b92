import type { Ref } from 'vue'
import { api, data, sentence } from '@/api/client'
import { writtenIn } from '@/platform/zones'
import { firstWindowed, isStretch, phraseOf, windowsOn } from '@/rows/rail'
import * as trees from '@/statements/tree'
import type { useChanges } from './useChanges'
import type { useQuestion } from './useQuestion'

/**
 * Windows that are drawn on the time rail, and steps to those before and after.
 *
 * @param q the question of the page
 * @param zone the zone whose days count
 * @param change writes another statement in the place of the one there is
 */
export function useWindows(
  q: ReturnType<typeof useQuestion>,
  zone: Ref<string>,
  change: ReturnType<typeof useChanges>['change'],
  said: Ref<string>,
  mishap: Ref<string>,
) {
  const { register, read, asOf } = q

  /** Makes a window: of the criterion at the path, or as a new criterion on the field. */
  async function setWindow(period: string, field: string, path?: string) {
    const spans = register.value!.fields.find((f) => f.key === field)?.type === 'span'
    await change(
      (tree) => {
        if (path === undefined)
          return trees.add(tree, '', 'all', { field, test: spans ? 'overlaps' : 'in', period })
        const own = trees.at(tree, path)
        return trees.replace(tree, path, { field, test: spans ? own.test : 'in', period })
      },
      { paths: path === undefined ? [] : [path] },
    )
  }

  let stepping = Promise.resolve()
  /** Goes to the window of the same length right before or after the first one, or the first one on a field; quick keys queue. */
  function stepWindow(later: boolean, field?: string) {
    const left = q.leaving()
    stepping = stepping.then(() => toNeighbour(later, field, left))
    return stepping
  }
  async function toNeighbour(later: boolean, wanted: string | undefined, left: () => boolean) {
    if (left()) return
    const field = wanted ?? firstWindowed(read.value?.outline)
    const window = windowsOn(read.value?.outline, field ? [field] : []).find(isStretch)
    if (!window || !field) {
      said.value = 'There is no window with two ends to step from.'
      return
    }
    const node = window.node
    const phrase =
      typeof node.period === 'string' && !node.period.startsWith('{')
        ? node.period
        : typeof node.from === 'string'
          ? `${node.from} to ${node.to}`
          : phraseOf(writtenIn(window.from!, zone.value), writtenIn(window.to!, zone.value))
    try {
      const found = await data(
        api.POST('/api/windows/neighbours', { body: { phrase, now: asOf.value, zone: q.zone.value } }),
      )
      const next = later ? found.after : found.before
      if (next && !left()) await setWindow(next, field, window.path)
    } catch (e) {
      mishap.value = sentence(e)
    }
  }

  return { setWindow, stepWindow }
}
