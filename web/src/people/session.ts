import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, data, type Session } from '@/api/client'

/** Who is signed in. */
export const useSession = defineStore('session', () => {
  const current = ref<Session>()
  let asked = false

  async function load(again = false) {
    if (asked && !again) return
    try {
      current.value = await data(api.GET('/api/session'))
    } catch {
      current.value = undefined
    }
    asked = true
  }

  async function signIn(name: string, password: string) {
    current.value = (await data(api.POST('/api/session', { body: { name, password } }))) as Session
    asked = true
  }

  async function signOut() {
    await api.DELETE('/api/session').catch(() => {})
    forget()
  }

  function forget() {
    current.value = undefined
    asked = true
  }

  const zone = computed(() => current.value?.zone ?? 'UTC')
  const mayWrite = computed(() => current.value?.person.role !== 'AUDITOR')
  const isAdministrator = computed(() => current.value?.person.role === 'ADMINISTRATOR')

  return { current, zone, mayWrite, isAdministrator, load, signIn, signOut, forget }
})
