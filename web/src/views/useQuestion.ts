import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import {
  api,
  data,
  sentence,
  type Own,
  type ReadStatement,
  type Register,
  type View,
  type ViewPage,
} from '@/api/client'
import { stopEarly } from '@/api/early'
import { useSession } from '@/people/session'
import { hear, onDefinitions } from '@/platform/definitions'
import { useLeaving } from '@/platform/leaving'
import { addedIn, addedTo, keyWith } from '@/registers/added'
import { useCatalogue } from '@/registers/catalogue'
import type { Node } from '@/statements/tree'
import { changeAddress, readAddress, withAnswers, type AddressChange, type Base } from './address'
import { asOfWords, recordsAtWords } from '@/platform/readAt'
import { changeWords } from './renewal'
import { orderWords, writeOrder } from '@/rows/orders'
import { readShape, shapeWords, written, type Shape } from '@/rows/shape'
import { useGroups } from '@/rows/useGroups'
import { recordsShown, useRows, type Question } from '@/rows/useRows'
import { useTotals } from '@/totals/useTotals'
import { useStatement } from './useStatement'
import { useSteps } from './useSteps'

/** In the place of a zone: each reader's own, as their browser has it. */
export const READERS_ZONE = 'reader'

function ownZone(): string {
  return Intl.DateTimeFormat().resolvedOptions().timeZone
}

/** What one step changes. */
interface Step extends Omit<AddressChange, 'added'> {
  /** the register with other calculated fields added to it */
  added?: Register
}

/**
 * The question a page puts, kept in the address: register or view, and whatever differs from it (`where`, `order`,
 * `columns`, `asOf`). Every change is a step in the browser's history, so that back undoes it.
 */
export function useQuestion() {
  const route = useRoute()
  const router = useRouter()
  const catalogue = useCatalogue()
  const session = useSession()
  const answer = useRows()
  const leaving = useLeaving()
  const stepping = useSteps(leaving)
  const { steps, done, stepsAhead, stateOfStep, back, forward, goToStep } = stepping
  const statement = useStatement(stepping.word)
  const { read, unreadable, settling, worded, unchecked, whenRead, checkAgain } = statement

  const register = shallowRef<Register>()
  const view = shallowRef<View>()
  /** what the reader has of their own about the view */
  const own = shallowRef<Own>()
  const missing = ref('')

  const address = computed(() => readAddress(route.query, route.hash))
  /** whether the view is wanted as it is shared, without the reader's own refinement and answers */
  const asShared = computed(() => address.value.asShared)
  const refined = computed(() => (asShared.value ? undefined : (own.value?.refined ?? undefined)))
  /** What the page shows when its address says nothing else: the view, as the reader refined it. */
  const base = computed<Base>(() => ({
    where: refined.value?.statement ?? view.value?.statement ?? '',
    order: refined.value?.order ?? view.value?.order ?? register.value?.order.map(writeOrder) ?? [],
    columns: refined.value?.columns ?? view.value?.columns ?? register.value?.columns ?? [],
    shape: written((refined.value?.shape as Shape | undefined) ?? view.value?.shape ?? {}),
    zone: view.value?.zone ?? '',
    added: addedIn(view.value?.reads ?? ''),
  }))
  const where = computed(() => address.value.where ?? base.value.where)
  const order = computed(() => address.value.order ?? base.value.order)
  const columns = computed(() => address.value.columns ?? base.value.columns)
  const shape = computed<Shape>(() => address.value.shape ?? readShape(base.value.shape))
  /** whether the records are read as totals, and whether as groups */
  const asTotals = computed(() => shape.value.totals !== undefined)
  const grouped = computed(() => Boolean(shape.value.groups?.length) && !asTotals.value)
  /** what is added to the fields of the register, as its key says it */
  const added = computed(() => address.value.added ?? base.value.added)
  /** the key by which the records are asked for */
  const reads = computed(() => keyWith(view.value?.register ?? String(route.params.key), added.value))
  /** whether fields are calculated here in another way than the view has them */
  const addsOtherwise = computed(() => view.value !== undefined && added.value !== base.value.added)
  const asOf = computed(() => address.value.asOf)
  /** the moment that the records are read as they were kept at */
  const recordsAt = computed(() => address.value.recordsAt)
  /** the records that only one of two readings has, as of then and as of now */
  const side = computed(() => address.value.side)
  /** the zone of the question: of the view, or as the address has it; "reader" is each reader's own */
  const chosenZone = computed(() => address.value.zone ?? view.value?.zone ?? '')
  const zone = computed(() => (chosenZone.value === READERS_ZONE ? ownZone() : chosenZone.value || undefined))
  const groups = useGroups(
    () => register.value,
    () => zone.value ?? 'UTC',
  )
  const totals = useTotals()
  /** what this reader has filled into the blanks, by their labels */
  const answers = computed(() => {
    const found: Record<string, string> = asShared.value ? {} : { ...own.value?.answers }
    for (const [label, value] of Object.entries(address.value.answers)) {
      // An empty one says that the default counts, whatever was remembered.
      if (value) found[label] = value
      else delete found[label]
    }
    return found
  })
  const changed = computed(
    () =>
      view.value !== undefined &&
      (where.value !== base.value.where ||
        order.value.join() !== base.value.order.join() ||
        columns.value.join() !== base.value.columns.join() ||
        written(shape.value) !== base.value.shape ||
        addsOtherwise.value ||
        chosenZone.value !== base.value.zone),
  )
  /** What the page asks in the place of what the view does; none while nothing is changed. */
  const unsaved = computed(() => {
    if (!changed.value) return undefined
    const differing = <T>(now: T, then: T, said: T = now) =>
      JSON.stringify(now) === JSON.stringify(then) ? undefined : said
    return {
      statement: differing(where.value, base.value.where),
      columns: differing(columns.value, base.value.columns),
      order: differing(order.value, base.value.order),
      shape: written(shape.value) === base.value.shape ? undefined : (shape.value as View['shape']),
      zone: differing(chosenZone.value, base.value.zone),
      register: differing(added.value, base.value.added, reads.value),
    }
  })
  /** The parts of a refinement that differ from the view; what a reader keeps for themselves. */
  const mine = computed(() => ({
    statement: where.value,
    columns: columns.value.join() === view.value?.columns.join() ? undefined : columns.value,
    order: order.value.join() === view.value?.order.join() ? undefined : order.value,
    shape:
      written(shape.value) === written(view.value?.shape ?? {}) ? undefined : (shape.value as View['shape']),
  }))
  /** what of the shape asks for something else of the records */
  const shapeAsked = computed(() => {
    const { groups: levels, measures, take, marked, running, totals: read } = shape.value
    return JSON.stringify({ levels, measures, take, marked, running, read })
  })
  /** A step in a few words. */
  function inWords(parts: Step): string {
    const label = (key: string) => register.value?.fields.find((f) => f.key === key)?.label ?? key
    if (parts.added) {
      const labels = addedTo(parts.added).map((f) => f.label)
      return labels.length ? 'calculated here: ' + labels.join(', ') : 'nothing calculated here'
    }
    // Its words come with the answer that reads it.
    if (parts.where !== undefined) return parts.where === '' ? 'every record' : parts.where
    if (parts.order)
      return parts.order.length ? 'by ' + orderWords(register.value, parts.order) : 'in no order'
    if (parts.columns) return 'columns ' + parts.columns.map(label).join(', ')
    if (parts.shape)
      return (register.value && shapeWords(register.value, parts.shape)) || 'shown as a plain list'
    if (parts.asOf !== undefined) return parts.asOf ? `as of ${asOfWords(parts.asOf)}` : 'as of now'
    if (parts.recordsAt !== undefined)
      return parts.recordsAt ? `records of ${recordsAtWords(parts.recordsAt)}` : 'records of now'
    if (parts.side !== undefined)
      return parts.side
        ? { here: 'only then', there: 'only now', both: 'then and now' }[parts.side]
        : 'all as of then'
    if (parts.zone !== undefined) return `days of ${parts.zone || 'the organisation'}`
    return Object.entries(parts.answers ?? {})
      .map(([asked, answer]) => `${asked}: ${answer || 'as usual'}`)
      .join(', ')
  }

  /** the address that is being opened; until it is, nothing is asked in its name */
  let underway: string | undefined
  /** how often something was opened; each time is a question, also where it asks the same as before */
  const openings = ref(0)

  /** the statement of the view as it was read when the page was opened, until that opening is asked for */
  let readOnOpening: ReadStatement | undefined

  /** A view as it is kept now, what the reader has of their own about it, and its register. */
  async function asKept(id: string): Promise<ViewPage> {
    const found = (await data(api.GET('/api/views/{id}/page', { params: { path: { id } } }))) as ViewPage
    if (found.definitions) hear(found.register.register, found.definitions)
    catalogue.know(found.register)
    return found
  }

  /** what was changed under the page while it was open, in a sentence */
  const renewed = ref('')

  /**
   * What the answers rest on has changed: nothing of the old kind comes in any more, and everything is asked anew, so that
   * the page is of one kind. What the reader has changed on it stays.
   */
  async function renew() {
    const before = { register: register.value!, session: session.current }
    const left = leaving()
    answer.drop()
    groups.drop()
    totals.drop()
    statement.stop()
    const key = reads.value
    catalogue.forgetOne(key)
    try {
      const [described, clock] = await Promise.all([catalogue.describe(key), session.read()])
      const kept = view.value && !changed.value ? await asKept(view.value.id) : undefined
      if (left()) return
      // All at once, so that nothing is shown by the clock of the one and the fields of the other.
      session.take(clock)
      renewed.value = changeWords(before.register, described, {
        zone: before.session?.zone === session.zone ? undefined : session.zone,
        week: before.session?.weekStarts !== session.current?.weekStarts,
      })
      register.value = described
      if (kept) [view.value, own.value] = [kept.view, kept.own]
      readOnOpening = kept?.read ?? undefined
      openings.value++
    } catch (e) {
      if (!left()) missing.value = sentence(e)
    }
  }
  /** whether what the answers rest on has changed while the page was being opened */
  let outdated = false
  onDefinitions((key) => {
    if (underway !== undefined) outdated = true
    else if (key === register.value?.register) void renew()
  })

  async function open() {
    const path = route.path
    renewed.value = ''
    outdated = false
    underway = path
    // An answer that comes after the reader has gone elsewhere is for nobody.
    const gone = () => route.path !== path
    missing.value = ''
    try {
      let wanted = route.name === 'view' ? view.value : undefined
      if (route.name === 'view' && wanted?.id !== String(route.params.id)) {
        register.value = undefined
        const kept = await asKept(String(route.params.id))
        if (gone()) return
        wanted = kept.view
        own.value = kept.own
        readOnOpening = kept.read ?? undefined
      }
      const described = await catalogue.describe(
        keyWith(
          wanted?.register ?? String(route.params.key),
          address.value.added ?? addedIn(wanted?.reads ?? ''),
        ),
      )
      if (gone()) return
      if (!wanted) own.value = undefined
      view.value = wanted
      register.value = described
    } catch (e) {
      if (!gone()) missing.value = sentence(e)
      return
    } finally {
      if (!gone()) underway = undefined
    }
    document.title = `${view.value?.name ?? register.value.label} · Deft Lens`
    if (outdated) await renew()
    else openings.value++
  }

  /** Takes the register as it is with what is added to its fields from now on, and asks anew. */
  async function describeAnew() {
    const key = reads.value
    const left = leaving()
    const late = () => left() || key !== reads.value
    try {
      const described = await catalogue.describe(key)
      if (late()) return
      missing.value = ''
      register.value = described
      put()
    } catch (e) {
      if (!late()) missing.value = sentence(e)
    }
  }

  /** The view whose first records were asked for while the page was loading, where they are those of this very question. */
  function early(): Question['early'] {
    const id = view.value?.id
    if (id === undefined || openings.value > 1 || steps.value) return undefined
    const plain = !changed.value && !refined.value && route.fullPath === route.path
    return plain ? { view: id, zone: ownZone() } : undefined
  }

  /** what the words of the statement were last read of, and what the records on the page were asked by */
  let last = { words: '', records: '' }

  /** the question as it stands, as far as its number goes */
  const counted = computed(() =>
    JSON.stringify([
      register.value?.key,
      reads.value,
      where.value,
      asOf.value,
      recordsAt.value,
      zone.value,
      answers.value,
    ]),
  )
  /** the one that was asked for last */
  const askedFor = ref('')
  /** Whether what is asked for is the question as it stands: for a moment after a step it is the one before. */
  const isAsked = computed(() => askedFor.value === counted.value)

  /** Asks for what a step changed; what it leaves as it is stays on the page. */
  function put() {
    const key = register.value!.key
    askedFor.value = counted.value
    const question: Question = {
      register: key,
      statement: where.value,
      order: order.value,
      columns: columns.value,
      asOf: asOf.value,
      recordsAt: recordsAt.value,
      zone: zone.value,
      answers: answers.value,
      shape: shape.value,
      compared: side.value && { side: side.value },
      putting: openings.value,
      early: early(),
    }
    const { zone: days, answers: filled, putting } = question
    const words = JSON.stringify([
      key,
      question.statement,
      question.asOf,
      question.recordsAt,
      days,
      filled,
      putting,
    ])
    if (words !== last.words)
      statement.ask(
        {
          register: key,
          statement: where.value,
          asOf: asOf.value,
          recordsAt: recordsAt.value,
          zone: zone.value,
          answers: answers.value,
          name: view.value?.name,
          purpose: view.value?.purpose,
        },
        question.early && readOnOpening,
      )
    readOnOpening = undefined
    const records = JSON.stringify([
      words,
      question.order,
      question.columns,
      recordsShown(question),
      question.compared,
    ])
    if (records !== last.records || answer.trouble.value || answer.stopped.value) void answer.ask(question)
    last = { words, records }
    // Totals take the place of groups.
    void groups.ask(question.shape?.totals ? { ...question, shape: undefined } : question)
    void totals.ask(question)
    // Records that came early for another question than this one.
    if (!question.early) stopEarly('/api/views/')
  }

  /** One step: the address with these parts changed; what equals the view's own is left out. */
  async function step(parts: Step) {
    const left = leaving()
    if (parts.answers) await pinAnswers(Object.keys(parts.answers))
    if (left()) return
    const { added: to, ...others } = parts
    const change = changeAddress(
      route.query,
      route.hash,
      { ...others, added: to?.key },
      base.value,
      view.value !== undefined,
    )
    if (to) catalogue.know(to)
    if (parts.answers) await rememberAnswers(parts.answers)
    if (left()) return
    renewed.value = ''
    await stepping.take(change, inWords(parts), parts.where)
  }

  /** Writes answers that were only remembered into the address, so that a step back comes to them again. */
  async function pinAnswers(labels: string[]) {
    const pinned = Object.fromEntries(
      labels
        .filter((label) => view.value && address.value.answers[label] === undefined)
        .map((label) => [label, answers.value[label] ?? '']),
    )
    if (Object.keys(pinned).length)
      await router.replace({
        query: withAnswers(route.query, pinned),
        hash: route.hash,
        state: stateOfStep(),
      })
  }

  /** A reader's answers to a view's blanks are there again when they come back. */
  async function rememberAnswers(given: Record<string, string>) {
    if (!view.value || asShared.value) return
    try {
      own.value = (await data(
        api.PUT('/api/views/{id}/own/answers', {
          params: { path: { id: view.value.id } },
          body: given,
        }),
      )) as Own
    } catch {
      // Whoever may not keep anything has them in the address.
    }
  }

  /** Asks the server for the words of a tree and goes there. */
  async function rewrite(tree: Node) {
    const left = leaving()
    const said = await data(
      api.POST('/api/registers/{key}/statement', {
        params: { path: { key: register.value!.key } },
        body: { condition: tree, asOf: asOf.value, zone: zone.value, records: false },
      }),
    )
    if (!left()) await step({ where: said.statement })
  }

  /**
   * Takes a fresh state of the view as its own, and leaves the parts of the address that say nothing any more; nothing
   * of that where the reader has left since what led here began.
   */
  async function settle(fresh: View, theirs?: Own, left = leaving()) {
    // A view that was just made, or that was looked at as it is shared, has no refinement to show.
    theirs ??= await data(api.GET('/api/views/{id}/own', { params: { path: { id: fresh.id } } }))
    if (left()) return
    own.value = theirs
    view.value = fresh
    await leaving.own(() =>
      router.replace({
        name: 'view',
        params: { id: fresh.id },
        query: {
          ...(asOf.value ? { asOf: asOf.value } : {}),
          ...(recordsAt.value ? { recordsAt: recordsAt.value } : {}),
        },
      }),
    )
    document.title = `${fresh.name} · Deft Lens`
  }

  watch(
    // One text, since a fresh list of the same parts would count as a change at every step.
    () => [route.name, route.params.key, route.params.id].join('/'),
    () => {
      if (route.name === 'view' || route.name === 'register') void open()
    },
    { immediate: true },
  )
  watch(
    () =>
      [
        where.value,
        order.value.join(),
        columns.value.join(),
        shapeAsked.value,
        asOf.value,
        recordsAt.value,
        side.value,
        zone.value,
        JSON.stringify(answers.value),
        added.value,
        openings.value,
      ].join('\u0001'),
    () => {
      if (!register.value || underway !== undefined) return
      if (register.value.key === reads.value) put()
      else void describeAnew()
    },
  )

  return {
    register,
    view,
    renewed,
    openings,
    own,
    refined,
    asShared,
    mine,
    read,
    settling,
    worded,
    unreadable,
    missing,
    where,
    order,
    columns,
    shape,
    asTotals,
    grouped,
    groups,
    totals,
    asOf,
    recordsAt,
    side,
    zone,
    chosenZone,
    answers,
    isAsked,
    added,
    addsOtherwise,
    changed,
    unsaved,
    steps,
    done,
    stepsAhead,
    answer,
    step,
    rewrite,
    back,
    forward,
    goToStep,
    stateOfStep,
    whenRead,
    settle,
    leaving,
    open,
    unchecked,
    checkAgain,
  }
}
