import { computed, ref } from 'vue'
import { defineStore } from 'pinia'
import { api, sentence, type ListArrangement } from '@/api/client'
import { useSession } from '@/people/session'
import { useCatalogue } from '@/registers/catalogue'

/** How wide the list may be, in CSS pixels. */
export const NARROWEST = 150
export const WIDEST = 480
export const USUAL: ListArrangement = { registers: [], hidden: [], folded: [], width: 204 }

/**
 * How the reader has the list of views and registers: which registers stand first, which are not listed, what is folded, how wide it
 * is. It is changed at once here and kept with the account; whoever looks as somebody else changes it for the moment only.
 */
export const useArrangement = defineStore('arrangement', () => {
  const session = useSession()
  const catalogue = useCatalogue()
  const trouble = ref('')
  const now = computed<ListArrangement>(() => session.current?.list ?? USUAL)

  /** All registers in the reader's order: those that were placed, then the others as they come. */
  const ordered = computed(() => {
    const place = new Map(now.value.registers.map((key, i) => [key, i]))
    return [...catalogue.names].sort(
      (a, b) => (place.get(a.key) ?? Number.MAX_VALUE) - (place.get(b.key) ?? Number.MAX_VALUE) || 0,
    )
  })
  const isHidden = (key: string) => now.value.hidden.includes(key)
  const listed = computed(() => ordered.value.filter((r) => !isHidden(r.key)))
  const isFolded = (section: string) => now.value.folded.includes(section)
  const isUsual = computed(() => !now.value.registers.length && !now.value.hidden.length)

  let telling: Promise<unknown> = Promise.resolve()
  let told = 0
  function change(part: Partial<ListArrangement>) {
    if (!session.current) return
    const wanted = { ...now.value, ...part }
    session.current = { ...session.current, list: wanted }
    if (session.watcher) return
    const mine = ++told
    // One after the other, and of quick changes only what they led to.
    telling = telling.then(async () => {
      if (mine !== told) return
      try {
        await api.PUT('/api/account/list', { body: wanted })
        trouble.value = ''
      } catch (e) {
        trouble.value = `The list is arranged for now only: ${sentence(e)}`
      }
    })
  }

  function toggle(list: string[], one: string) {
    return list.includes(one) ? list.filter((o) => o !== one) : [...list, one]
  }
  const fold = (section: string) => change({ folded: toggle(now.value.folded, section) })
  const hide = (key: string) => change({ hidden: toggle(now.value.hidden, key) })
  /** Puts a register so many places further down, or up where it is negative; the ends are the ends. */
  function move(key: string, by: number) {
    const keys = ordered.value.map((r) => r.key)
    const from = keys.indexOf(key)
    const to = Math.max(0, Math.min(keys.length - 1, from + by))
    if (from < 0 || from === to) return
    keys.splice(to, 0, ...keys.splice(from, 1))
    change({ registers: keys })
  }
  /** Puts a register where another one stands. */
  function putAt(key: string, other: string) {
    const keys = ordered.value.map((r) => r.key)
    move(key, keys.indexOf(other) - keys.indexOf(key))
  }
  /** How wide the list is while its edge is being dragged. */
  const drawn = ref<number>()
  const width = computed(() => drawn.value ?? now.value.width)
  const within = (to: number) => Math.round(Math.max(NARROWEST, Math.min(WIDEST, to)))
  const draw = (to: number) => (drawn.value = within(to))
  function widen(to: number) {
    drawn.value = undefined
    change({ width: within(to) })
  }
  const reset = () => change({ registers: [], hidden: [] })

  return {
    now,
    width,
    draw,
    trouble,
    ordered,
    listed,
    isHidden,
    isFolded,
    isUsual,
    fold,
    hide,
    move,
    putAt,
    widen,
    reset,
  }
})
