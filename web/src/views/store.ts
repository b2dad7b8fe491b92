import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, data, type View } from '@/api/client'

/** The views open to the reader. */
export const useViews = defineStore('views', () => {
  const all = ref<View[]>([])
  const counts = ref<Record<number, string>>({})
  const loaded = ref(false)

  async function load() {
    all.value = await data(api.GET('/api/views'))
    loaded.value = true
    void countAll()
  }

  /** Counts come one after the other, so that they never stand in the way of rows. */
  async function countAll() {
    for (const { id } of all.value.slice(0, 40)) {
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
  }

  /** Forgets everything: somebody else may sign in next. */
  function clear() {
    all.value = []
    counts.value = {}
    loaded.value = false
  }

  const mine = computed(() => all.value.filter((v) => v.mine))
  const fromColleagues = computed(() => all.value.filter((v) => !v.mine))

  return { all, counts, loaded, mine, fromColleagues, load, put, remove, clear }
})

/** With whom a view is shared, in a few words. */
export function sharing(view: View): string {
  if (!view.shares.length) return view.mine ? 'only for you' : `${view.owner.fullName}’s own`
  const names = view.shares.map((s) => `${s.label}, ${s.mayChange ? 'to change' : 'to look'}`)
  const shown = names.slice(0, 2).join('; ') + (names.length > 2 ? ` and ${names.length - 2} more` : '')
  return view.mine ? `shared with ${shown}` : `from ${view.owner.fullName}, shared with ${shown}`
}
