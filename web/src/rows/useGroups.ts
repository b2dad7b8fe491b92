import { computed, ref, shallowRef } from 'vue'
import { api, data, isAborted, latest, sentence, type Register, type Row } from '@/api/client'
import type { components } from '@/api/schema'
import { number } from '@/platform/format'
import { groupWords, MOST_GROUPS, type Group } from './shape'
import type { Line } from './lines'
import { askedOf, type Question } from './useRows'

type Level = components['schemas']['Level']
type Inside = components['schemas']['InsideGroup']

const ROWS = 100
/** The most groups that are opened at a stroke. */
const MOST_OPENED = 40

/** What is known of a group that was opened: the groups in it, or its records so far. */
interface Opened {
  inside: Inside[]
  level?: Level
  rows: Row[]
  next?: string
  loading: boolean
}

/** The groups of a question, opened and closed, as the lines of a table. */
export function useGroups(register: () => Register | undefined, zone: () => string) {
  const asked = shallowRef<Question>()
  const top = shallowRef<Level>()
  const opened = shallowRef(new Map<string, Opened>())
  const trouble = ref('')
  const slow = ref(false)
  /** whether what is there is of other records, or in other groups, than was asked since */
  const stale = ref(false)
  const asking = latest()
  const looking = latest()
  /** what is being read inside of groups, each to be stopped by itself */
  const inner = new Map<string, ReturnType<typeof latest>>()
  let timer = 0

  const levels = computed(() => (asked.value?.shape?.groups ?? []).slice(0, MOST_GROUPS))
  const pathOf = (inside: Inside[]) => JSON.stringify(inside.map((i) => i.value ?? null))

  /** What the groups are of, without what is said of each. */
  const of = (question: Question) => {
    const { groups, take, marked } = question.shape ?? {}
    const { register: key, order, columns, compared } = question
    return JSON.stringify([key, askedOf(question), groups, take, marked, order, columns, compared])
  }

  async function levelOf(question: Question, inside: Inside[], signal: AbortSignal, name: string) {
    return data(
      api.POST('/api/registers/{key}/groups', {
        params: { path: { key: question.register }, header: { 'X-Question': name } },
        body: {
          ...askedOf(question),
          groups: levels.value,
          inside,
          measures: question.shape?.measures ?? [],
          order: question.order,
          take: question.shape?.take,
        },
        signal,
      }),
    )
  }

  /** how many of the outermost groups, or the figures of all, are others than on the page */
  const news = ref(0)

  /** Reads the outermost groups with their figures again, without touching the page, to say how many of them changed. */
  async function compare() {
    const question = asked.value
    const before = top.value
    if (!question || !before || question.asOf || question.recordsAt || slow.value) return
    try {
      const found = await looking.ask((signal, name) => levelOf(question, [], signal, name))
      if (question !== asked.value || top.value !== before) return
      const known = new Map(before.groups.map((g) => [JSON.stringify(g.value ?? null), JSON.stringify(g)]))
      const other = found.groups.filter((g) => {
        const key = JSON.stringify(g.value ?? null)
        const same = known.get(key) === JSON.stringify(g)
        known.delete(key)
        return !same
      }).length
      const whole = (l: Level) => JSON.stringify([l.records, l.figures])
      news.value = other + known.size || (whole(found) === whole(before) ? 0 : 1)
    } catch {
      // The next change is another chance.
    }
  }

  /** Reads everything that is open again. */
  async function bringIn() {
    if (asked.value) await ask({ ...asked.value })
  }

  /** Drops what is under way, since what it rests on has changed. */
  function drop() {
    stop()
    looking.stop()
    news.value = 0
  }

  /** Puts a question; groups that were open stay open where they are still there. */
  async function ask(question: Question) {
    const before = asked.value
    const same =
      before?.register === question.register &&
      JSON.stringify(before.shape?.groups) === JSON.stringify(question.shape?.groups)
    const open = same ? [...opened.value.values()].map((o) => o.inside) : []
    if (before && of(before) !== of(question)) stale.value = true
    asked.value = question
    trouble.value = ''
    news.value = 0
    // Figures without groups are those of one group of all.
    if (!question.shape?.groups?.length && (!question.shape?.measures?.length || question.compared)) {
      top.value = undefined
      opened.value = new Map()
      asking.stop()
      slow.value = stale.value = false
      window.clearTimeout(timer)
      return
    }
    if (!same) top.value = undefined
    window.clearTimeout(timer)
    timer = window.setTimeout(() => (slow.value = true), 300)
    try {
      const found = await asking.ask((signal, name) => levelOf(question, [], signal, name))
      if (question !== asked.value) return
      top.value = found
      stale.value = false
      opened.value = new Map()
      for (const inside of open) await load(inside)
    } catch (e) {
      if (!isAborted(e) && question === asked.value) {
        top.value = undefined
        stale.value = false
        trouble.value = sentence(e)
      }
    } finally {
      if (question === asked.value) {
        window.clearTimeout(timer)
        slow.value = false
      }
    }
  }

  function put(one: Opened) {
    const next = new Map(opened.value)
    next.set(pathOf(one.inside), one)
    opened.value = next
  }

  /** Reads what is in a group: further groups, or the first or next of its records. */
  async function load(inside: Inside[]) {
    const question = asked.value
    if (!question) return
    const known = opened.value.get(pathOf(inside)) ?? { inside, rows: [], loading: false }
    if (known.loading) return
    put({ ...known, loading: true })
    const reading = latest()
    inner.set(pathOf(inside), reading)
    const gone = () => question !== asked.value || !opened.value.has(pathOf(inside))
    try {
      if (inside.length < levels.value.length) {
        const level = await reading.ask((signal, name) => levelOf(question, inside, signal, name))
        if (!gone()) put({ ...known, level, loading: false })
        return
      }
      const found = await reading.ask((signal, name) =>
        data(
          api.POST('/api/registers/{key}/rows', {
            params: { path: { key: question.register }, header: { 'X-Question': name } },
            body: {
              ...askedOf(question),
              order: question.order,
              columns: question.columns,
              shape: { take: question.shape?.take, running: question.shape?.running },
              inside,
              limit: ROWS,
              after: known.next,
            },
            signal,
          }),
        ),
      )
      if (!gone())
        put({ ...known, rows: [...known.rows, ...found.rows], next: found.next ?? undefined, loading: false })
    } catch (e) {
      if (!gone()) {
        // A group of which nothing could be read is closed again.
        if (known.level || known.rows.length) put({ ...known, loading: false })
        else forget(inside)
        if (!isAborted(e)) trouble.value = sentence(e)
      }
    } finally {
      if (inner.get(pathOf(inside)) === reading) inner.delete(pathOf(inside))
    }
  }

  function forget(inside: Inside[]) {
    const path = pathOf(inside).slice(0, -1)
    // What lies in a closed group is closed with it.
    opened.value = new Map(
      [...opened.value].filter(([key]) => key !== path + ']' && !key.startsWith(path + ',')),
    )
  }

  function toggle(inside: Inside[]) {
    if (opened.value.has(pathOf(inside))) forget(inside)
    else void load(inside)
  }

  function stop() {
    asking.stop()
    inner.forEach((reading) => reading.stop())
  }

  const insideOf = (outer: Inside[], group: Group): Inside[] => {
    const level = levels.value[outer.length]!
    return [...outer, { field: level.field, by: level.by, value: group.value ?? undefined }]
  }

  /** Opens the outermost groups, as many as can be looked over. */
  async function openAll() {
    for (const group of (top.value?.groups ?? []).slice(0, MOST_OPENED)) {
      const inside = insideOf([], group)
      if (!opened.value.has(pathOf(inside))) await load(inside)
    }
  }
  function closeAll() {
    opened.value = new Map()
  }

  const lines = computed<Line[]>(() => {
    const found: Line[] = []
    const here = register()
    if (!here || !top.value) return found
    const walk = (level: Level, outer: Inside[]) => {
      const grouping = levels.value[outer.length]
      if (!grouping) return
      for (const group of level.groups) {
        const inside = insideOf(outer, group)
        const path = pathOf(inside)
        const open = opened.value.get(path)
        found.push({
          kind: 'group',
          key: path,
          depth: outer.length,
          words: groupWords(here, grouping, group, zone()),
          records: group.records,
          figures: group.figures,
          leftOut: group.leftOut,
          open: open !== undefined,
          toggle: () => toggle(inside),
        })
        if (!open) continue
        if (open.level) walk(open.level, inside)
        for (const row of open.rows)
          found.push({ kind: 'record', key: path + row.id, row, depth: inside.length })
        if (open.loading)
          found.push({
            kind: 'more',
            key: path + '…',
            depth: inside.length,
            words: 'Reading… Stop',
            load: () => inner.get(path)?.stop(),
          })
        else if (open.next)
          found.push({
            kind: 'more',
            key: path + '+',
            depth: inside.length,
            words: `Show more: ${number(open.rows.length)} of ${number(group.records)}`,
            load: () => void load(inside),
          })
      }
      if (level.more)
        found.push({
          kind: 'more',
          key: pathOf(outer) + 'more',
          depth: outer.length,
          words: `There are more than these ${number(level.groups.length)} groups. Narrow the statement, or group by something with fewer values.`,
        })
    }
    walk(top.value, [])
    return whole.value ? [...found, whole.value] : found
  })
  /** What all of them come to. */
  const whole = computed<Extract<Line, { kind: 'whole' }> | undefined>(() =>
    top.value
      ? {
          kind: 'whole',
          key: 'whole',
          depth: 0,
          words: asked.value?.shape?.marked ? 'All that match' : 'All together',
          records: top.value.records,
          figures: top.value.figures,
          leftOut: top.value.leftOut,
        }
      : undefined,
  )

  return {
    ask,
    lines,
    whole,
    trouble,
    slow,
    stale,
    news,
    compare,
    bringIn,
    openAll,
    closeAll,
    stop,
    drop,
    levels,
  }
}
