import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, data, type Session } from '@/api/client'
import { deskPart, forgetDesk } from '@/api/desk'
import { dropEarly } from '@/api/early'

/** Who is signed in. */
export const useSession = defineStore('session', () => {
  const current = ref<Session>()
  let asked = false

  async function load(again = false) {
    if (asked && !again) return
    // Whoever reads it again knows that something is otherwise than when the page began.
    if (again) {
      forgetDesk()
      dropEarly()
    }
    try {
      current.value = await deskPart('session')
    } catch {
      current.value = undefined
    }
    asked = true
  }

  /** The organisation's clock and the reader's own matters, as they are now; they hold once they are taken. */
  const read = () => {
    forgetDesk()
    return deskPart('session')
  }
  const take = (fresh: Session) => (current.value = fresh)
  async function refresh() {
    take(await read())
  }

  async function signIn(name: string, password: string) {
    forgetDesk()
    dropEarly()
    current.value = (await data(api.POST('/api/session', { body: { name, password } }))) as Session
    asked = true
  }

  async function signOut() {
    await api.DELETE('/api/session').catch(() => {})
    forget()
  }

  function forget() {
    forgetDesk()
    dropEarly()
    current.value = undefined
    asked = true
  }

  /** Whether keys of one letter do something anywhere on the desk. */
  const letterKeys = computed(() => current.value?.letterKeys ?? true)
  async function useLetterKeys(on: boolean) {
    await api.PUT('/api/account/letter-keys', { body: { on } })
    if (current.value) current.value = { ...current.value, letterKeys: on }
  }

  const zone = computed(() => current.value?.zone ?? 'UTC')
  /** The administrator who looks as this person. */
  const watcher = computed(() => current.value?.lookedAtBy ?? undefined)
  const mayWrite = computed(() => current.value?.person.role !== 'AUDITOR' && !watcher.value)
  const isAdministrator = computed(() => current.value?.person.role === 'ADMINISTRATOR')
  const readsEverything = computed(() => current.value?.person.role !== 'MEMBER')

  /** Looks as somebody else from now on; the whole interface is opened anew as theirs. */
  async function lookAs(person: string, to = location.pathname + location.search + location.hash) {
    await api.POST('/api/session/looking-as', { body: { person } })
    location.assign(to)
  }
  async function lookAsOneself() {
    await api.DELETE('/api/session/looking-as')
    location.reload()
  }

  return {
    current,
    zone,
    letterKeys,
    useLetterKeys,
    watcher,
    mayWrite,
    isAdministrator,
    readsEverything,
    load,
    read,
    take,
    refresh,
    signIn,
    signOut,
    forget,
    lookAs,
    lookAsOneself,
  }
})
