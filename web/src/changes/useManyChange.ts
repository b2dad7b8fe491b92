import { onBeforeUnmount, ref } from 'vue'
import { api, data, type Schemas } from '@/api/client'
import { useRefusal } from '@/platform/useRefusal'

/** How often it is asked how a job goes, in milliseconds. */
const ASK_EVERY = 300

/**
 * A job that changes many records or takes a change back, watched until it ends.
 *
 * @param ended is called when it is done
 */
export function useManyChange(ended: (run: Schemas['ManyChangeRun']) => unknown) {
  const run = ref<Schemas['ManyChangeRun']>()
  const { trouble, troubleId, refused } = useRefusal()
  let timer = 0
  let key = ''

  /** Begins a job by a call, and watches it. */
  async function begin(register: string, call: () => Promise<Schemas['Begun']>) {
    trouble.value = ''
    run.value = undefined
    key = register
    try {
      const { job } = await call()
      run.value = { job, state: 'WAITING', phase: '', share: 0, message: '' }
      watch()
    } catch (e) {
      refused(e)
    }
  }

  function watch() {
    timer = window.setTimeout(async () => {
      try {
        run.value = await data(
          api.GET('/api/registers/{key}/changes/jobs/{job}', {
            params: { path: { key, job: run.value!.job } },
          }),
        )
        trouble.value = ''
      } catch (e) {
        refused(e)
      }
      const now = run.value!
      if (now.state === 'DONE') ended(now)
      else if (now.state === 'FAILED') trouble.value = now.message
      else if (now.state === 'STOPPED') trouble.value = 'Stopped. Nothing was written.'
      else watch()
    }, ASK_EVERY)
  }

  const goesOn = () => run.value?.state === 'WAITING' || run.value?.state === 'RUNNING'

  async function stop() {
    await api
      .DELETE('/api/registers/{key}/changes/jobs/{job}', { params: { path: { key, job: run.value!.job } } })
      .catch(refused)
  }

  onBeforeUnmount(() => window.clearTimeout(timer))

  return { run, trouble, troubleId, refused, begin, stop, goesOn }
}
