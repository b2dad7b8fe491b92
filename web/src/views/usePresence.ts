import { onBeforeUnmount, ref, watch, type Ref } from 'vue'
import { api, data, ownHeader, Problem, type Together, type View } from '@/api/client'

/** How often a page says that it is open, in milliseconds; the server forgets it after three such silences. */
const EVERY = 7000

/**
 * Who else has the same view open, and whether somebody changed it since this page read it.
 *
 * @param view the view of the page, if it shows one
 * @param changing whether there are changes on the page that are not kept
 */
export function usePresence(view: Ref<View | undefined>, changing: Ref<boolean>) {
  const together = ref<Together>()
  /** whether the view was deleted, or is no longer shared with the reader */
  const gone = ref(false)
  const page = crypto.randomUUID()
  let timer = 0
  let here = true
  /** the view that was opened and not yet noted as opened */
  let opened: string | undefined

  async function say() {
    window.clearTimeout(timer)
    const id = view.value?.id
    if (id === undefined || !here) return
    if (!document.hidden) {
      try {
        const found = (await data(
          api.PUT('/api/views/{id}/presence', {
            params: { path: { id } },
            body: { page, changing: changing.value, opened: opened === id },
          }),
        )) as Together
        if (opened === id) opened = undefined
        if (view.value?.id === id) together.value = found
        gone.value = false
      } catch (e) {
        // It is said again in a moment; the view may come back.
        if (view.value?.id === id) gone.value = e instanceof Problem && e.status === 404
      }
    }
    // Whoever left meanwhile says no more; where this went to another view, that one has a clock of its own.
    if (here && view.value?.id === id) {
      window.clearTimeout(timer)
      timer = window.setTimeout(say, EVERY)
    }
  }
  function leave(id?: string) {
    window.clearTimeout(timer)
    together.value = undefined
    gone.value = false
    if (id !== undefined) {
      void api.DELETE('/api/views/{id}/presence/{page}', { params: { path: { id, page } } }).catch(() => {})
    }
  }
  watch(
    () => view.value?.id,
    (id, before) => {
      if (before !== undefined) leave(before)
      opened = id
      if (id !== undefined) void say()
    },
    { immediate: true },
  )
  watch(changing, () => void say())
  const back = () => {
    if (!document.hidden) void say()
  }
  // A page that is closed, or goes elsewhere altogether, has no time to wait for an answer.
  const closed = () => {
    const id = view.value?.id
    if (id === undefined) return
    void fetch(`/api/views/${id}/presence/${page}`, {
      method: 'DELETE',
      headers: ownHeader(),
      keepalive: true,
    }).catch(() => {})
  }
  document.addEventListener('visibilitychange', back)
  window.addEventListener('pagehide', closed)
  onBeforeUnmount(() => {
    here = false
    document.removeEventListener('visibilitychange', back)
    window.removeEventListener('pagehide', closed)
    leave(view.value?.id)
  })
  return { together, gone }
}
