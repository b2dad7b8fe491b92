import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, data, type Pin, type View } from '@/api/client'

/** The views open to the reader. */
export const useViews = defineStore('views', () => {
  const all = ref<View[]>([])
  const counts = ref<Record<number, string>>({})
  const pins = ref<Pin[]>([])
  const loaded = ref(false)

  async function load() {
    all.value = await data(api.GET('/api/views'))
    pins.value = await data(api.GET('/api/pins'))
    loaded.value = true
    void countAll()
  }

  /** Counts come one after the other, so that they never stand in the way of rows. */
  async function countAll() {
    await countSome(all.value.slice(0, 40).map((v) => v.id))
  }

  /** Counts the views of some registers anew: their records changed. */
  async function recount(registers: string[]) {
    await countSome(
      all.value
        .filter((v) => registers.includes(v.register))
        .slice(0, 40)
        .map((v) => v.id),
    )
  }

  /** Pins a view to the list, or takes it off. */
  async function togglePin(id: number) {
    const now = pins.value.map((p) => p.id)
    const wanted = now.includes(id) ? now.filter((p) => p !== id) : [...now, id]
    pins.value = await data(api.PUT('/api/pins', { body: { views: wanted } }))
  }

  /** Moves a pinned view up or down. */
  async function movePin(id: number, by: -1 | 1) {
    const wanted = pins.value.map((p) => p.id)
    const from = wanted.indexOf(id)
    const to = from + by
    if (from < 0 || to < 0 || to >= wanted.length) return
    wanted.splice(to, 0, ...wanted.splice(from, 1))
    pins.value = await data(api.PUT('/api/pins', { body: { views: wanted } }))
  }

  async function countSome(ids: number[]) {
    for (const id of ids) {
      try {
        const count = await data(api.GET('/api/views/{id}/count', { params: { path: { id } } }))
        const text = new Intl.NumberFormat('en-GB').format(count.matching) + (count.exact ? '' : '+')
        counts.value = { ...counts.value, [id]: text }
      } catch {
        counts.value = { ...counts.value, [id]: '!' }
      }
    }
  }

  function put(view: View) {
    all.value = [...all.value.filter((v) => v.id !== view.id), view].sort((a, b) =>
      a.name.localeCompare(b.name, 'en-GB'),
    )
    void countAll()
  }

  function remove(id: number) {
    all.value = all.value.filter((v) => v.id !== id)
    pins.value = pins.value.filter((p) => p.id !== id)
  }

  /** Forgets everything: somebody else may sign in next. */
  function clear() {
    all.value = []
    pins.value = []
    counts.value = {}
    loaded.value = false
  }

  const isPinned = (id: number) => pins.value.some((p) => p.id === id)
  const mine = computed(() => all.value.filter((v) => v.mine && !isPinned(v.id)))
  const fromColleagues = computed(() => all.value.filter((v) => !v.mine && !isPinned(v.id)))

  return {
    all,
    pins,
    counts,
    loaded,
    mine,
    fromColleagues,
    isPinned,
    load,
    put,
    remove,
    recount,
    togglePin,
    movePin,
    clear,
  }
})

/** With whom a view is shared, in a few words. */
export function sharing(view: View): string {
  if (!view.shares.length) return view.mine ? 'only for you' : `${view.owner.fullName}’s own`
  const names = view.shares.map((s) => `${s.label}, ${s.mayChange ? 'to change' : 'to look'}`)
  const shown = names.slice(0, 2).join('; ') + (names.length > 2 ? ` and ${names.length - 2} more` : '')
  return view.mine ? `shared with ${shown}` : `from ${view.owner.fullName}, shared with ${shown}`
}
