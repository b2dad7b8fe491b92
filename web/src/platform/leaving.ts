import { onScopeDispose } from 'vue'
import { useRouter } from 'vue-router'

/**
 * Tells, of anything that waits for the server before it goes somewhere, whether the reader has begun to go to another
 * page meanwhile. Where they went counts; what comes late must not take them away from there again.
 *
 * Going is noticed as soon as it begins, before the address says so. Another question on the same page is no leaving.
 *
 * @returns a function that marks now, and gives the question "has the reader left since?"
 */
export function useLeaving(): () => () => boolean {
  let left = 0
  const noMore = useRouter().beforeEach((to, from) => {
    if (to.path !== from.path) left++
  })
  onScopeDispose(noMore)
  return () => {
    const before = left
    return () => left !== before
  }
}
