import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, data, type SetupStep } from '@/api/client'
import { deskPart } from '@/api/desk'
import { useSession } from '@/people/session'

export type { SetupStep }

/** The steps by which a new installation is set up; none where it did not begin empty. For administrators. */
export const useSetup = defineStore('setup', () => {
  const session = useSession()
  const steps = ref<SetupStep[]>([])

  async function load() {
    if (!session.isAdministrator) return
    steps.value = await deskPart('setup')
  }

  /** Leaves a step for later, or takes it up again. */
  async function leave(step: SetupStep['step'], later: boolean) {
    steps.value = await data(api.PUT('/api/setup/{step}', { params: { path: { step } }, body: { later } }))
  }

  return { steps, load, leave }
})
