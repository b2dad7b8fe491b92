import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import {
  api,
  data,
  type Count,
  type May,
  type Pin,
  type Share,
  type TeamList,
  type View,
  type ViewUse,
} from '@/api/client'
import { deskPart } from '@/api/desk'
import { useSession } from '@/people/session'
import { registersIn } from '@/statements/tree'
import { toldText, type TotalsTold } from '@/totals/sheet'
import { sideCounts } from './sideCounts'

/** So many views of one kind stand on the list; the others are found under All views. */
const MOST_ON_THE_LIST = 9

const byName = (a: View, b: View) => a.name.localeCompare(b.name, 'en-GB')

/** The views open to the reader. */
export const useViews = defineStore('views', () => {
  const session = useSession()
  const all = ref<View[]>([])
  const counts = ref<Record<string, string>>({})
  /** what the number beside a pinned view is, where it is a figure of its totals */
  const besides = ref<Record<string, string>>({})
  const pins = ref<Pin[]>([])
  const teamLists = ref<TeamList[]>([])
  /** how each view is used, and what was found about it, by its number */
  const use = ref<Record<string, ViewUse>>({})
  const loaded = ref(false)
  /** how often everything was forgotten; what was asked for before belongs to somebody else */
  let forgotten = 0

  async function load() {
    const before = forgotten
    const found = await Promise.all([deskPart('views'), deskPart('pins'), deskPart('teamLists'), loadUse()])
    if (before !== forgotten) return
    ;[all.value, pins.value, teamLists.value] = found
    loaded.value = true
    void countAll()
  }

  async function loadUse() {
    const before = forgotten
    const found = await deskPart('use')
    if (before !== forgotten) return
    use.value = Object.fromEntries(found.map((u) => [u.view, u]))
  }

  /** Reads the views anew, where others may have changed something; what is counted already stays. */
  async function refresh() {
    const [found] = await Promise.all([deskPart('views'), loadUse()])
    all.value = found
  }

  /** Counts come after what is asked on the page, and never stand in the way of rows. */
  async function countAll() {
    await countSome(onTheList.value)
  }

  /** Counts the views of some registers anew: their records changed. */
  async function recount(registers: string[]) {
    const there = new Map(all.value.map((v) => [v.id, [v.register, ...registersIn(v.condition)]]))
    await countSome(onTheList.value.filter((id) => there.get(id)?.some((key) => registers.includes(key))))
  }

  /** Pins a view to the list, or takes it off. */
  async function togglePin(id: string) {
    const now = pins.value.map((p) => p.id)
    const wanted = now.includes(id) ? now.filter((p) => p !== id) : [...now, id]
    pins.value = await data(api.PUT('/api/pins', { body: { views: wanted } }))
  }

  /** Says what stands beside a pinned view: a figure of its totals, or the number of its records. */
  async function tellBeside(id: string, figure: string | undefined) {
    pins.value = await data(
      api.PUT('/api/pins/{view}/figure', { params: { path: { view: id } }, body: { figure } }),
    )
    await countSome([id])
  }

  /** the moves are told one after the other, and of quick ones only what they led to */
  let moving = Promise.resolve()
  let move = 0
  /** Moves a pinned view up or down; at once here, so that quick moves follow each other. */
  async function movePin(id: string, by: -1 | 1) {
    const wanted = [...pins.value]
    const from = wanted.findIndex((p) => p.id === id)
    const to = from + by
    if (from < 0 || to < 0 || to >= wanted.length) return
    wanted.splice(to, 0, ...wanted.splice(from, 1))
    pins.value = wanted
    const mine = ++move
    const told = moving.then(async () => {
      if (mine !== move) return
      try {
        const kept = await data(api.PUT('/api/pins', { body: { views: wanted.map((p) => p.id) } }))
        if (mine === move) pins.value = kept
      } catch (e) {
        if (mine === move) pins.value = await data(api.GET('/api/pins'))
        throw e
      }
    })
    moving = told.catch(() => {})
    await told
  }

  async function countSome(ids: string[]) {
    if (!ids.length) return
    const before = forgotten
    const tell = (id: string, count: Count) => {
      counts.value[id] = new Intl.NumberFormat('en-GB').format(count.matching) + (count.exact ? '' : '+')
      delete besides.value[id]
    }
    const tellFigure = (id: string, told: TotalsTold) => {
      counts.value[id] = toldText(told, session.zone)
      besides.value[id] = told.label
    }
    try {
      const found = await sideCounts(ids, [])
      if (before !== forgotten) return
      for (const id of ids) {
        const count = found.views[id]
        const figure = found.figures[id]
        if (figure) tellFigure(id, figure)
        else if (count) tell(id, count)
        else if (found.failed.includes(id)) counts.value[id] = '!'
      }
      // What takes longer, one after the other.
      for (const id of found.later.views.filter((one) => ids.includes(one))) {
        const name = pins.value.find((p) => p.id === id)?.figure
        const path = { path: { id } }
        const figure =
          name &&
          (await data(api.GET('/api/views/{id}/figure', { params: { ...path, query: { name } } })).catch(
            () => undefined,
          ))
        if (before !== forgotten) return
        if (figure) {
          tellFigure(id, figure)
          continue
        }
        const count = await data(api.GET('/api/views/{id}/count', { params: { path: { id } } })).catch(
          () => undefined,
        )
        if (before !== forgotten) return
        if (count) tell(id, count)
        else counts.value[id] = '!'
      }
    } catch {
      // The list stands without its numbers.
    }
  }

  function put(view: View) {
    all.value = [...all.value.filter((v) => v.id !== view.id), view].sort(byName)
    void loadUse().then(countAll)
  }

  function remove(id: string) {
    all.value = all.value.filter((v) => v.id !== id)
    pins.value = pins.value.filter((p) => p.id !== id)
  }

  /** Forgets everything: somebody else may sign in next. */
  function clear() {
    forgotten++
    all.value = []
    pins.value = []
    teamLists.value = []
    use.value = {}
    counts.value = {}
    besides.value = {}
    loaded.value = false
  }

  const isPinned = (id: string) => pins.value.some((p) => p.id === id)
  /** The lists of the reader's teams, without what stands further up. */
  const fromTeams = computed(() => {
    const shown = new Set(pins.value.map((p) => p.id))
    return teamLists.value
      .map((list) => ({
        ...list,
        views: list.views.filter((v) => !shown.has(v.id) && shown.add(v.id)),
      }))
      .filter((list) => list.views.length)
  })
  const elsewhere = computed(
    () =>
      new Set([...pins.value.map((p) => p.id), ...fromTeams.value.flatMap((l) => l.views.map((v) => v.id))]),
  )
  const mine = computed(() => all.value.filter((v) => v.mine && !elsewhere.value.has(v.id)))
  const fromColleagues = computed(() => all.value.filter((v) => !v.mine && !elsewhere.value.has(v.id)))
  /** Those the reader opened last, or all where they are few; in the order of their names. */
  function shortened(views: View[]): View[] {
    if (views.length <= MOST_ON_THE_LIST) return views
    return [...views]
      .sort((a, b) => (use.value[b.id]?.mineAt ?? '').localeCompare(use.value[a.id]?.mineAt ?? ''))
      .slice(0, MOST_ON_THE_LIST)
      .sort(byName)
  }
  const shortMine = computed(() => shortened(mine.value))
  const shortFromColleagues = computed(() => shortened(fromColleagues.value))
  const onTheList = computed(() => [
    ...elsewhere.value,
    ...shortMine.value.map((v) => v.id),
    ...shortFromColleagues.value.map((v) => v.id),
  ])
  /** Views of the reader, or that nobody owns any more, about which something was found. */
  const needing = computed(() =>
    all.value.filter((v) => v.may === 'MANAGE' && use.value[v.id]?.attention.length),
  )

  /** Whoever reads a view uses it: it stands among those opened last. The server is told with the page's first sign of life. */
  function noteOpened(id: string) {
    const known = use.value[id]
    if (known) use.value = { ...use.value, [id]: { ...known, mineAt: new Date().toISOString() } }
  }

  return {
    all,
    pins,
    counts,
    besides,
    loaded,
    teamLists,
    use,
    mine,
    fromColleagues,
    fromTeams,
    shortMine,
    shortFromColleagues,
    needing,
    isPinned,
    load,
    loadUse,
    refresh,
    noteOpened,
    countSome,
    put,
    remove,
    recount,
    togglePin,
    tellBeside,
    movePin,
    clear,
  }
})

/** What somebody may do, in words. */
export const MAY_WORDS: Record<May, string> = { LOOK: 'to look', CHANGE: 'to change', MANAGE: 'to manage' }

/** What a share lets somebody do. */
export const granted = (share: Share): May => share.may ?? (share.mayChange ? 'CHANGE' : 'LOOK')

/** With whom a view is shared, in a few words. */
export function sharing(view: View): string {
  if (!view.shares.length) return view.mine ? 'only for you' : `${view.owner.fullName}’s own`
  const names = view.shares.map((s) => `${s.label}, ${MAY_WORDS[granted(s)]}`)
  const shown = names.slice(0, 2).join('; ') + (names.length > 2 ? ` and ${names.length - 2} more` : '')
  return view.mine ? `shared with ${shown}` : `from ${view.owner.fullName}, shared with ${shown}`
}
