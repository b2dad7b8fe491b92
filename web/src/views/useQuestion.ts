import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter, type LocationQueryRaw } from 'vue-router'
import {
  api,
  data,
  isAborted,
  latest,
  Problem,
  sentence,
  type ReadStatement,
  type Register,
  type View,
} from '@/api/client'
import { useCatalogue } from '@/registers/catalogue'
import type { Node } from '@/statements/tree'
import { useRows } from '@/rows/useRows'

/** In the place of a zone: each reader's own, as their browser has it. */
export const READERS_ZONE = 'reader'

function ownZone(): string {
  return Intl.DateTimeFormat().resolvedOptions().timeZone
}

/**
 * The question a page puts, kept in the address: register or view, and whatever differs from it (`where`, `order`,
 * `columns`, `asOf`). Every change is a step in the browser's history, so that back undoes it.
 */
export function useQuestion() {
  const route = useRoute()
  const router = useRouter()
  const catalogue = useCatalogue()
  const answer = useRows()
  const reading = latest()

  const register = shallowRef<Register>()
  const view = shallowRef<View>()
  const read = shallowRef<ReadStatement>()
  /** the statement of the address cannot be read */
  const unreadable = ref('')
  const missing = ref('')

  const text = (name: string) =>
    typeof route.query[name] === 'string' ? (route.query[name] as string) : undefined
  const list = (name: string) => text(name)?.split(',').filter(Boolean)

  const where = computed(() => text('where') ?? view.value?.statement ?? '')
  const order = computed(
    () =>
      list('order') ??
      view.value?.order ??
      register.value?.order.map((o) => (o.descending ? '-' : '') + o.field) ??
      [],
  )
  const columns = computed(() => list('columns') ?? view.value?.columns ?? register.value?.columns ?? [])
  const asOf = computed(() => text('asOf'))
  /** the zone of the question: of the view, or as the address has it; "reader" is each reader's own */
  const chosenZone = computed(() => text('zone') ?? view.value?.zone ?? '')
  const zone = computed(() => (chosenZone.value === READERS_ZONE ? ownZone() : chosenZone.value || undefined))
  /** what this reader has filled into the blanks, by their labels */
  const answers = computed(() => {
    const found: Record<string, string> = {}
    for (const [name, value] of Object.entries(route.query)) {
      if (name.startsWith('ask.') && typeof value === 'string' && value) found[name.slice(4)] = value
    }
    return found
  })
  const changed = computed(
    () =>
      view.value !== undefined &&
      (where.value !== view.value.statement ||
        order.value.join() !== view.value.order.join() ||
        columns.value.join() !== view.value.columns.join() ||
        chosenZone.value !== (view.value.zone ?? '')),
  )
  const steps = ref(0)

  async function open() {
    const path = route.path
    // An answer that comes after the reader has gone elsewhere is for nobody.
    const gone = () => route.path !== path
    missing.value = ''
    try {
      let wanted = route.name === 'view' ? view.value : undefined
      if (route.name === 'view' && wanted?.id !== Number(route.params.id)) {
        register.value = undefined
        wanted = await data(api.GET('/api/views/{id}', { params: { path: { id: Number(route.params.id) } } }))
      }
      const described = await catalogue.describe(wanted?.register ?? String(route.params.key))
      if (gone()) return
      view.value = wanted
      register.value = described
    } catch (e) {
      if (!gone()) missing.value = sentence(e)
      return
    }
    document.title = `${view.value?.name ?? register.value.label} · Deft Lens`
    put()
  }

  function put() {
    const key = register.value!.key
    void readStatement(key)
    void answer.ask({
      register: key,
      statement: where.value,
      order: order.value,
      columns: columns.value,
      asOf: asOf.value,
      zone: zone.value,
      answers: answers.value,
    })
  }

  async function readStatement(key: string, filled = answers.value) {
    try {
      read.value = await reading.ask((signal) =>
        data(
          api.POST('/api/registers/{key}/statement', {
            params: { path: { key } },
            body: {
              statement: where.value,
              asOf: asOf.value,
              zone: zone.value,
              answers: filled,
              name: view.value?.name,
              purpose: view.value?.purpose,
            },
            signal,
          }),
        ),
      )
      unreadable.value = ''
    } catch (e) {
      if (isAborted(e)) return
      // An answer that does not fit is said beside the records; the statement stands without it.
      if (e instanceof Problem && e.code === 'bad-answer' && Object.keys(filled).length) {
        await readStatement(key, {})
        return
      }
      read.value = undefined
      unreadable.value = e instanceof Problem ? e.message : sentence(e)
    }
  }

  /** One step: the address with these parts changed; what equals the view's own is left out. */
  async function step(parts: {
    where?: string
    order?: string[]
    columns?: string[]
    asOf?: string | null
    zone?: string
    answers?: Record<string, string>
  }) {
    const query: LocationQueryRaw = { ...route.query }
    if (parts.where !== undefined) {
      const own = view.value?.statement ?? ''
      query.where = parts.where === own ? undefined : parts.where
    }
    if (parts.order)
      query.order = parts.order.join() === view.value?.order.join() ? undefined : parts.order.join()
    if (parts.columns) {
      const own = view.value?.columns ?? register.value?.columns
      query.columns = parts.columns.join() === own?.join() ? undefined : parts.columns.join()
    }
    if (parts.asOf !== undefined) query.asOf = parts.asOf ?? undefined
    if (parts.zone !== undefined)
      query.zone = parts.zone === (view.value?.zone ?? '') ? undefined : parts.zone
    for (const [label, value] of Object.entries(parts.answers ?? {}))
      query['ask.' + label] = value || undefined
    const before = route.fullPath
    await router.push({ query, state: { step: steps.value + 1 } })
    if (route.fullPath !== before) steps.value = Number(history.state?.step ?? 0)
  }

  /** Asks the server for the words of a tree and goes there. */
  async function rewrite(tree: Node) {
    const said = await data(
      api.POST('/api/registers/{key}/statement', {
        params: { path: { key: register.value!.key } },
        body: { condition: tree, asOf: asOf.value, zone: zone.value, records: false },
      }),
    )
    await step({ where: said.statement })
  }

  function back() {
    if (steps.value > 0) router.back()
  }

  /** Takes a fresh state of the view as its own, and leaves the parts of the address that say nothing any more. */
  async function settle(fresh: View) {
    view.value = fresh
    await router.replace({
      name: 'view',
      params: { id: fresh.id },
      query: asOf.value ? { asOf: asOf.value } : {},
    })
    document.title = `${fresh.name} · Deft Lens`
  }

  watch(
    () => [route.name, route.params.key, route.params.id] as const,
    () => {
      if (route.name === 'view' || route.name === 'register') {
        steps.value = Number(history.state?.step ?? 0)
        void open()
      }
    },
    { immediate: true },
  )
  watch(
    () =>
      [
        where.value,
        order.value.join(),
        columns.value.join(),
        asOf.value,
        zone.value,
        JSON.stringify(answers.value),
      ] as const,
    (now, old) => {
      steps.value = Number(history.state?.step ?? 0)
      if (register.value && now.join('\u0001') !== old.join('\u0001')) put()
    },
  )

  return {
    register,
    view,
    read,
    unreadable,
    missing,
    where,
    order,
    columns,
    asOf,
    zone,
    chosenZone,
    answers,
    changed,
    steps,
    answer,
    step,
    rewrite,
    back,
    settle,
    open,
  }
}
