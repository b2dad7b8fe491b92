import { onBeforeUnmount, ref } from 'vue'
import { api, data, type ImportRun } from '@/api/client'
import { useRefusal } from '@/platform/useRefusal'

/** How often it is asked how a run goes, in milliseconds. */
const ASK_EVERY = 350

/**
 * A run that brings a file in or takes one back, watched until it ends.
 *
 * @param ended is called when it is done and something was written
 */
export function useImportRun(ended: (run: ImportRun) => unknown) {
  const run = ref<ImportRun>()
  const { trouble, troubleId, refused } = useRefusal()
  let timer = 0

  /** Begins a run by a call, and watches it. */
  async function begin(call: () => Promise<ImportRun>) {
    trouble.value = ''
    try {
      run.value = await call()
      await watch()
    } catch (e) {
      refused(e)
    }
  }

  async function watch() {
    const now = run.value
    if (now?.state === 'DONE') return ended(now)
    if (now?.state !== 'RUNNING') return
    timer = window.setTimeout(async () => {
      try {
        const next = await data(api.GET('/api/imports/{id}', { params: { path: { id: now.id } } }))
        // Somebody went back to the columns meanwhile.
        if (run.value?.id !== now.id) return
        run.value = next
        trouble.value = ''
      } catch (e) {
        refused(e)
      }
      void watch()
    }, ASK_EVERY)
  }

  async function stop() {
    await api.DELETE('/api/imports/{id}', { params: { path: { id: run.value!.id } } }).catch(refused)
  }

  onBeforeUnmount(() => window.clearTimeout(timer))

  return { run, trouble, troubleId, begin, stop }
}
