<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import {
  api,
  data,
  Problem,
  type Band,
  type BandReview,
  type ViewEffect,
  type FieldDescription,
  type ImportRun,
  type Register,
  type RemovedField,
  type TeamEntry,
} from '@/api/client'
import SkipLink from '@/platform/SkipLink.vue'
import { vRoving } from '@/platform/roving'
import { useRefusal } from '@/platform/useRefusal'
import { alongArrows } from '@/platform/arrows'
import { isNumeric, typeWords } from '@/platform/format'
import { useLeaving } from '@/platform/leaving'
import { staying } from '@/platform/staying'
import ImportsList from '@/imports/ImportsList.vue'
import UnsavedDialog from '@/platform/UnsavedDialog.vue'
import { useSession } from '@/people/session'
import { writeOrder, type OrderKey } from '@/rows/orders'
import AccessEditor from './AccessEditor.vue'
import ChangeReviewDialog from './ChangeReviewDialog.vue'
import BandsEditor from './BandsEditor.vue'
import CalculationEditor from './CalculationEditor.vue'
import { useCatalogue } from './catalogue'
import FieldTypeDialog from './FieldTypeDialog.vue'
import { FIELD_TYPES } from './fieldTypes'
import RemoveFieldDialog from './RemoveFieldDialog.vue'
import ShapePanel from './ShapePanel.vue'
import SpeedPanel from './SpeedPanel.vue'
import StartsEditor from './StartsEditor.vue'
import SumsPanel from './SumsPanel.vue'
import SaidLine from '@/platform/SaidLine.vue'
import { vFocusFirst } from '@/platform/focusKeeper'

const route = useRoute()
const router = useRouter()
const leaving = useLeaving()
const session = useSession()
const catalogue = useCatalogue()

/** A field as it is being written. */
interface Draft {
  given: FieldDescription
  key: string
  label: string
  description: string
  unit: string
  shown: boolean
  useful: boolean
  identifying: boolean
  correctable: boolean
  correctors: string[]
  options: string
  bands: Band[]
  relates: { register: string; field: string }[]
  /** how it is calculated; empty where it is not */
  calculation: string
}

const register = ref<Register>()
const drafts = ref<Draft[]>([])
const label = ref('')
const recordLabel = ref('')
/** what several records are called; left empty, it is made from one */
const recordsLabel = ref('')
const description = ref('')
const mainField = ref('')
const titleField = ref('')
const running = ref('')
const order = ref<OrderKey[]>([])
const current = ref('')
const section = ref<'fields' | 'order' | 'access' | 'starts' | 'source' | 'speed'>('fields')
const { trouble, troubleId, refused } = useRefusal()
const said = ref('')
const busy = ref(false)
const imports = ref<ImportRun[]>([])
const adding = ref<{ type: string; label: string; calculation: string }>()
const deleteOpen = ref(false)
const teams = ref<TeamEntry[]>([])
/** the whole of it as it was taken, to know whether something was changed */
const taken = ref('')

const key = computed(() => String(route.params.key))
const mayChange = computed(() => session.isAdministrator)

async function load() {
  trouble.value = said.value = ''
  register.value = undefined
  removedFields.value = []
  current.value = ''
  section.value = route.query.section === 'access' ? 'access' : 'fields'
  const stays = marked()
  try {
    const found = await data(api.GET('/api/registers/{key}', { params: { path: { key: key.value } } }))
    if (!stays()) return
    take(found)
    if (!catalogue.names.length) await catalogue.load()
    if (mayChange.value) {
      const runs = await data(api.GET('/api/imports', { params: { query: { register: found.key } } }))
      const known = await data(api.GET('/api/teams'))
      if (stays()) [imports.value, teams.value] = [runs, known]
      await loadRemoved()
    }
  } catch (e) {
    if (stays()) refused(e)
  }
}
const marked = staying(() => key.value)

function take(fresh: Register) {
  register.value = fresh
  document.title = `${fresh.label}, catalogue · Deft Lens`
  label.value = fresh.label
  recordLabel.value = fresh.recordLabel
  recordsLabel.value = fresh.recordsLabel
  description.value = fresh.description
  mainField.value = fresh.mainField ?? ''
  titleField.value = fresh.titleField
  running.value = fresh.running ?? ''
  order.value = fresh.order.map((o) => ({ ...o }))
  drafts.value = fresh.fields.map(draftOf)
  if (!drafts.value.some((d) => d.key === current.value)) current.value = drafts.value[0]?.key ?? ''
  taken.value = JSON.stringify(written())
}

function draftOf(f: FieldDescription): Draft {
  return {
    given: f,
    key: f.key,
    label: f.label,
    description: f.description,
    unit: f.unit,
    shown: register.value!.columns.includes(f.key),
    useful: f.useful,
    identifying: f.identifying,
    correctable: f.correctable,
    correctors: [...f.correctors],
    options: f.options.map((o) => o.value).join('\n'),
    bands: named(f.bands as Band[]),
    relates: f.relates.map((r) => ({ ...r })),
    calculation: f.calculation?.words ?? '',
  }
}

/** Bands to be changed, each with the name it has, so that a new one is known to be its own. */
const named = (given: Band[]): Band[] =>
  given.map((band) => ({
    name: band.name,
    extents: band.extents.map((e) => ({ ...e, values: e.values && [...e.values] })),
    bands: named(band.bands),
    was: band.name,
  }))

const field = computed(() => drafts.value.find((d) => d.key === current.value))

const written = () => ({
  label: label.value,
  recordLabel: recordLabel.value,
  recordsLabel: recordsLabel.value,
  description: description.value,
  mainField: mainField.value || null,
  titleField: titleField.value,
  running: running.value || null,
  order: order.value.map(writeOrder),
  fields: drafts.value.map(writtenField),
})
const writtenField = (d: Draft) => ({
  key: d.key,
  label: d.label,
  description: d.description,
  unit: d.unit,
  shown: d.shown,
  useful: d.useful,
  identifying: d.identifying,
  correctable: d.correctable,
  correctors: d.correctable ? d.correctors : [],
  options: d.options
    .split('\n')
    .map((o) => o.trim())
    .filter(Boolean),
  bands: d.bands,
  relates: d.relates.filter((r) => r.register && r.field),
  calculation: d.calculation || null,
})
const changed = computed(() => register.value !== undefined && JSON.stringify(written()) !== taken.value)

const NO_BANDS: BandReview = { views: [], limits: [] }
const review = ref<{ bands: BandReview; calculations: ViewEffect[] }>()
const reviewOpen = ref(false)

/** Keeps it, but first says what rests on the bands and calculations that change, where something does. */
async function keepReviewed() {
  const rebanded = drafts.value.filter(
    (d) => JSON.stringify(d.bands) !== JSON.stringify(named(d.given.bands as Band[])),
  )
  const recalculated = drafts.value.filter(
    (d) => d.calculation && d.calculation !== d.given.calculation?.words,
  )
  if (!rebanded.length && !recalculated.length) {
    await keep()
    return
  }
  trouble.value = said.value = ''
  busy.value = true
  const stays = marked()
  try {
    const params = { path: { key: key.value } }
    const [bands, calculations] = await Promise.all([
      rebanded.length
        ? data(
            api.POST('/api/registers/{key}/bands/review', {
              params,
              body: { fields: Object.fromEntries(rebanded.map((d) => [d.key, d.bands])) },
            }),
          )
        : NO_BANDS,
      recalculated.length
        ? data(
            api.POST('/api/registers/{key}/calculations/review', {
              params,
              body: { calculations: Object.fromEntries(recalculated.map((d) => [d.key, d.calculation])) },
            }),
          )
        : [],
    ])
    if (!stays()) return
    if (bands.views.length || bands.limits.length || calculations.length) {
      review.value = { bands, calculations }
      reviewOpen.value = true
      return
    }
  } catch (e) {
    refused(e)
    return
  } finally {
    busy.value = false
  }
  await keep()
}

async function keep() {
  trouble.value = said.value = ''
  reviewOpen.value = false
  busy.value = true
  const stays = marked()
  try {
    const fresh = await data(
      api.PUT('/api/registers/{key}', {
        params: { path: { key: key.value } },
        body: { ...written(), version: register.value!.version },
      }),
    )
    if (stays()) {
      take(fresh)
      said.value = 'Saved. It holds for everybody from now on.'
    }
    catalogue.forget()
    await catalogue.load()
  } catch (e) {
    refused(e)
    if (e instanceof Problem && e.code === 'changed-meanwhile')
      trouble.value += ' Load the page again to see theirs; copy what you want to save first.'
  } finally {
    busy.value = false
  }
}

async function add() {
  trouble.value = said.value = ''
  try {
    const fresh = await data(
      api.POST('/api/registers/{key}/fields', {
        params: { path: { key: key.value } },
        body: {
          type: adding.value!.type,
          label: adding.value!.label || null,
          key: null,
          calculation: adding.value!.calculation || null,
        },
      }),
    )
    const calculated = adding.value!.type === 'calculated'
    adding.value = undefined
    // What is being written about the other fields stays as it is.
    register.value = fresh
    const made = draftOf(fresh.fields.at(-1)!)
    drafts.value.push(made)
    const kept = JSON.parse(taken.value) as ReturnType<typeof written>
    taken.value = JSON.stringify({ ...kept, fields: [...kept.fields, writtenField(made)] })
    current.value = fresh.fields.at(-1)!.key
    said.value = calculated
      ? 'The field is there, calculated for every record whenever it is read.'
      : 'The field is there, empty in every record.'
    catalogue.forget()
  } catch (e) {
    refused(e)
  }
}

function cancelAdding() {
  adding.value = undefined
  current.value ||= drafts.value[0]?.key ?? ''
}

/** the fields that were removed and can be restored */
const removedFields = ref<RemovedField[]>([])
const removal = ref<InstanceType<typeof RemoveFieldDialog>>()
async function loadRemoved() {
  const stays = marked()
  const found = await data(
    api.GET('/api/registers/{key}/removed-fields', { params: { path: { key: key.value } } }),
  )
  if (stays()) removedFields.value = found
}
const retyping = ref<InstanceType<typeof FieldTypeDialog>>()
/** Such a change is a step of its own: what was written and not saved would be lost in it. */
function askAbout(dialog: { ask(about: FieldDescription): void } | undefined, about: FieldDescription) {
  trouble.value = said.value = ''
  if (changed.value) trouble.value = 'Save what you have changed first, or load the page again without it.'
  else dialog?.ask(about)
}
async function typeChanged(about: FieldDescription, former: string) {
  try {
    const fresh = await data(api.GET('/api/registers/{key}', { params: { path: { key: key.value } } }))
    const type = fresh.fields.find((f) => f.key === about.key)?.type ?? ''
    await fieldsChanged(
      fresh,
      `${about.label} is now ${typeWords(type)}. Its former values are below, as “${former}”.`,
    )
  } catch (e) {
    refused(e)
  }
}
async function fieldsChanged(fresh: Register, words: string) {
  take(fresh)
  said.value = words
  catalogue.forget()
  await loadRemoved()
}
async function restore(field: RemovedField) {
  trouble.value = said.value = ''
  if (changed.value) {
    trouble.value = 'Save what you have changed first, or load the page again without it.'
    return
  }
  busy.value = true
  try {
    const fresh = await data(
      api.POST('/api/registers/{key}/removed-fields/{field}', {
        params: { path: { key: key.value, field: field.key } },
      }),
    )
    await fieldsChanged(fresh, `${field.label} is restored, as the last field.`)
    current.value = field.key
  } catch (e) {
    refused(e)
  } finally {
    busy.value = false
  }
}

async function remove() {
  const left = leaving()
  try {
    await api.DELETE('/api/registers/{key}', { params: { path: { key: key.value } } })
    register.value = undefined
    catalogue.forget()
    await catalogue.load()
    if (!left()) await router.push('/catalogue')
  } catch (e) {
    deleteOpen.value = false
    refused(e)
  }
}

function move(by: -1 | 1) {
  const at = drafts.value.findIndex((d) => d.key === current.value)
  const to = at + by
  if (to < 0 || to >= drafts.value.length) return
  const [one] = drafts.value.splice(at, 1)
  drafts.value.splice(to, 0, one!)
}

/** The arrows go from field to field; Tab goes on to what is said of one. */
function alongFields(event: KeyboardEvent) {
  const keys = drafts.value.map((d) => d.key)
  const to = alongArrows(event, keys, current.value, 'column')
  if (to === undefined) return
  event.preventDefault()
  current.value = to
  void nextTick(() => document.querySelector<HTMLElement>(`.names [data-key="${to}"]`)?.focus())
}

const hasSeen = computed(() => drafts.value.some((d) => d.given.origin === 'SEEN'))
const hasTags = computed(() => drafts.value.some((d) => d.given.type === 'tags'))
const newTypes = computed(() => [
  ...(hasSeen.value ? [] : ['seen']),
  'calculated',
  ...(register.value?.capabilities.includes('fields') ? FIELD_TYPES : hasTags.value ? [] : ['tags']),
])
const KINDS: Record<string, string> = {
  seen: 'seen or not, by each reader',
  calculated: 'calculated from other fields',
}
const orderable = computed(() => register.value?.fields.filter((f) => f.orderable) ?? [])

/** The fields of another register, for relating them by their values. */
const others = ref<Record<string, FieldDescription[]>>({})
async function fieldsOf(other: string) {
  if (!other || others.value[other]) return
  const described = await catalogue.describe(other)
  others.value = { ...others.value, [other]: described.fields.filter((f) => f.type !== 'span') }
}
watch(field, (now) => now?.relates.forEach((r) => void fieldsOf(r.register)))

const SECTIONS = computed(() => [
  { key: 'fields' as const, label: 'Fields' },
  { key: 'order' as const, label: 'Names and order' },
  ...(session.current?.person.role === 'MEMBER'
    ? []
    : [
        { key: 'access' as const, label: 'Access' },
        { key: 'starts' as const, label: 'First view of a team' },
        { key: 'source' as const, label: 'Source' },
        ...(mayChange.value && register.value?.capabilities.includes('indexes')
          ? [{ key: 'speed' as const, label: 'Performance' }]
          : []),
      ]),
])

watch(key, load, { immediate: true })
</script>

<template>
  <main class="paper">
    <UnsavedDialog :unsaved="changed" :what="`Your changes of ${register?.label}`" />
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    <template v-if="register">
      <header>
        <h1>{{ register.label }}</h1>
        <RouterLink :to="`/registers/${register.key}`">Open its records</RouterLink>
      </header>
      <p class="hint">{{ register.description || 'Nobody has said yet what this register holds.' }}</p>
      <nav v-roving class="sections" aria-label="Parts of the catalogue entry">
        <button
          v-for="s in SECTIONS"
          :key="s.key"
          type="button"
          :aria-pressed="section === s.key"
          @click="section = s.key"
        >
          {{ s.label }}
        </button>
      </nav>
      <SaidLine :words="said" />

      <div v-if="section === 'fields'" class="fields">
        <div>
          <ul class="names" aria-label="Fields" @keydown="alongFields">
            <li v-for="d in drafts" :key="d.key">
              <button
                type="button"
                :class="{ here: d.key === current, useful: d.useful }"
                :aria-current="d.key === current"
                :data-key="d.key"
                :tabindex="d.key === current ? 0 : -1"
                @click="current = d.key"
              >
                <span>{{ d.label }}</span>
                <span class="small"
                  >{{ typeWords(d.given.type) }}{{ d.calculation ? ', calculated' : ''
                  }}{{ d.identifying ? ', identifies the record' : '' }}</span
                >
              </button>
            </li>
          </ul>
          <p v-if="mayChange && !adding" class="acts">
            <button
              type="button"
              class="quiet"
              @click="adding = { type: newTypes[0] ?? 'text', label: '', calculation: '' }"
            >
              Add a field
            </button>
          </p>
          <form v-else-if="adding" v-focus-first class="adding" @submit.prevent="add">
            <label>
              Kind
              <select
                v-model="adding.type"
                class="field"
                @change="adding.type === 'calculated' && (current = '')"
              >
                <option v-for="t in newTypes" :key="t" :value="t">
                  {{ KINDS[t] ?? typeWords(t) }}
                </option>
              </select>
            </label>
            <template v-if="adding.type !== 'calculated'">
              <label v-if="adding.type !== 'seen'">
                Name <input v-model="adding.label" name="label" class="field" maxlength="60" required />
              </label>
              <p class="acts">
                <button type="submit" class="act">Add</button>
                <button type="button" class="word" @click="adding = undefined">Cancel</button>
              </p>
            </template>
            <button v-else-if="current" type="button" class="quiet" @click="current = ''">
              Back to the new field
            </button>
          </form>
          <template v-if="removedFields.length">
            <h2>Removed</h2>
            <ul class="removed" aria-label="Removed fields">
              <li v-for="r in removedFields" :key="r.key">
                {{ r.label }} <span class="small">{{ typeWords(r.type) }}</span>
                <button
                  type="button"
                  class="word"
                  :disabled="busy"
                  :aria-label="`Restore ${r.label}`"
                  @click="restore(r)"
                >
                  Restore
                </button>
              </li>
            </ul>
          </template>
        </div>
        <form
          v-if="adding?.type === 'calculated' && !current"
          class="one"
          aria-label="New calculated field"
          @submit.prevent="add"
        >
          <label>
            Name <input v-model="adding.label" name="label" class="field" maxlength="60" required />
          </label>
          <h2>Calculation</h2>
          <p class="hint">
            From other fields of the same record: <code>amount * 2</code>,
            <code>days_between(due, today)</code>, <code>when(closed_at is empty, "open", "closed")</code>. A
            statement alone is yes or no.
          </p>
          <CalculationEditor v-model="adding.calculation" :register="register" />
          <p class="acts">
            <button type="submit" class="act" :disabled="!adding.calculation">Add the field</button>
            <button type="button" class="word" @click="cancelAdding()">Cancel</button>
          </p>
        </form>
        <fieldset v-else-if="field" :disabled="!mayChange || busy" class="one">
          <legend class="hidden-text">{{ field.label }}</legend>
          <div class="pair">
            <label
              >Name
              <input
                v-model="field.label"
                :name="`fields/${field.key}/label`"
                class="field"
                required
                maxlength="60"
            /></label>
            <label v-if="['number', 'money'].includes(field.given.type)">
              Unit <input v-model="field.unit" class="field" maxlength="20" placeholder="none" />
            </label>
            <p class="small what">
              {{ typeWords(field.given.type) }},
              {{ field.given.required ? 'in every record' : 'may be empty' }}; in statements
              <code>{{ field.key }}</code>
            </p>
          </div>
          <template v-if="field.given.calculation">
            <h2>Calculation</h2>
            <p v-if="field.given.calculation.trouble" class="notice" role="alert">
              It cannot be calculated any more, and is empty in every record.
              {{ field.given.calculation.trouble }}
            </p>
            <CalculationEditor
              :key="field.key"
              v-model="field.calculation"
              :register="register"
              :field="field.given"
              :disabled="!mayChange || busy"
            />
          </template>
          <label class="about">
            What people should know of it
            <textarea v-model="field.description" class="field" rows="2" maxlength="500" />
          </label>
          <p class="ticks">
            <label v-if="field.given.type !== 'span'" class="tick">
              <input v-model="field.shown" type="checkbox" /> shown by default
            </label>
            <label class="tick"><input v-model="field.useful" type="checkbox" /> shown first</label>
            <label v-if="field.given.type !== 'span'" class="tick">
              <input v-model="field.identifying" type="checkbox" /> identifies the record
            </label>
            <label
              v-if="field.given.origin === 'COLUMN' && register.capabilities.includes('fields')"
              class="tick"
            >
              <input v-model="field.correctable" type="checkbox" /> people may correct it
            </label>
            <ElSelect
              v-if="field.correctable && field.given.origin === 'COLUMN'"
              v-model="field.correctors"
              multiple
              filterable
              class="correctors"
              placeholder="everybody who sees it"
              :aria-label="`Teams that correct ${field.label}`"
            >
              <ElOption v-for="t in teams" :key="t.id" :value="t.id" :label="t.name" />
            </ElSelect>
          </p>
          <p v-if="mayChange" v-roving class="acts" role="toolbar" :aria-label="field.label">
            <button type="button" class="quiet" @click="move(-1)">Move up</button>
            <button type="button" class="quiet" @click="move(1)">Move down</button>
            <button
              v-if="register.capabilities.includes('fields') && field.given.origin === 'COLUMN'"
              type="button"
              class="quiet"
              @click="askAbout(retyping, field.given)"
            >
              Change type…
            </button>
            <button
              v-if="field.given.origin !== 'MEMBER'"
              type="button"
              class="quiet"
              @click="askAbout(removal, field.given)"
            >
              Remove…
            </button>
          </p>
          <SkipLink v-if="changed" to="save-register">Skip to Save</SkipLink>
          <label
            v-if="['choice', 'tags'].includes(field.given.type) && !field.given.calculation"
            class="about"
          >
            Known values, one on each line, in their order
            <textarea v-model="field.options" class="field" rows="6" />
          </label>
          <template v-if="!['span', 'tags', 'yes/no'].includes(field.given.type)">
            <h2>Bands</h2>
            <BandsEditor
              v-model="field.bands"
              :register-key="register.key"
              :field="field.given"
              :disabled="!mayChange"
            />
          </template>
          <template v-if="field.given.type !== 'span' && field.given.origin === 'COLUMN'">
            <h2>The same values elsewhere</h2>
            <p class="hint">
              A record’s panel leads to the records of other registers that hold the same value.
            </p>
            <div v-for="(r, i) in field.relates" :key="i" class="relation">
              <select
                v-model="r.register"
                class="field"
                :aria-label="`Register ${i + 1} with the same values`"
                @change="((r.field = ''), fieldsOf(r.register))"
              >
                <option value="">a register…</option>
                <option v-for="n in catalogue.names" :key="n.key" :value="n.key">{{ n.label }}</option>
              </select>
              <select v-model="r.field" class="field" :aria-label="`Field ${i + 1} with the same values`">
                <option value="">its field…</option>
                <option v-for="f in others[r.register] ?? []" :key="f.key" :value="f.key">
                  {{ f.label }}
                </option>
              </select>
              <button
                v-if="mayChange"
                type="button"
                class="word"
                :aria-label="`remove relation ${i + 1}`"
                @click="field.relates.splice(i, 1)"
              >
                remove
              </button>
            </div>
            <p v-if="!field.relates.length && !mayChange" class="small">None.</p>
            <button
              v-if="mayChange"
              type="button"
              class="quiet"
              @click="field.relates.push({ register: '', field: '' })"
            >
              Add a register
            </button>
          </template>
        </fieldset>
      </div>

      <fieldset v-else-if="section === 'order'" :disabled="!mayChange || busy">
        <legend class="hidden-text">Names and order</legend>
        <div class="pair">
          <label>Name <input v-model="label" name="label" class="field" required maxlength="120" /></label>
          <label
            >One record <input v-model="recordLabel" name="recordLabel" class="field" required maxlength="60"
          /></label>
          <label>Several records <input v-model="recordsLabel" class="field" maxlength="60" /></label>
          <label>
            Main date
            <select v-model="mainField" name="mainField" class="field">
              <option value="">none</option>
              <option
                v-for="f in register.fields.filter(
                  (f) => (f.type === 'date' || f.type === 'moment') && !f.calculation,
                )"
                :key="f.key"
                :value="f.key"
              >
                {{ f.label }}
              </option>
            </select>
          </label>
          <label>
            Records are named by
            <select v-model="titleField" name="titleField" class="field">
              <option
                v-for="f in register.fields.filter((f) => f.type !== 'span')"
                :key="f.key"
                :value="f.key"
              >
                {{ f.label }}
              </option>
            </select>
          </label>
          <label>
            Running total of
            <select v-model="running" name="running" class="field">
              <option value="">nothing</option>
              <option v-for="f in register.fields.filter(isNumeric)" :key="f.key" :value="f.key">
                {{ f.label }}
              </option>
            </select>
          </label>
        </div>
        <label class="about">
          Description
          <textarea v-model="description" class="field" rows="2" maxlength="1000" />
        </label>
        <h2>Default order</h2>
        <p v-if="!order.length" class="small">By the main date, newest first.</p>
        <div v-for="(o, i) in order" :key="i" class="relation">
          <select v-model="o.field" class="field" :aria-label="`Order by, ${i + 1}`">
            <option v-for="f in orderable" :key="f.key" :value="f.key">{{ f.label }}</option>
          </select>
          <select
            v-model="o.descending"
            class="field"
            :aria-label="`Direction of ${i + 1}`"
            :title="o.descending ? 'highest or latest first' : 'lowest or earliest first'"
          >
            <option :value="false">lowest or earliest first</option>
            <option :value="true">highest or latest first</option>
          </select>
          <button
            v-if="mayChange"
            type="button"
            class="word"
            :aria-label="`remove order ${i + 1}`"
            @click="order.splice(i, 1)"
          >
            remove
          </button>
        </div>
        <p v-if="mayChange" class="acts">
          <button
            type="button"
            class="quiet"
            @click="order.push({ field: orderable[0]!.key, descending: false, emptiesFirst: false })"
          >
            Order by another field
          </button>
        </p>
        <p v-if="mayChange" class="acts">
          <button type="button" class="word" @click="deleteOpen = true">Remove this register…</button>
        </p>
      </fieldset>
      <AccessEditor v-else-if="section === 'access'" :register="register" />
      <StartsEditor v-else-if="section === 'starts'" :register="register" />
      <template v-else-if="section === 'speed'">
        <SpeedPanel :register="register" />
        <SumsPanel v-if="register.capabilities.includes('counts')" :register="register" />
      </template>
      <section v-else>
        <ShapePanel :register="register" @taken="load" />
        <template v-if="register.capabilities.includes('records')">
          <h2>Imported files</h2>
          <ImportsList :runs="imports" @changed="load" />
          <p v-if="mayChange" class="acts">
            <RouterLink class="quiet" :to="{ path: '/catalogue/import', query: { into: register.key } }">
              Import a file
            </RouterLink>
          </p>
        </template>
      </section>

      <p
        v-if="mayChange && (section === 'fields' || section === 'order')"
        id="save-register"
        class="acts keeping"
      >
        <button type="button" class="act" :disabled="!changed || busy" @click="keepReviewed">Save</button>
        <button v-if="changed" type="button" class="word" @click="take(register)">Discard</button>
        <span v-if="changed" class="small">You have unsaved changes.</span>
      </p>
      <section>
        <FieldTypeDialog v-if="mayChange" ref="retyping" :register="register" @changed="typeChanged" />
        <RemoveFieldDialog
          v-if="register && mayChange"
          ref="removal"
          :register="register"
          @removed="
            (fresh, gone) => fieldsChanged(fresh, `${gone.label} is removed. It can be restored below.`)
          "
        />
        <ChangeReviewDialog v-if="review" v-model="reviewOpen" v-bind="review" :busy="busy" @keep="keep" />
        <ElDialog v-model="deleteOpen" :title="`Take ${register.label} away?`" width="440px">
          <p>
            Nobody sees it any more, nor the views over it. Its records stay in the database, and an
            administrator can bring it back.
          </p>
          <template #footer>
            <button type="button" class="word" @click="deleteOpen = false">Cancel</button>
            <button type="button" class="act" @click="remove">Remove it</button>
          </template>
        </ElDialog>
      </section>
    </template>
  </main>
</template>

<style scoped>
.removed {
  list-style: none;
  margin: 0;
  padding: 0;
}

.removed .word {
  margin-left: 10px;
}

header {
  display: flex;
  gap: 18px;
  align-items: baseline;
}

.sections {
  display: flex;
  flex-wrap: wrap;
  gap: 18px;
  border-bottom: 1px solid var(--rule);
  margin-top: 12px;
}

.sections button {
  border: 0;
  background: none;
  padding: 4px 0 7px;
  cursor: pointer;
  color: var(--ink-2);
  border-bottom: 3px solid transparent;
}

.sections [aria-pressed='true'] {
  color: var(--ink);
  font-weight: 600;
  border-bottom-color: var(--act);
}

.fields {
  display: grid;
  grid-template-columns: 230px minmax(0, 1fr);
  gap: 26px;
}

.names {
  list-style: none;
  margin: 0;
  padding: 0;
}

.names button {
  width: 100%;
  display: flex;
  justify-content: space-between;
  gap: 8px;
  align-items: baseline;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  padding: 3px 8px;
  cursor: pointer;
  text-align: left;
}

.names button:hover {
  background: var(--head);
}

.names .useful span:first-child {
  font-weight: 600;
}

.names .here {
  background: var(--act-soft);
  border-left-color: var(--act);
}

.what {
  align-self: end;
}

.about {
  display: block;
  margin-top: 10px;
}

.ticks {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 20px;
  margin-top: 10px;
}

.relation {
  display: grid;
  grid-template-columns: minmax(0, 220px) minmax(0, 220px) auto;
  gap: 8px;
  margin: 6px 0;
  justify-content: start;
}

@media (max-width: 640px) {
  .relation {
    grid-template-columns: minmax(0, 1fr);
  }
}

.adding {
  margin-top: 10px;
  display: grid;
  gap: 8px;
}

.keeping {
  position: sticky;
  bottom: -40px;
  background: var(--page);
  padding: 10px 0 14px;
  border-top: 1px solid var(--rule);
}

a.quiet {
  color: var(--ink);
  text-decoration: none;
}

@media (max-width: 900px) {
  .fields {
    grid-template-columns: minmax(0, 1fr);
  }
}

.correctors {
  width: 260px;
}
</style>
