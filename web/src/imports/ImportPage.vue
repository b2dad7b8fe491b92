<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import {
  api,
  data,
  sentence,
  type FileLook,
  type ImportPlan,
  type ImportRun,
  type Register,
} from '@/api/client'
import SkipLink from '@/platform/SkipLink.vue'
import { counted, localDay, number } from '@/platform/format'
import UnsavedDialog from '@/platform/UnsavedDialog.vue'
import { useSession } from '@/people/session'
import { useCatalogue } from '@/registers/catalogue'
import ColumnsTable from './ColumnsTable.vue'
import ImportOutcome from './ImportOutcome.vue'
import ImportsList from './ImportsList.vue'
import RunProgress from './RunProgress.vue'
import { sampleFile } from './sample'
import { useImportRun } from './useImportRun'
import { useSentFile } from './useSentFile'
import {
  follow,
  hindrance,
  linesOf,
  mainDate,
  match,
  planOf,
  pretty,
  recognises,
  titleOf,
  writableFields,
  type Known,
  type Line,
  type Target,
} from './plan'
import { announceRested } from '@/platform/announcements'

const route = useRoute()
/** So many columns are walked through by keys; past more of them there is a link. */
const FEW = 3
const session = useSession()
const catalogue = useCatalogue()

const DELIMITERS: Record<string, string> = { ',': 'commas', ';': 'semicolons', '\t': 'tabs', '|': 'bars' }

const { look, trouble, sending, reading, send, lookAgain, stop } = useSentFile(take)
const {
  run,
  trouble: runTrouble,
  troubleId: runTroubleId,
  begin,
  stop: stopRun,
} = useImportRun(async () => {
  catalogue.forget()
  await catalogue.load()
})
const over = ref(false)
const lines = ref<Line[]>([])
const into = ref('')
const target = ref<Register>()
const label = ref('')
const recordLabel = ref('')
/** the columns that the time rail of a new register goes by, and that its records are named by, by their places */
const mainColumn = ref<number>()
const titleColumn = ref<number>()
const by = ref<string[]>([])
const known = ref<Known>('UPDATE')
const plans = ref<{ name: string; plan: ImportPlan }[]>([])
const keepAs = ref('')
const runs = ref<ImportRun[]>([])

onMounted(async () => {
  document.title = 'Import a file · Deft Lens'
  if (typeof route.query.into === 'string') into.value = route.query.into
  if (!catalogue.names.length) await catalogue.load().catch((e) => (trouble.value = sentence(e)))
  if (route.query.sample) begun(sampleFile(today()))
  await loadRuns()
})

/** The day in the organisation, for which the sample is made. */
function today() {
  return localDay(session.current!.now, session.zone)
}

async function loadRuns() {
  if (!session.isAdministrator) return
  runs.value = await data(api.GET('/api/imports')).catch(() => [])
}

const own = computed(() => catalogue.names.filter((r) => r.capabilities.includes('records')))

function dropped(event: DragEvent) {
  over.value = false
  const file = event.dataTransfer?.files[0]
  if (file) begun(file)
}

function chosen(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) begun(file)
}

function begun(file: File) {
  run.value = undefined
  lines.value = []
  label.value = ''
  send(file)
}

function another() {
  run.value = look.value = undefined
  void loadRuns()
}

function take(fresh: FileLook) {
  lines.value = linesOf(fresh, lines.value)
  label.value = label.value || pretty(fresh.name.replace(/\.[^.]+$/, ''))
  mainColumn.value = mainDate(lines.value)?.column.index
  titleColumn.value = titleOf(lines.value)?.column.index
  matched()
}
/** The columns that the main date and the name of a record can be; what is no longer taken is neither. */
const dates = computed(() => taken.value.filter((l) => l.type === 'date' || l.type === 'moment'))
const main = computed(() => dates.value.find((l) => l.column.index === mainColumn.value))
const title = computed(
  () => taken.value.find((l) => l.column.index === titleColumn.value) ?? titleOf(lines.value),
)

watch(into, async (key) => {
  target.value = undefined
  plans.value = []
  if (!key) return
  try {
    const [described, kept] = await Promise.all([
      catalogue.describe(key),
      data(api.GET('/api/registers/{key}/import-plans', { params: { path: { key } } })),
    ])
    // Another one was chosen meanwhile.
    if (into.value !== key) return
    target.value = described
    plans.value = kept
  } catch (e) {
    trouble.value = sentence(e)
  }
  matched()
})

function chosenColumn(event: Event): number | undefined {
  const { value } = event.target as HTMLSelectElement
  return value === '' ? undefined : Number(value)
}

function matched() {
  if (target.value) ({ by: by.value, known: known.value } = match(lines.value, target.value))
}
const writable = computed(() => writableFields(target.value))

function followed(name: string) {
  const plan = plans.value.find((p) => p.name === name)?.plan
  if (!plan) return
  keepAs.value = name
  ;({ by: by.value, known: known.value } = follow(lines.value, plan))
}

/** The lines that can hold the names: those left out, the one that does, and the first of the file. */
const nameLines = computed(() => {
  const { namesAt, before } = look.value!
  return [...new Set([...before.map((b) => b.line), ...(namesAt ? [namesAt, namesAt + 1] : [1, 2, 3])])].sort(
    (a, b) => a - b,
  )
})
const taken = computed(() => lines.value.filter((l) => l.taken))
const going = computed<Target>(() => ({
  register: target.value,
  label: label.value,
  by: by.value,
  known: known.value,
}))
const hindered = computed(() =>
  reading.value !== undefined
    ? 'Reading the file…'
    : into.value && !target.value
      ? 'Reading what the register holds…'
      : hindrance(lines.value, going.value),
)

const start = () =>
  begin(() =>
    data(
      api.POST('/api/files/{token}/import', {
        params: { path: { token: look.value!.token } },
        body: {
          reading: readingOf(look.value!),
          into: into.value
            ? { register: into.value }
            : {
                label: label.value,
                recordLabel: recordLabel.value,
                mainField: main.value?.label.trim() ?? null,
                titleField: title.value!.label.trim(),
              },
          plan: planOf(lines.value, going.value),
          keepAs: into.value ? keepAs.value || null : null,
        },
      }),
    ),
  )

const readingOf = ({ encoding, delimiter, sheet, namesAt }: FileLook) => ({
  encoding,
  delimiter,
  sheet,
  namesAt,
})

/** How many records are there already, which would go. */
const present = computed(() => (into.value ? catalogue.totals[into.value] : undefined))
const replaceOpen = ref(false)
announceRested(() => hindered.value)

// The file is read: the keys go on at what it is, above how it was read.
const heading = ref<HTMLElement>()
watch(
  () => look.value !== undefined && !run.value,
  (now) => {
    if (now) void nextTick(() => heading.value?.focus())
  },
)
</script>

<template>
  <main class="paper">
    <UnsavedDialog :unsaved="look !== undefined && !run" what="How the file is to be read" />
    <h1>Import a file</h1>
    <p class="hint">
      CSV with any delimiter and encoding, or an XLSX spreadsheet. You see what its columns hold before
      anything is written; a file comes in whole or not at all, and can be taken back afterwards.
    </p>
    <p v-if="!session.isAdministrator" class="notice">Only an administrator imports records.</p>
    <template v-else>
      <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
      <p v-if="runTrouble" :id="runTroubleId" class="notice" role="alert">{{ runTrouble }}</p>

      <label
        v-if="!look && !run && sending === undefined && reading === undefined"
        class="drop"
        :class="{ over }"
        @dragover.prevent="over = true"
        @dragleave="over = false"
        @drop.prevent="dropped"
      >
        <span>Drop a file here, or <span class="choose">choose one</span></span>
        <input type="file" class="hidden-text" accept=".csv,.tsv,.txt,.xlsx,text/csv" @change="chosen" />
      </label>
      <div v-if="sending !== undefined || reading !== undefined" class="wait">
        <p>
          {{ sending !== undefined ? 'Sending' : 'Reading every row to see what the columns hold' }}:
          {{ Math.floor((sending ?? reading)! * 100) }} %
        </p>
        <div class="meter"><span :style="{ width: (sending ?? reading)! * 100 + '%' }" /></div>
        <p class="acts"><button type="button" class="quiet" @click="stop">Stop</button></p>
      </div>

      <template v-if="look && !run">
        <section aria-labelledby="the-file">
          <h2 id="the-file" ref="heading" tabindex="-1">{{ look.name }}: {{ counted(look.rows, 'row') }}</h2>
          <div class="pair">
            <label v-if="!look.spreadsheet">
              Encoding
              <select
                class="field"
                :value="look.encoding"
                @change="lookAgain({ encoding: ($event.target as HTMLSelectElement).value })"
              >
                <option v-for="e in look.encodings" :key="e" :value="e">{{ e }}</option>
              </select>
              <span v-if="!look.encodingSure" class="small">Probably. Look at names with accents below.</span>
            </label>
            <label v-if="!look.spreadsheet">
              Delimiter
              <select
                class="field"
                :value="look.delimiter"
                @change="lookAgain({ delimiter: ($event.target as HTMLSelectElement).value })"
              >
                <option v-for="(words, sign) in DELIMITERS" :key="sign" :value="sign">{{ words }}</option>
              </select>
            </label>
            <label v-if="look.sheets.length > 1">
              Sheet
              <select
                class="field"
                :value="look.sheet"
                @change="lookAgain({ sheet: ($event.target as HTMLSelectElement).value, namesAt: null })"
              >
                <option v-for="s in look.sheets" :key="s">{{ s }}</option>
              </select>
            </label>
            <label>
              The names of the columns are
              <select
                class="field"
                :value="look.namesAt"
                @change="lookAgain({ namesAt: Number(($event.target as HTMLSelectElement).value) })"
              >
                <option v-for="line in nameLines" :key="line" :value="line">
                  in line {{ number(line) }}
                </option>
                <option :value="0">nowhere in the file</option>
              </select>
            </label>
            <label>
              Into
              <select v-model="into" class="field">
                <option value="">a new register</option>
                <option v-for="r in own" :key="r.key" :value="r.key">{{ r.label }}</option>
              </select>
            </label>
            <label v-if="plans.length">
              Use the settings of
              <select class="field" @change="followed(($event.target as HTMLSelectElement).value)">
                <option value="">…</option>
                <option v-for="p in plans" :key="p.name">{{ p.name }}</option>
              </select>
            </label>
          </div>
          <p v-if="look.before.length" class="small before">
            Left out, before the names:
            <template v-for="left in look.before" :key="left.line">
              line {{ number(left.line) }} <q>{{ left.cells.filter((c) => c.trim()).join(' · ') }}</q>{{
                left === look.before.at(-1) ? '.' : ', '
              }}
            </template>
          </p>
        </section>

        <section aria-labelledby="the-columns">
          <h2 id="the-columns">Columns</h2>
          <SkipLink v-if="lines.length > FEW" to="past-columns">Skip past the columns</SkipLink>
          <ColumnsTable :lines="lines" :fields="into ? writable : undefined" />
        </section>

        <section v-if="!into" id="past-columns" aria-labelledby="the-register">
          <h2 id="the-register">The new register</h2>
          <div class="pair">
            <label>Name <input v-model="label" name="label" class="field" maxlength="120" /></label>
            <label>
              One record
              <input
                v-model="recordLabel"
                name="recordLabel"
                class="field"
                maxlength="60"
                placeholder="record"
              />
            </label>
            <label>
              Main date
              <select
                class="field"
                :value="main?.column.index ?? ''"
                @change="mainColumn = chosenColumn($event)"
              >
                <option value="">none</option>
                <option v-for="l in dates" :key="l.column.index" :value="l.column.index">
                  {{ l.label }}
                </option>
              </select>
            </label>
            <label>
              Records are named by
              <select class="field" :value="title?.column.index" @change="titleColumn = chosenColumn($event)">
                <option v-for="l in taken" :key="l.column.index" :value="l.column.index">
                  {{ l.label }}
                </option>
              </select>
            </label>
          </div>
        </section>
        <section v-else id="past-columns" aria-labelledby="the-known">
          <h2 id="the-known">Records that are there already</h2>
          <div class="pair">
            <fieldset v-if="recognises(known) || known === 'ADD'">
              <legend>are recognised by</legend>
              <label v-for="l in taken.filter((l) => l.field)" :key="l.column.index" class="tick">
                <input v-model="by" type="checkbox" :value="l.field" />
                {{ writable.find((f) => f.key === l.field)?.label }}
              </label>
            </fieldset>
            <label>
              {{ recognises(known) || known === 'ADD' ? 'and' : 'They' }}
              <select v-model="known" class="field" aria-label="What becomes of records that are there">
                <option value="UPDATE" :disabled="!by.length">get the file's values</option>
                <option value="SKIP" :disabled="!by.length">are left as they are</option>
                <option value="ADD">are added once more</option>
                <option value="REPLACE">all go: the file replaces them</option>
              </select>
            </label>
            <label>
              Save these import settings as
              <input v-model="keepAs" name="keepAs" class="field" maxlength="120" placeholder="not saved" />
            </label>
          </div>
        </section>

        <section aria-labelledby="the-rows">
          <h2 id="the-rows">First rows</h2>
          <div class="wide">
            <table class="lines rows">
              <thead>
                <tr>
                  <th v-for="l in lines" :key="l.column.index" scope="col">{{ l.column.name }}</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="(row, i) in look.preview.slice(0, 5)" :key="i">
                  <td v-for="(l, j) in lines" :key="l.column.index">{{ row[j] }}</td>
                </tr>
              </tbody>
            </table>
          </div>
        </section>
        <p class="acts">
          <button
            type="button"
            class="act"
            :disabled="hindered !== ''"
            @click="into && known === 'REPLACE' ? (replaceOpen = true) : start()"
          >
            Import {{ counted(look.rows, 'row') }}
          </button>
          <button type="button" class="word" @click="another">Another file</button>
          <span v-if="hindered" class="small">{{ hindered }}</span>
        </p>
        <section>
          <ElDialog v-model="replaceOpen" :title="`Replace the records of ${target?.label}?`" width="440px">
            <p>
              {{ present === undefined ? 'All records that are there' : counted(present, 'record') }}
              {{ present === 1 ? 'goes' : 'go' }}, and the {{ counted(look.rows, 'row') }} of {{ look.name }}
              take their place. For 30 days the import can be taken back, and they return.
            </p>
            <template #footer>
              <button type="button" class="word" @click="replaceOpen = false">Cancel</button>
              <button type="button" class="act" @click="((replaceOpen = false), start())">
                Replace them
              </button>
            </template>
          </ElDialog>
        </section>
      </template>

      <section v-if="run" class="outcome">
        <RunProgress v-if="run.state === 'RUNNING'" :run="run" @stop="stopRun" />
        <ImportOutcome v-else :run="run" @back="run = undefined" @another="another" />
      </section>
      <section v-if="!look && !run && runs.length" aria-labelledby="the-latest">
        <h2 id="the-latest">Latest imports</h2>
        <div class="wide"><ImportsList :runs="runs" registers @changed="loadRuns" /></div>
      </section>
    </template>
  </main>
</template>

<style scoped>
.drop {
  display: grid;
  place-items: center;
  min-height: 130px;
  max-width: 620px;
  margin-top: 14px;
  border: 1.5px dashed var(--rule-strong);
  border-radius: 6px;
  background: var(--card);
  cursor: pointer;
  font-weight: 400;
}

.drop.over,
.drop:focus-within {
  border-color: var(--act);
  background: var(--act-soft);
}

.choose {
  color: var(--act);
  text-decoration: underline;
  font-weight: 600;
}

.wait {
  margin-top: 16px;
}

.wide {
  overflow-x: auto;
}

.rows td {
  white-space: nowrap;
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
}

fieldset .tick {
  display: flex;
}

.outcome {
  margin-top: 18px;
}

.before {
  margin-top: 10px;
}

.before q {
  margin: 0 2px;
}
</style>
