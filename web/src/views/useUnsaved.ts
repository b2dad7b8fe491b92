import { computed, onScopeDispose, watch, type Ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, data, type Own, type Unsaved } from '@/api/client'
import { useCatalogue } from '@/registers/catalogue'
import type { useQuestion } from './useQuestion'

/** How long changes rest before they are remembered, in milliseconds. */
export const RESTS = 600

/** What waits to be asked of the server: one after the other, so that what came first never overtakes what came last. */
const queue: (() => Promise<unknown>)[] = []
let asking = false
async function ask() {
  asking = true
  for (let call = queue.shift(); call; call = queue.shift())
    try {
      await call()
    } catch {
      // Whoever may not keep anything has the changes in the address.
    }
  asking = false
}
function send(call: () => Promise<unknown>) {
  queue.push(call)
  if (!asking) void ask()
}
/** Sends what waits while the page goes; nothing is there any more to wait for an answer. */
function sendAll() {
  queue.splice(0).forEach((call) => void call().catch(() => {}))
}

/** A page that goes takes what it asks with it, unless that is said to live on; of so many characters at the most. */
const MOST_KEPT_ALIVE = 60_000
const livesOn = (body: unknown) => JSON.stringify(body).length < MOST_KEPT_ALIVE

/** Forgets a reader's unsaved changes of a view: they are saved elsewhere, or not wanted. */
export const forgetUnsaved = (id: string) =>
  send(() => data(api.DELETE('/api/views/{id}/own/unsaved', { params: { path: { id } }, keepalive: true })))

/**
 * Remembers what a reader changes on a view and leaves unsaved, and offers it when they come back to the view.
 *
 * @param q the question of the page
 * @param said what is announced once something is done
 */
export function useUnsaved(q: ReturnType<typeof useQuestion>, said: Ref<string>) {
  const { view, own, unsaved } = q
  const route = useRoute()
  const catalogue = useCatalogue()
  /** the view whose changes were made, or taken up again, on this page, and so are no news to its reader */
  let here = ''
  let waiting: { timer: number; id: string; changes: Unsaved['changes'] } | undefined

  function remember() {
    if (!waiting) return
    const { timer, id, changes } = waiting
    waiting = undefined
    window.clearTimeout(timer)
    send(() =>
      data(
        api.PUT('/api/views/{id}/own/unsaved', {
          params: { path: { id } },
          body: changes,
          keepalive: livesOn(changes),
        }),
      ),
    )
  }

  let shown: string | undefined
  watch(
    [() => view.value?.id, () => JSON.stringify(unsaved.value), () => q.steps.value > 0],
    ([id]) => {
      if (id !== shown) {
        remember()
        here = ''
        shown = id
      }
      // On the way to another page the view stands there still, but what is asked is the other page's already.
      if (!id || route.params.id !== id) return
      if (unsaved.value && q.steps.value > 0) {
        here = id
        window.clearTimeout(waiting?.timer)
        waiting = { id, changes: unsaved.value, timer: window.setTimeout(remember, RESTS) }
      } else if (!unsaved.value && here === id) {
        // Undone to the last, or saved.
        here = ''
        window.clearTimeout(waiting?.timer)
        waiting = undefined
        forget(id)
      }
    },
    { immediate: true },
  )
  function leavePage() {
    remember()
    sendAll()
  }
  window.addEventListener('pagehide', leavePage)
  onScopeDispose(() => {
    window.removeEventListener('pagehide', leavePage)
    remember()
  })

  function forget(id: string) {
    if (own.value && view.value?.id === id) own.value = { ...own.value, unsaved: undefined } as Own
    forgetUnsaved(id)
  }

  /** What is offered: changes of an earlier time, on a page that shows the view without any. */
  const offered = computed(() =>
    view.value && !unsaved.value && !q.asShared.value ? (own.value?.unsaved ?? undefined) : undefined,
  )

  /** Takes the changes up again, as one step that can be taken back. */
  async function show() {
    const { statement, columns, order, shape, zone, register } = offered.value!.changes
    const added = register ? await catalogue.describe(register).catch(() => undefined) : undefined
    await q.step({
      added,
      where: statement ?? undefined,
      columns: columns ?? undefined,
      order: order ?? undefined,
      shape: (shape as Parameters<typeof q.step>[0]['shape']) ?? undefined,
      zone: zone ?? undefined,
    })
  }
  function discard() {
    forget(view.value!.id)
    said.value = 'Your unsaved changes are discarded.'
  }
  return { offered, show, discard }
}
