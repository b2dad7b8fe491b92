<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import {
  api,
  data,
  isAborted,
  latest,
  Problem,
  sentence,
  type FieldDescription,
  type Register,
  type Row,
} from '@/api/client'
import { cell, day, localDay } from '@/platform/format'
import { onChanges } from '@/platform/live'
import { staying } from '@/platform/staying'
import { recordsAtWords } from '@/platform/readAt'
import { useSession } from '@/people/session'
import { announceEach } from '@/platform/announcements'
import RecordHistory from './RecordHistory.vue'
import { askedPath, manyOf, type Related } from './related'
import TransactionOf from '@/transactions/TransactionOf.vue'
import { meant, typed } from './typed'
import ValueInput from './ValueInput.vue'

const props = defineProps<{
  register: Register
  id: string
  zone: string
  /** the moment that it is read as it was kept at */
  recordsAt?: string
}>()
const emit = defineEmits<{ changed: []; posted: [words: string] }>()
const session = useSession()

const record = ref<Row>()
const trouble = ref('')
const said = ref('')
const asking = latest()

const marked = staying(() => `${props.register.key}/${props.id}`)

async function load() {
  trouble.value = ''
  const { id } = props
  const { key } = props.register
  if (record.value?.id !== id) {
    editing.value = undefined
    undo.value = undefined
    said.value = ''
    told.value = false
    related.value = []
  }
  try {
    record.value = await asking.ask((signal) =>
      data(
        api.GET('/api/registers/{key}/records/{id}', {
          params: {
            path: { key, id },
            query: props.recordsAt ? { recordsAt: props.recordsAt, zone: props.zone } : {},
          },
          signal,
        }),
      ),
    )
    void relate()
  } catch (e) {
    if (isAborted(e)) return
    record.value = undefined
    trouble.value = sentence(e)
  }
}

// ------------------------------------------------------------------ correcting

const editing = ref<FieldDescription>()
const draft = ref('')
const busy = ref(false)
/** what the last correction replaced */
const undo = ref<{ field: FieldDescription; value: unknown }>()
/** the one field that is open; in a list, Vue gives a list */
const input = ref<InstanceType<typeof ValueInput>[]>()

/** Whether the record lies in the closed period of its register, where nothing of it changes. */
const isClosed = computed(() => {
  const { closedUpTo, mainField, fields } = props.register
  const main = fields.find((f) => f.key === mainField)
  const at = main && record.value?.values[main.key]
  if (!closedUpTo || at == null) return false
  return (main!.type === 'date' ? String(at) : localDay(String(at), session.zone)) <= closedUpTo
})

function mayCorrect(field: FieldDescription): boolean {
  if (!session.mayWrite || field.type === 'span') return false
  if (field.origin === 'TAGS') return !props.recordsAt
  if (isClosed.value || props.recordsAt) return false
  if (!props.register.capabilities.includes('records') || field.origin !== 'COLUMN') return false
  if (session.isAdministrator) return true
  const teams = session.current?.person.teams.map((t) => t.id) ?? []
  return field.correctable && (!field.correctors.length || field.correctors.some((c) => teams.includes(c)))
}

const isListed = (field: FieldDescription) => ['choice', 'person', 'yes/no'].includes(field.type)

async function edit(field: FieldDescription) {
  editing.value = field
  draft.value = typed(field, record.value!.values[field.key], props.zone)
  trouble.value = said.value = ''
  await nextTick()
  input.value?.[0]?.focus()
}

/** Goes back from writing a value, and with the keys to the value. */
async function leave(field: FieldDescription) {
  editing.value = undefined
  await nextTick()
  document.querySelector<HTMLElement>(`.correct[data-field="${field.key}"]`)?.focus()
}

async function keep() {
  const field = editing.value!
  // A moment is kept to the second here; one that was not touched stays as it was.
  if (draft.value === typed(field, record.value!.values[field.key], props.zone)) {
    await leave(field)
    return
  }
  let value: unknown
  try {
    value = meant(field, draft.value, props.zone)
  } catch (e) {
    trouble.value = sentence(e)
    return
  }
  await write(field, value)
}

async function write(field: FieldDescription, value: unknown) {
  busy.value = true
  trouble.value = ''
  const before = record.value!.values[field.key]
  const path = { key: props.register.key, id: props.id }
  const title = record.value!.values[props.register.titleField]
  const stays = marked()
  try {
    if (field.origin === 'TAGS') {
      const old = (before as string[]) ?? []
      const now = value as string[]
      await api.PUT('/api/registers/{key}/records/tags', {
        params: { path },
        body: {
          records: [path.id],
          add: now.filter((t) => !old.includes(t)),
          remove: old.filter((t) => !now.includes(t)),
        },
      })
    } else {
      await api.PATCH('/api/registers/{key}/records/{id}', {
        params: { path },
        body: { values: { [field.key]: value }, was: { [field.key]: before ?? null } } as never,
      })
    }
    if (stays()) {
      editing.value = undefined
      undo.value = { field, value: before ?? null }
      said.value = `${field.label} is corrected.`
      await load()
      await leave(field)
    }
    emit('changed')
  } catch (e) {
    if (!stays()) {
      // The reader is at another record by now, which this is not about.
      trouble.value = `${field.label} of ${title} is not corrected. ${sentence(e)}`
      return
    }
    trouble.value = sentence(e)
    if (e instanceof Problem && e.code === 'changed-meanwhile') {
      const theirs = (e.details.current as Row).values[field.key]
      trouble.value = `Somebody made it “${cell(field, theirs, props.zone)}” meanwhile. Yours is not written yet.`
      record.value = { ...record.value!, values: { ...record.value!.values, [field.key]: theirs as never } }
    }
  } finally {
    busy.value = false
  }
}

async function takeBack() {
  const { field, value } = undo.value!
  const stays = marked()
  await write(field, value)
  if (!stays()) return
  undo.value = undefined
  if (!trouble.value) said.value = `${field.label} is as it was.`
}

// ------------------------------------------------------------------ seen, history, related

const seenField = computed(() => props.register.fields.find((f) => f.origin === 'SEEN'))
const seen = computed(() => Boolean(seenField.value && record.value?.values[seenField.value.key]))

async function mark() {
  try {
    await api.PUT('/api/registers/{key}/records/seen', {
      params: { path: { key: props.register.key } },
      body: { records: [props.id], seen: !seen.value },
    })
    await load()
    emit('changed')
  } catch (e) {
    trouble.value = sentence(e)
  }
}

/** whether what was done to it is shown */
const told = ref(false)

async function putBack(words: string) {
  undo.value = undefined
  said.value = words
  await load()
  emit('changed')
}

const related = ref<Related[]>([])

/** The records of this and other registers that hold the same values. */
async function relate() {
  const row = record.value!
  const { key } = props.register
  const query = props.recordsAt ? { recordsAt: props.recordsAt, zone: props.zone } : {}
  try {
    const found = await data(
      api.GET('/api/registers/{key}/records/{id}/related', { params: { path: { key, id: row.id }, query } }),
    )
    // In its own register the record itself is among them.
    const alone = (r: Related) => r.records === (r.register === props.register.register ? 1 : 0)
    if (record.value === row) related.value = found.filter((r) => !alone(r))
  } catch {
    // What cannot be read now is no relation to show.
  }
}
const relatedWords = (r: Related) => {
  const label = props.register.fields.find((f) => f.key === r.field)?.label ?? r.field
  return `${r.label} with ${label.toLowerCase()} ${r.value}`
}

watch([() => props.register.key, () => props.id, () => props.recordsAt], load, { immediate: true })
onChanges((registers, again) => {
  if (!again && registers.includes(props.register.register) && !editing.value) void load()
})
announceEach(() => said.value)
</script>

<template>
  <section class="record" :aria-label="register.recordLabel">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <template v-if="record">
      <h2>
        {{
          cell(
            register.fields.find((f) => f.key === register.titleField)!,
            record.values[register.titleField],
            zone,
          )
        }}
      </h2>
      <p v-if="seenField" class="mark">
        <button type="button" class="quiet" :aria-pressed="seen" @click="mark">
          {{ seen ? 'Seen by you' : 'Mark as seen' }}
        </button>
      </p>
      <p v-if="recordsAt" class="then">
        As it was kept at {{ recordsAtWords(recordsAt) }}. Corrections are made to records as they are now.
      </p>
      <p v-else-if="isClosed" class="closed">
        Closed up to {{ day(register.closedUpTo!) }}: nothing of this {{ register.recordLabel }} changes until
        an administrator reopens it.
      </p>
      <p class="said">
        {{ said }}
        <button v-if="undo && said" type="button" class="word" :disabled="busy" @click="takeBack">
          Take it back
        </button>
      </p>
      <dl>
        <template v-for="f in register.fields" :key="f.key">
          <template v-if="f.type !== 'span' && f.key !== register.titleField && f.origin !== 'SEEN'">
            <dt :title="f.description || undefined">{{ f.label }}</dt>
            <dd v-if="editing?.key === f.key" class="editing">
              <form @submit.prevent="keep" @keydown.esc.stop="leave(f)">
                <ValueInput
                  ref="input"
                  v-model="draft"
                  :field="f"
                  :label="f.label"
                  :none="f.required ? undefined : isListed(f) ? 'none' : ''"
                />
                <span class="acts">
                  <button type="submit" class="act" :disabled="busy">Save</button>
                  <button type="button" class="word" @click="leave(f)">Cancel</button>
                </span>
              </form>
            </dd>
            <dd v-else :class="{ none: record.values[f.key] == null }">
              <button
                v-if="mayCorrect(f)"
                type="button"
                class="plain correct"
                :data-field="f.key"
                :aria-label="`${cell(f, record.values[f.key], zone)}: correct ${f.label}`"
                @click="edit(f)"
              >
                {{ cell(f, record.values[f.key], zone) }}
              </button>
              <template v-else>{{ cell(f, record.values[f.key], zone) }}</template>
              <span v-if="f.unit && record.values[f.key] != null" class="unit">{{ f.unit }}</span>
            </dd>
          </template>
        </template>
      </dl>
      <TransactionOf
        v-if="register.transactions && !recordsAt && record.values[register.transactions.number.field]"
        :register="register"
        :rules="register.transactions"
        :record="record"
        :zone="zone"
        @posted="emit('posted', $event)"
      />
      <template v-if="related.length">
        <h3>Related</h3>
        <ul class="related">
          <li v-for="r in related" :key="r.register + r.field">
            <RouterLink :to="askedPath(r.register, r.statement, recordsAt)">{{ relatedWords(r) }}</RouterLink>
            {{ ' ' }}<span class="unit">{{ manyOf(r) }}</span>
          </li>
        </ul>
      </template>
      <p v-if="register.capabilities.includes('trail')">
        <button type="button" class="word" :aria-expanded="told" @click="told = !told">Who changed it</button>
      </p>
      <RecordHistory
        v-if="told"
        :key="`${register.key}/${record.id}`"
        :register="register"
        :record="record"
        :zone="zone"
        :may-correct="mayCorrect"
        @back="putBack"
      />
    </template>
  </section>
</template>

<style scoped>
h2 {
  font: 600 18px/1.3 var(--serif);
  margin-bottom: 6px;
  overflow-wrap: anywhere;
}

h3 {
  font: 600 14px var(--sans);
  margin-top: 8px;
}

dl {
  display: grid;
  grid-template-columns: 92px 1fr;
  gap: 4px 10px;
  margin: 0 0 12px;
}

dt {
  color: var(--ink-2);
}

dd {
  margin: 0;
  overflow-wrap: anywhere;
  min-width: 0;
}

dd.none,
.none .correct {
  color: var(--ink-3);
}

.then {
  background: var(--time-bg);
  color: var(--time);
  padding: 4px 8px;
  margin-bottom: 8px;
}

.closed {
  color: var(--ink-2);
  border-left: 3px solid var(--rule-strong);
  padding-left: 8px;
  margin-bottom: 8px;
}

.correct {
  border-bottom: 1px dotted var(--rule-strong);
  overflow-wrap: anywhere;
  min-height: 24px;
}

.correct:hover {
  border-bottom: 1px solid var(--act);
  color: var(--act);
}

.editing {
  grid-column: 1 / -1;
}

.editing .acts {
  display: flex;
  gap: 10px;
  margin: 5px 0 8px;
}

.unit {
  color: var(--ink-2);
  margin-left: 4px;
}

p.unit {
  margin-left: 0;
}

.said {
  color: var(--act);
}

.mark {
  margin-bottom: 8px;
}

.mark [aria-pressed='true'] {
  background: var(--act-soft);
  border-color: var(--act);
}

.related {
  list-style: none;
  padding: 0;
  margin: 4px 0 10px;
}

.related li {
  padding: 2px 0;
}
</style>
