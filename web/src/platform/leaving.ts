import { onScopeDispose } from 'vue'
import { useRouter, type RouteLocationNormalized } from 'vue-router'

/** Whether an address has a statement of its own. */
const asks = (at: RouteLocationNormalized) => at.query.where !== undefined || at.hash !== ''

/**
 * Tells, of anything that waits for the server before it goes somewhere, whether the reader has begun to go elsewhere meanwhile: to
 * another page, or to this one as it is without what was asked on it. Where they went counts; what comes late must not take them away
 * from there again.
 *
 * Going is noticed as soon as it begins, before the address says so. Another question on the same page is no leaving, and neither is what
 * the page does itself (`own`).
 *
 * @returns a function that marks now, and gives the question "has the reader left since?"
 */
export function useLeaving() {
  let left = 0
  let byItself = 0
  const noMore = useRouter().beforeEach((to, from) => {
    if (to.path !== from.path || (!byItself && asks(from) && !asks(to))) left++
  })
  onScopeDispose(noMore)
  const mark = () => {
    const before = left
    return () => left !== before
  }
  /** Goes somewhere on the page's own account. */
  mark.own = async <T>(go: () => Promise<T>): Promise<T> => {
    byItself++
    try {
      return await go()
    } finally {
      byItself--
    }
  }
  return mark
}
