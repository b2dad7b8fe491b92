import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, data, type Register, type RegisterName } from '@/api/client'
import { deskPart } from '@/api/desk'
import { forgetDefinitions } from '@/platform/definitions'
import { plainKey } from './added'
import { sideCounts } from '@/views/sideCounts'

/** The registers there are; each description is fetched once. */
export const useCatalogue = defineStore('catalogue', () => {
  const names = ref<RegisterName[]>([])
  const totals = ref<Record<string, number>>({})
  const known = new Map<string, Promise<Register>>()
  let loading: Promise<void> | undefined
  let loads = 0
  let nowLoaded = () => {}
  let loaded: Promise<void>
  const begin = () => (loaded = new Promise<void>((resolve) => (nowLoaded = resolve)))
  begin()
  /** Once it is known which registers there are. */
  const whenLoaded = () => loaded

  /**
   * Which registers there are, anew. Those who ask while it is being found out wait for the same answer; nobody waits
   * for the counts, which come in one by one.
   */
  function load(): Promise<void> {
    if (loading) return loading
    const mine = ++loads
    loading = deskPart('registers')
      .then((found) => {
        // Something was made or taken away meanwhile, and is being asked about.
        if (mine !== loads) return
        names.value = found
        nowLoaded()
        void countAll(found.map((n) => n.key))
      })
      .finally(() => {
        if (mine === loads) loading = undefined
      })
    return loading
  }

  /** A count that cannot be had leaves its place empty; the register can be opened without it. */
  async function countAll(keys: string[]) {
    const before = loads
    try {
      const found = await sideCounts([], keys)
      if (before !== loads) return
      totals.value = { ...totals.value, ...found.registers }
      for (const key of found.later.registers) if (keys.includes(key)) await countOne(key).catch(() => {})
    } catch {
      // The list stands without its numbers.
    }
  }

  function describe(key: string): Promise<Register> {
    let found = known.get(key)
    if (!found) {
      found = data(api.GET('/api/registers/{key}', { params: { path: { key } } }))
      found.catch(() => known.delete(key))
      known.set(key, found)
    }
    return found
  }

  /** Keeps a description that came with another answer. */
  function know(register: Register) {
    known.set(register.key, Promise.resolve(register))
  }

  /** Forgets what is known: registers were made or changed. */
  function forget() {
    known.clear()
    loading = undefined
  }

  /** Forgets what is known of one register, since it was changed; also with what is added to its fields. */
  function forgetOne(key: string) {
    for (const one of [...known.keys()]) if (plainKey(one) === plainKey(key)) known.delete(one)
  }

  /** Counts the records of registers anew. */
  const recount = (keys: string[]) => {
    const there = keys.filter((key) => names.value.some((n) => n.key === key))
    return there.length ? countAll(there) : Promise.resolve()
  }

  async function countOne(key: string) {
    const before = loads
    const count = await data(api.POST('/api/registers/{key}/count', { params: { path: { key } }, body: {} }))
    if (before !== loads) return
    totals.value = { ...totals.value, [key]: count.total }
  }

  /** Forgets everything: somebody else, who may see other registers and fields, may sign in next. */
  function clear() {
    forget()
    loads++
    names.value = []
    totals.value = {}
    forgetDefinitions()
    begin()
  }

  return { names, totals, load, whenLoaded, describe, know, forget, forgetOne, clear, recount }
})
