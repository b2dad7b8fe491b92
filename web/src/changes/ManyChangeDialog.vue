<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { api, data, type FieldDescription, type Register, type Schemas } from '@/api/client'
import { useSession } from '@/people/session'
import { capitalised, cell, counted, number } from '@/platform/format'
import { askedOf, type Question } from '@/rows/useRows'
import type { useChosen } from '@/rows/useChosen'
import ValueInput from '@/rows/ValueInput.vue'
import { actsOf, actWords, alike, asked, newLine, unitsOf, type Line, type ManyChange } from './acts'
import { useManyChange } from './useManyChange'

/** Changes all records of a question at once: what becomes of which field, what that would do, why, and then it is done. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  register: Register
  question: Question
  /** the statement in words */
  words: string
  /** the records that are chosen; all that match where it is absent */
  chosen?: ReturnType<typeof useChosen>
  zone: string
}>()
const emit = defineEmits<{ changed: [words: string, change?: string] }>()
const session = useSession()

const lines = ref<Line[]>([])
const deleting = ref(false)
const reason = ref('')
const busy = ref(false)
const preview = ref<Schemas['ChangePreview']>()
/** what was looked at: what is sent is what was seen */
let looked: ManyChange | undefined
const { run, trouble, troubleId, refused, begin, stop, goesOn } = useManyChange((done) => {
  open.value = false
  emit('changed', `${done.message}.`, done.change?.id)
})

const mayCorrect = (f: FieldDescription) => {
  if (f.origin !== 'COLUMN' || f.type === 'span') return false
  if (session.isAdministrator) return true
  const teams = session.current?.person.teams.map((t) => t.id) ?? []
  return f.correctable && (!f.correctors.length || f.correctors.some((c) => teams.includes(c)))
}
const fields = computed(() => props.register.fields.filter(mayCorrect))
const left = (line?: Line) =>
  fields.value.filter((f) => f.key === line?.field || !lines.value.some((l) => l.field === f.key))
const of = (line: { field: string }) => props.register.fields.find((f) => f.key === line.field)!

watch(open, (now) => {
  if (!now) return
  trouble.value = reason.value = ''
  run.value = preview.value = undefined
  deleting.value = false
  lines.value = fields.value.length ? [fresh(fields.value[0]!)] : []
})
// What was looked at is not what stands there any more.
watch([lines, deleting], () => (preview.value = undefined), { deep: true })

function fresh(field: FieldDescription): Line {
  return { ...newLine(field.key), act: actsOf(field, props.register.fields)[0]! }
}
const noneOf = (field: FieldDescription) =>
  !field.required ? 'none' : ['choice', 'person', 'yes/no'].includes(field.type) ? 'choose' : ''
function choose(line: Line, key: string) {
  Object.assign(line, fresh(props.register.fields.find((f) => f.key === key)!))
}
const sheet = ref<HTMLElement>()
async function add() {
  lines.value.push(fresh(left()[0]!))
  await nextTick()
  sheet.value?.querySelector<HTMLElement>('.line:last-of-type select')?.focus()
}

/** The records that are meant, as the API takes them. */
function those() {
  const meant = props.chosen?.meant.value
  if (!meant || (meant.all && !meant.ids.length)) return {}
  return meant.all ? { except: meant.ids } : { records: meant.ids }
}

async function look() {
  trouble.value = ''
  let set: ManyChange['set']
  try {
    set = deleting.value ? [] : lines.value.map((l) => asked(l, of(l), props.zone))
  } catch (e) {
    trouble.value = (e as Error).message
    return
  }
  busy.value = true
  try {
    looked = { ...askedOf(props.question), ...those(), set, delete: deleting.value } as ManyChange
    preview.value = await data(
      api.POST('/api/registers/{key}/changes/preview', {
        params: { path: { key: props.register.key } },
        body: looked,
      }),
    )
  } catch (e) {
    refused(e)
  } finally {
    busy.value = false
  }
}

const possible = computed(() => preview.value && preview.value.changed > 0 && !preview.value.refused.length)
const record = (n: number) => counted(n, props.register.recordLabel, props.register.recordsLabel)

async function change() {
  await begin(props.register.key, () =>
    data(
      api.POST('/api/registers/{key}/changes', {
        params: { path: { key: props.register.key } },
        body: { change: looked!, mark: preview.value!.mark, reason: reason.value },
      }),
    ),
  )
}
</script>

<template>
  <ElDialog v-model="open" :title="`Change these ${register.recordsLabel}`" width="640px">
    <div ref="sheet">
      <p v-if="chosen" class="which">
        {{ record(chosen.number.value) }} that {{ chosen.number.value === 1 ? 'is' : 'are' }} chosen
      </p>
      <p v-else class="which">
        {{ words ? `${capitalised(register.recordsLabel)} whose ${words}` : `All ${register.recordsLabel}` }}
      </p>
      <fieldset class="plain" :disabled="goesOn()">
        <legend class="hidden-text">What becomes of them</legend>
        <template v-if="!deleting">
          <div v-for="(line, i) in lines" :key="i" class="line">
            <select
              class="field"
              :value="line.field"
              :aria-label="`Field ${i + 1}`"
              @change="choose(line, ($event.target as HTMLSelectElement).value)"
            >
              <option v-for="f in left(line)" :key="f.key" :value="f.key">{{ f.label }}</option>
            </select>
            <select v-model="line.act" class="field" :aria-label="`What becomes of ${of(line).label}`">
              <option v-for="a in actsOf(of(line), register.fields)" :key="a" :value="a">
                {{ actWords(a) }}
              </option>
            </select>
            <template v-if="line.act === 'MOVE'">
              <input
                v-model.number="line.count"
                type="number"
                class="field count"
                :aria-label="`By how many ${of(line).label} is later`"
              />
              <select v-model="line.unit" class="field" aria-label="Unit">
                <option v-for="u in unitsOf(of(line))" :key="u" :value="u">{{ u.toLowerCase() }}s</option>
              </select>
            </template>
            <select
              v-else-if="line.act === 'TAKE'"
              v-model="line.from"
              class="field"
              :aria-label="`The field that ${of(line).label} is taken from`"
            >
              <option value="">choose a field</option>
              <option v-for="f in alike(of(line), register.fields)" :key="f.key" :value="f.key">
                {{ f.label }}
              </option>
            </select>
            <ValueInput
              v-else-if="line.act === 'SET'"
              v-model="line.text"
              :field="of(line)"
              :label="`The new ${of(line).label}`"
              :none="noneOf(of(line))"
            />
            <input
              v-else
              v-model="line.text"
              class="field"
              :aria-label="`${of(line).label} ${actWords(line.act)}`"
            />
            <button
              v-if="lines.length > 1"
              type="button"
              class="word"
              :aria-label="`Leave ${of(line).label} as it is`"
              @click="lines.splice(i, 1)"
            >
              ✕
            </button>
          </div>
          <p class="acts">
            <button v-if="left().length" type="button" class="word" @click="add">Another field</button>
          </p>
        </template>
        <label class="tick"><input v-model="deleting" type="checkbox" /> Delete them instead</label>
      </fieldset>
      <section v-if="preview" class="preview" aria-live="polite">
        <p>
          <strong>{{ record(preview.records) }}</strong>, of which
          <strong>{{ number(preview.changed) }}</strong>
          {{ deleting ? 'would be deleted' : 'would change' }}.
          <template v-if="!deleting && preview.leaving"
            >{{ number(preview.leaving) }} would not be in this view any more.</template
          >
          <template v-if="!preview.changed">Nothing is to be done.</template>
        </p>
        <table v-for="f in preview.fields.filter((p) => p.changed)" :key="f.field">
          <caption>
            {{
              of(f).label
            }}
          </caption>
          <thead>
            <tr>
              <th scope="col">from</th>
              <th scope="col">to</th>
              <th scope="col" class="numeric">records</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(s, i) in f.steps" :key="i">
              <td>{{ cell(of(f), s.before, zone) }}</td>
              <td>{{ cell(of(f), s.after, zone) }}</td>
              <td class="numeric">{{ number(s.records) }}</td>
            </tr>
            <tr v-if="f.more">
              <td colspan="3" class="small">
                and {{ counted(f.more, 'other pair', 'other pairs') }} of values
              </td>
            </tr>
          </tbody>
        </table>
        <ul v-if="preview.refused.length" class="notice" role="alert">
          <li v-for="r in preview.refused" :key="r.reason + r.field">
            {{ record(r.records) }} cannot be changed so. {{ r.message }}
          </li>
          <li>
            Nothing is changed as long as there are any. Leave them out by a criterion, or change otherwise.
          </li>
        </ul>
      </section>
      <label v-if="possible" class="why">
        Why
        <input v-model="reason" class="field" maxlength="500" :aria-describedby="troubleId" />
        <span class="small">It stands in the history of each record.</span>
      </label>
      <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
      <p v-if="goesOn()" role="status">
        {{ run!.state === 'WAITING' ? 'Beginning…' : 'Writing…' }}
        <button type="button" class="quiet" @click="stop">Stop</button>
      </p>
    </div>
    <template #footer>
      <button type="button" class="word" @click="open = false">{{ goesOn() ? 'Close' : 'Cancel' }}</button>
      <button
        v-if="!preview || !possible"
        type="button"
        class="act"
        :disabled="busy || goesOn() || (!deleting && !lines.length)"
        @click="look"
      >
        Preview
      </button>
      <button
        v-else
        type="button"
        class="act"
        :disabled="busy || goesOn() || !reason.trim()"
        :title="reason.trim() ? undefined : 'Say why first'"
        @click="change"
      >
        {{ deleting ? 'Delete' : 'Change' }} {{ record(preview.changed) }}
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
.which {
  font-family: var(--serif);
  font-size: 17px;
  margin-bottom: 10px;
}

.plain {
  border: 0;
  padding: 0;
  margin: 0;
}

.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: center;
  margin-bottom: 8px;
}

.line .field {
  flex: 1 1 150px;
}

.line .count {
  flex: 0 0 80px;
}

.tick {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 32px;
}

.preview {
  border-top: 1px solid var(--rule);
  margin-top: 10px;
  padding-top: 10px;
  max-height: 240px;
  overflow: auto;
}

table {
  border-collapse: collapse;
  width: 100%;
  margin: 8px 0;
}

caption {
  text-align: left;
  font-weight: 600;
}

th,
td {
  text-align: left;
  padding: 2px 8px 2px 0;
  border-bottom: 1px solid var(--rule);
  overflow-wrap: anywhere;
}

th.numeric,
td.numeric {
  text-align: right;
}

.why {
  display: grid;
  gap: 4px;
  font-weight: 600;
  margin-top: 8px;
}

.why .small {
  font-weight: 400;
}
</style>
