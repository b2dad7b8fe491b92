<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import {
  api,
  data,
  Problem,
  type BandReview,
  type ViewEffect,
  type FieldDescription,
  type ImportRun,
  type Register,
  type RemovedField,
  type TeamEntry,
} from '@/api/client'
import { vRoving } from '@/platform/roving'
import { useActing } from '@/platform/useActing'
import { alongArrows } from '@/platform/arrows'
import { typeWords } from '@/platform/format'
import { useLeaving } from '@/platform/leaving'
import { staying } from '@/platform/staying'
import ImportsList from '@/imports/ImportsList.vue'
import UnsavedDialog from '@/platform/UnsavedDialog.vue'
import { useSession } from '@/people/session'
import AccessEditor from './AccessEditor.vue'
import ChangeReviewDialog from './ChangeReviewDialog.vue'
import CalculationEditor from './CalculationEditor.vue'
import ClosedPeriodPanel from './ClosedPeriodPanel.vue'
import { useCatalogue } from './catalogue'
import {
  fieldDraft,
  namesDraft,
  rebanded,
  recalculated,
  writtenField,
  writtenRegister,
  type FieldDraft,
  type NamesDraft,
} from './draft'
import FieldForm from './FieldForm.vue'
import FieldTypeDialog from './FieldTypeDialog.vue'
import { FIELD_TYPES } from './fieldTypes'
import NamesForm from './NamesForm.vue'
import RemoveFieldDialog from './RemoveFieldDialog.vue'
import ShapePanel from './ShapePanel.vue'
import SpeedPanel from './SpeedPanel.vue'
import StartsEditor from './StartsEditor.vue'
import SumsPanel from './SumsPanel.vue'
import TransactionsForm from './TransactionsForm.vue'
import SaidLine from '@/platform/SaidLine.vue'
import { vFocusFirst } from '@/platform/focusKeeper'

const route = useRoute()
const router = useRouter()
const leaving = useLeaving()
const session = useSession()
const catalogue = useCatalogue()

const register = ref<Register>()
const drafts = ref<FieldDraft[]>([])
const names = ref<NamesDraft>(undefined!)
const current = ref('')
const section = ref<
  'fields' | 'order' | 'transactions' | 'access' | 'starts' | 'source' | 'closed' | 'speed'
>('fields')
const { busy, trouble, troubleId, said, refused, act } = useActing()
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
  names.value = namesDraft(fresh)
  drafts.value = fresh.fields.map((f) => fieldDraft(f, fresh))
  if (!drafts.value.some((d) => d.key === current.value)) current.value = drafts.value[0]?.key ?? ''
  taken.value = JSON.stringify(written())
}

const field = computed(() => drafts.value.find((d) => d.key === current.value))

const written = () => writtenRegister(names.value, drafts.value)
const changed = computed(() => register.value !== undefined && JSON.stringify(written()) !== taken.value)

const NO_BANDS: BandReview = { views: [], limits: [] }
const review = ref<{ bands: BandReview; calculations: ViewEffect[] }>()
const reviewOpen = ref(false)

/** Keeps it, but first says what rests on the bands and calculations that change, where something does. */
async function keepReviewed() {
  const bandsOf = rebanded(drafts.value)
  const calculationsOf = recalculated(drafts.value)
  if (!bandsOf.length && !calculationsOf.length) {
    await keep()
    return
  }
  const stays = marked()
  let rests = true
  await act(async () => {
    const params = { path: { key: key.value } }
    const [bands, calculations] = await Promise.all([
      bandsOf.length
        ? data(
            api.POST('/api/registers/{key}/bands/review', {
              params,
              body: { fields: Object.fromEntries(bandsOf.map((d) => [d.key, d.bands])) },
            }),
          )
        : NO_BANDS,
      calculationsOf.length
        ? data(
            api.POST('/api/registers/{key}/calculations/review', {
              params,
              body: { calculations: Object.fromEntries(calculationsOf.map((d) => [d.key, d.calculation])) },
            }),
          )
        : [],
    ])
    if (!stays()) return
    rests = bands.views.length + bands.limits.length + calculations.length > 0
    review.value = { bands, calculations }
    reviewOpen.value = rests
  })
  // What was refused, or is looked at first, is not kept.
  if (!rests) await keep()
}

async function keep() {
  reviewOpen.value = false
  const stays = marked()
  await act(
    async () => {
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
    },
    (e) => {
      if (e instanceof Problem && e.code === 'changed-meanwhile')
        trouble.value += ' Load the page again to see theirs; copy what you want to save first.'
    },
  )
}

const add = () =>
  act(async () => {
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
    const made = fieldDraft(fresh.fields.at(-1)!, fresh)
    drafts.value.push(made)
    const kept = JSON.parse(taken.value) as ReturnType<typeof written>
    taken.value = JSON.stringify({ ...kept, fields: [...kept.fields, writtenField(made)] })
    current.value = fresh.fields.at(-1)!.key
    said.value = calculated
      ? 'The field is there, calculated for every record whenever it is read.'
      : 'The field is there, empty in every record.'
    catalogue.forget()
  })

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
  await act(async () => {
    const fresh = await data(
      api.POST('/api/registers/{key}/removed-fields/{field}', {
        params: { path: { key: key.value, field: field.key } },
      }),
    )
    await fieldsChanged(fresh, `${field.label} is restored, as the last field.`)
    current.value = field.key
  })
}

function closedChanged(upTo: string | undefined) {
  register.value = { ...register.value!, closedUpTo: upTo }
  catalogue.forget()
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
const isKeptHere = computed(() => register.value?.capabilities.includes('records'))
const SECTIONS = computed(() => [
  { key: 'fields' as const, label: 'Fields' },
  { key: 'order' as const, label: 'Names and order' },
  ...(session.current?.person.role === 'MEMBER'
    ? []
    : [
        { key: 'access' as const, label: 'Access' },
        { key: 'starts' as const, label: 'First view of a team' },
        { key: 'source' as const, label: 'Source' },
        ...(isKeptHere.value ? [{ key: 'closed' as const, label: 'Closed period' }] : []),
      ]),
  ...(isKeptHere.value ? [{ key: 'transactions' as const, label: 'Transactions' }] : []),
  ...(mayChange.value && register.value?.capabilities.includes('indexes')
    ? [{ key: 'speed' as const, label: 'Performance' }]
    : []),
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
        <FieldForm
          v-else-if="field"
          :key="field.key"
          v-model="drafts[drafts.indexOf(field)]!"
          :register="register"
          :teams="teams"
          :disabled="!mayChange || busy"
          :changed="changed"
          @move="move"
          @retype="askAbout(retyping, field.given)"
          @remove="askAbout(removal, field.given)"
        />
      </div>

      <NamesForm
        v-else-if="section === 'order'"
        v-model="names"
        :register="register"
        :disabled="!mayChange || busy"
        @remove="deleteOpen = true"
      />
      <TransactionsForm
        v-else-if="section === 'transactions'"
        v-model="names.transactions"
        :register="register"
        :disabled="!mayChange || busy"
      />
      <AccessEditor v-else-if="section === 'access'" :register="register" />
      <StartsEditor v-else-if="section === 'starts'" :register="register" />
      <ClosedPeriodPanel v-else-if="section === 'closed'" :register="register" @changed="closedChanged" />
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
        v-if="mayChange && ['fields', 'order', 'transactions'].includes(section)"
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
</style>
