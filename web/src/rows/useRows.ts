import { ref, shallowRef } from 'vue'
import {
  api,
  data,
  isAborted,
  latest,
  sentence,
  type Count,
  type PartCount,
  type Row,
  type Rows,
} from '@/api/client'
import { isEarly } from '@/api/early'
import type { Shape } from './shape'

/** What is asked of a register. */
export interface Question {
  register: string
  statement: string
  order: string[]
  columns: string[]
  asOf?: string
  /** the moment that the records are read as they were kept at; as they are now, where there is none */
  recordsAt?: string
  zone?: string
  /** what the reader fills into the blanks, by their labels */
  answers?: Record<string, string>
  /** how the records are shown beyond that */
  shape?: Shape
  /** only the records that one of two readings has */
  compared?: { against?: string; side: 'here' | 'there' | 'both' }
  /** counts how often the same question was put anew, since what its answer rests on had changed */
  putting?: number
  /** the view whose first page is the answer, and may have been asked for while the page was loading */
  early?: { view: string; zone: string }
}

/** What a question asks, as every call over its records takes it. */
export function askedOf({ statement, asOf, recordsAt, zone, answers }: Question) {
  return { statement, asOf, recordsAt, zone, answers }
}

/** What of a shape decides which records a page has, and what stands beside them. */
export function recordsShown(question: Question) {
  const { take, marked, running } = question.shape ?? {}
  return take || marked || running ? { take, marked, running } : undefined
}

const PAGE = 100

/** What others changed since the records on the page were read. */
export interface News {
  fresh: number
  gone: number
  changed: number
  /** how many match now, where that is another number than the page has */
  matching?: Count
}

/** The most records that are read again to see what changed. */
const COMPARED = 1000

/** The records of a question, page after page, and their number; an old question never stands beside a new one. */
export function useRows() {
  const rows = shallowRef<Row[]>([])
  const count = ref<Count>()
  /** what each part of the statement does, by its path */
  const parts = shallowRef(new Map<string, PartCount>())
  /** how far counting the parts is; parts that take too long to count are left out of them */
  const counted = ref<'counting' | 'counted' | 'uncounted'>('counting')
  const loading = ref(false)
  const trouble = ref('')
  /** whether a wait has become long enough to be shown */
  const slow = ref(false)
  /** how many slow questions are answered before this one */
  const before = ref(0)
  const stopped = ref(false)
  const done = ref(false)
  /** what a running total begins with */
  const opening = ref<number>()

  /** what changed since; none while nothing did */
  const news = ref<News>()
  let fresher: { rows: Row[]; next?: string; all: boolean; count?: Count } | undefined

  const asking = latest()
  const looking = latest()
  const counting = latest()
  /** counts again what is on the page; the number at the head may still be on its way meanwhile */
  const recounting = latest()
  const weighing = latest()
  let next: string | undefined
  let asked: Question | undefined
  /** the moment that the windows were read at */
  const readAt = ref<string>()

  async function ask(question: Question) {
    asked = question
    next = undefined
    readAt.value = question.asOf
    done.value = false
    count.value = undefined
    parts.value = new Map()
    counted.value = 'counting'
    rows.value = []
    stopped.value = false
    news.value = undefined
    const [weighed] = await Promise.all([weighSmall(question), page(question, true)])
    // Of a large register the margin comes last: it never stands in the way of records.
    if (!weighed && question === asked && !trouble.value) await weigh(question)
  }

  /**
   * The number of the question and what its parts do, which of a small register are one quick answer; of a large one the number alone.
   *
   * @returns whether the parts were counted
   */
  async function weighSmall(question: Question): Promise<boolean> {
    let found
    try {
      found = await weighing.ask((signal, name) =>
        data(
          api.POST('/api/registers/{key}/parts', {
            params: { path: { key: question.register }, header: { 'X-Question': name } },
            body: {
              ...askedOf(question),
              ifSmall: true,
            },
            signal,
          }),
        ),
      )
    } catch (e) {
      // The rows say what is wrong; the number may be had by itself.
      if (question !== asked) return true
      if (isAborted(e)) {
        counted.value = 'uncounted'
        return true
      }
    }
    if (question !== asked) return true
    if (!found?.count) {
      await number(question)
      return false
    }
    count.value = found.count
    parts.value = new Map(found.parts.map((p) => [p.path, p]))
    counted.value = 'counted'
    return true
  }

  async function weigh(question: Question) {
    try {
      const counts = await weighing.ask((signal, name) =>
        data(
          api.POST('/api/registers/{key}/parts', {
            params: { path: { key: question.register }, header: { 'X-Question': name } },
            body: {
              ...askedOf(question),
            },
            signal,
          }),
        ),
      )
      if (question !== asked) return
      parts.value = new Map(counts.parts.map((p) => [p.path, p]))
      counted.value = 'counted'
    } catch {
      // The margin stays empty; the records are there.
      if (question === asked) counted.value = 'uncounted'
    }
  }

  async function page(question: Question, first: boolean) {
    loading.value = true
    trouble.value = ''
    const timer = window.setTimeout(() => (slow.value = true), 300)
    let following = 0
    try {
      const found = await asking.ask((signal, name) => {
        following = window.setInterval(() => void follow(name), 1500)
        const ready = first && earlyRows(question, signal)
        if (ready) return ready
        return data(
          api.POST('/api/registers/{key}/rows', {
            params: { path: { key: question.register }, header: { 'X-Question': name } },
            body: {
              ...askedOf(question),
              asOf: readAt.value,
              order: question.order,
              columns: question.columns,
              shape: recordsShown(question),
              compared: question.compared,
              limit: PAGE,
              after: next,
            },
            signal,
          }),
        )
      })
      rows.value = first ? found.rows : [...rows.value, ...found.rows]
      if (first) opening.value = found.opening ?? undefined
      // Later pages are read at the moment of the first, so that windows do not move between them.
      readAt.value = found.asOf
      next = found.next ?? undefined
      done.value = !next
    } catch (e) {
      if (isAborted(e)) {
        if (question === asked) stopped.value = true
        return
      }
      trouble.value = sentence(e)
      done.value = true
    } finally {
      window.clearTimeout(timer)
      window.clearInterval(following)
      if (question === asked) {
        loading.value = false
        slow.value = false
        before.value = 0
      }
    }
  }

  /** The first page where it is on its way already; nothing where it has to be asked for. */
  function earlyRows({ early }: Question, signal: AbortSignal): Promise<Rows> | undefined {
    if (!early) return undefined
    const query = { limit: PAGE, readerZone: early.zone }
    const search = new URLSearchParams(Object.entries(query).map(([name, value]) => [name, String(value)]))
    if (!isEarly(`/api/views/${early.view}/rows?${search}`)) return undefined
    return data(
      api.GET('/api/views/{id}/rows', { params: { path: { id: early.view }, query }, signal }),
    ) as Promise<Rows>
  }

  /** Asks how far a question is that takes long; once it is answered there is nothing to say. */
  async function follow(name: string) {
    try {
      const progress = await data(api.GET('/api/questions/{name}', { params: { path: { name } } }))
      if (slow.value) before.value = progress.before
    } catch {
      before.value = 0
    }
  }

  /** Counts what matches: as far as that is quick, then exactly. */
  async function numbered(question: Question, tell: (found: Count) => void, by = counting) {
    const body = askedOf(question)
    const path = { key: question.register }
    try {
      const capped = await by.ask((signal) =>
        data(api.POST('/api/registers/{key}/count', { params: { path }, body, signal })),
      )
      if (question === asked) tell(capped)
      if (capped.exact) return
      const exact = await by.ask((signal, name) =>
        data(
          api.POST('/api/registers/{key}/count', {
            params: { path, header: { 'X-Question': name } },
            body: { ...body, exact: true },
            signal,
          }),
        ),
      )
      if (question === asked) tell(exact)
    } catch {
      // The rows say what is wrong; the number stays away.
    }
  }
  const number = (question: Question) => numbered(question, (found) => (count.value = found))

  /** Reads what is on the page again, without touching it, to say what changed. */
  async function compare() {
    const question = asked
    if (
      !question ||
      loading.value ||
      trouble.value ||
      question.asOf ||
      question.recordsAt ||
      !rows.value.length
    ) {
      // An empty page has no place to lose.
      if (question && !question.asOf && !question.recordsAt && !loading.value && !rows.value.length)
        await ask(question)
      return
    }
    const before = rows.value
    // A page more than there is, so that what was pushed down is not taken for gone.
    const limit = Math.min(COMPARED, before.length + PAGE)
    try {
      const found = await looking.ask((signal, name) =>
        data(
          api.POST('/api/registers/{key}/rows', {
            params: { path: { key: question.register }, header: { 'X-Question': name } },
            body: {
              statement: question.statement,
              zone: question.zone,
              answers: question.answers,
              order: question.order,
              columns: question.columns,
              shape: recordsShown(question),
              compared: question.compared,
              limit,
            },
            signal,
          }),
        ),
      )
      if (question !== asked || rows.value !== before) return
      const known = new Map(before.map((r) => [r.id, r]))
      const now = new Set(found.rows.map((r) => r.id))
      // What stands behind the last record that was on the page was never on it.
      const last = done.value ? found.rows.length : found.rows.findLastIndex((r) => known.has(r.id)) + 1
      const fresh = found.rows.slice(0, last).filter((r) => !known.has(r.id)).length
      const missing = before.slice(0, limit).filter((r) => !now.has(r.id)).length
      const gone = Math.max(0, missing - (found.next ? Math.max(0, fresh - PAGE) : 0))
      const altered = found.rows.filter((r) => {
        const old = known.get(r.id)
        return old && JSON.stringify(old.values) !== JSON.stringify(r.values)
      }).length
      fresher = { rows: found.rows, next: found.next ?? undefined, all: before.length <= limit }
      news.value = fresh || gone || altered ? { fresh, gone, changed: altered } : undefined
      // The number at the head is that of the records below it, until both are brought in.
      const told = (now: Count) => {
        if (rows.value !== before) return
        fresher = { ...fresher!, count: now }
        const other = now.matching !== count.value?.matching || now.exact !== count.value.exact
        news.value =
          other || news.value
            ? { fresh, gone, changed: altered, matching: other ? now : undefined }
            : undefined
      }
      await numbered(question, told, recounting)
    } catch {
      // The next change is another chance.
    }
  }

  /** Brings in what changed; the records stay where they are on the page. */
  function bringIn() {
    if (!fresher || !asked) return
    news.value = undefined
    if (!fresher.all) {
      void ask(asked)
      return
    }
    rows.value = fresher.rows
    if (fresher.count) count.value = fresher.count
    else void number(asked)
    next = fresher.next
    done.value = !next
    readAt.value = undefined
    void weigh(asked)
  }

  async function more() {
    if (asked && next && !loading.value && !trouble.value) await page(asked, false)
  }

  function again() {
    if (asked) void ask(asked)
  }

  /** Drops what is under way, since what it rests on has changed; what is on the page stays until it is asked anew. */
  function drop() {
    asked = undefined
    news.value = undefined
    for (const one of [asking, looking, counting, recounting, weighing]) one.stop()
    loading.value = false
    slow.value = false
  }

  function stop() {
    stopped.value = true
    asking.stop()
    counting.stop()
    weighing.stop()
    loading.value = false
    slow.value = false
  }

  return {
    rows,
    opening,
    readAt,
    count,
    parts,
    counted,
    news,
    loading,
    slow,
    before,
    trouble,
    done,
    stopped,
    ask,
    more,
    again,
    stop,
    drop,
    compare,
    bringIn,
  }
}
