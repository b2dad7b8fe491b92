import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, data, type Register, type RegisterName } from '@/api/client'

/** The registers there are; each description is fetched once. */
export const useCatalogue = defineStore('catalogue', () => {
  const names = ref<RegisterName[]>([])
  const totals = ref<Record<string, number>>({})
  const known = new Map<string, Promise<Register>>()

  async function load() {
    names.value = await data(api.GET('/api/registers'))
    for (const { key } of names.value) {
      const count = await data(
        api.POST('/api/registers/{key}/count', { params: { path: { key } }, body: {} }),
      )
      totals.value = { ...totals.value, [key]: count.total }
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

  /** Forgets what is known: registers were made or changed. */
  function forget() {
    known.clear()
  }

  /** Counts the records of one register anew. */
  async function recount(key: string) {
    if (!names.value.some((n) => n.key === key)) return
    const count = await data(api.POST('/api/registers/{key}/count', { params: { path: { key } }, body: {} }))
    totals.value = { ...totals.value, [key]: count.total }
  }

  return { names, totals, load, describe, forget, recount }
})
