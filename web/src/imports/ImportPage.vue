<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import {
  api,
  data,
  ownHeader,
  sentence,
  type FileLook,
  type ImportPlan,
  type ImportRun,
  type Register,
} from '@/api/client'
import { counted, number, typeWords } from '@/platform/format'
import UnsavedDialog from '@/platform/UnsavedDialog.vue'
import { useSession } from '@/people/session'
import { useCatalogue } from '@/registers/catalogue'
import {
  example,
  follow,
  hindrance,
  linesOf,
  mainDate,
  match,
  planOf,
  pretty,
  titleOf,
  TYPES,
  writableFields,
  type Known,
  type Line,
  type Target,
} from './plan'

const route = useRoute()
const session = useSession()
const catalogue = useCatalogue()

const DELIMITERS: Record<string, string> = { ',': 'commas', ';': 'semicolons', '\t': 'tabs', '|': 'bars' }

const trouble = ref('')
const sending = ref<number>()
const reading = ref(false)
const over = ref(false)
const look = ref<FileLook>()
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
const run = ref<ImportRun>()
let request: XMLHttpRequest | undefined
let timer = 0

onMounted(async () => {
  document.title = 'Import a file · Deft Lens'
  if (typeof route.query.into === 'string') into.value = route.query.into
  if (!catalogue.names.length) await catalogue.load().catch((e) => (trouble.value = sentence(e)))
})
onBeforeUnmount(() => {
  request?.abort()
  window.clearTimeout(timer)
})

const own = computed(() => catalogue.names.filter((r) => r.origin === 'OWN'))

function dropped(event: DragEvent) {
  over.value = false
  const file = event.dataTransfer?.files[0]
  if (file) send(file)
}

function chosen(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) send(file)
}

/** Sends a file; a plain request, because only it tells how far it is. */
function send(file: File) {
  trouble.value = ''
  look.value = run.value = undefined
  lines.value = []
  sending.value = 0
  request = new XMLHttpRequest()
  request.open('POST', '/api/files?name=' + encodeURIComponent(file.name))
  request.setRequestHeader('Content-Type', 'application/octet-stream')
  for (const [name, value] of Object.entries(ownHeader())) request.setRequestHeader(name, value)
  request.upload.onprogress = (e) => (sending.value = e.total ? e.loaded / e.total : 0)
  request.upload.onload = () => {
    sending.value = undefined
    reading.value = true
  }
  request.onloadend = () => {
    sending.value = undefined
    reading.value = false
    const answer = request!
    if (answer.status === 0) {
      if (!trouble.value) trouble.value = 'The file did not arrive. Check the connection and send it again.'
      return
    }
    const body = JSON.parse(answer.responseText || '{}')
    if (answer.status === 201) take(body as FileLook)
    else trouble.value = body.detail ?? 'The file could not be read.'
  }
  request.send(file)
}

function stopSending() {
  trouble.value = 'Stopped. Nothing was sent.'
  request?.abort()
}

function take(fresh: FileLook) {
  lines.value = linesOf(fresh, lines.value)
  look.value = fresh
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

async function lookAgain(change: Record<string, unknown>) {
  const now = look.value!
  trouble.value = ''
  reading.value = true
  try {
    take(
      (await data(
        api.POST('/api/files/{token}/look', {
          params: { path: { token: now.token } },
          body: {
            encoding: now.encoding,
            delimiter: now.delimiter,
            sheet: now.sheet,
            header: now.header,
            ...change,
          },
        }),
      )) as FileLook,
    )
  } catch (e) {
    trouble.value = sentence(e)
  } finally {
    reading.value = false
  }
}

const taken = computed(() => lines.value.filter((l) => l.taken))
const going = computed<Target>(() => ({
  register: target.value,
  label: label.value,
  by: by.value,
  known: known.value,
}))
const hindered = computed(() =>
  into.value && !target.value ? 'Reading what the register holds…' : hindrance(lines.value, going.value),
)

function answer(line: Line, what: Partial<Line>) {
  Object.assign(line, what, { answered: true })
}

async function start() {
  trouble.value = ''
  try {
    run.value = (await data(
      api.POST('/api/files/{token}/import', {
        params: { path: { token: look.value!.token } },
        body: {
          reading: {
            encoding: look.value!.encoding,
            delimiter: look.value!.delimiter,
            sheet: look.value!.sheet,
            header: look.value!.header,
          },
          into: into.value
            ? { register: into.value }
            : {
                label: label.value,
                recordLabel: recordLabel.value,
                mainField: main.value?.label.trim() ?? null,
                titleField: title.value!.label.trim(),
              },
          plan: planOf(look.value!, lines.value, going.value),
          keepAs: into.value ? keepAs.value || null : null,
        },
      }),
    )) as ImportRun
    void watchRun()
  } catch (e) {
    trouble.value = sentence(e)
  }
}

async function watchRun() {
  const id = run.value?.id
  if (id === undefined || run.value?.state !== 'RUNNING') return
  try {
    run.value = (await data(api.GET('/api/imports/{id}', { params: { path: { id } } }))) as ImportRun
    trouble.value = ''
  } catch (e) {
    trouble.value = sentence(e)
  }
  if (run.value?.state === 'RUNNING') timer = window.setTimeout(watchRun, 350)
  else if (run.value?.state === 'DONE') {
    catalogue.forget()
    await catalogue.load()
  }
}

async function stop() {
  await api.DELETE('/api/imports/{id}', { params: { path: { id: run.value!.id } } }).catch((e) => {
    trouble.value = sentence(e)
  })
}

/** The refusals as a file, for whoever mends the rows. */
const report = computed(() => {
  const rows = (run.value?.refusals ?? []).map((r) => `${r.line},"${r.reason.replaceAll('"', '""')}"`)
  return 'data:text/csv;charset=utf-8,' + encodeURIComponent(['Line,Reason', ...rows].join('\r\n'))
})
const name = (key?: string | null) => catalogue.names.find((r) => r.key === key)?.label ?? key
</script>

<template>
  <main class="paper">
    <UnsavedDialog :unsaved="look !== undefined && !run" what="How the file is to be read" />
    <h1>Import a file</h1>
    <p class="hint">
      CSV with any delimiter and encoding, or an XLSX spreadsheet. You see what its columns hold before
      anything is written; a file comes in whole or not at all.
    </p>
    <p v-if="!session.isAdministrator" class="notice">Only an administrator imports records.</p>
    <template v-else>
      <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>

      <label
        v-if="!look && sending === undefined && !reading"
        class="drop"
        :class="{ over }"
        @dragover.prevent="over = true"
        @dragleave="over = false"
        @drop.prevent="dropped"
      >
        <span>Drop a file here, or <span class="choose">choose one</span></span>
        <input type="file" class="hidden-text" accept=".csv,.tsv,.txt,.xlsx,text/csv" @change="chosen" />
      </label>
      <div v-if="sending !== undefined" class="wait" role="status">
        <p>Sending… {{ Math.round(sending * 100) }} %</p>
        <div class="meter"><span :style="{ width: sending * 100 + '%' }" /></div>
        <button type="button" class="word" @click="stopSending">Stop</button>
      </div>
      <p v-else-if="reading" role="status" class="wait">Reading every row to see what the columns hold…</p>

      <template v-if="look && !run">
        <section aria-labelledby="the-file">
          <h2 id="the-file">{{ look.name }}: {{ counted(look.rows, 'row') }}</h2>
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
                @change="lookAgain({ sheet: ($event.target as HTMLSelectElement).value, header: null })"
              >
                <option v-for="s in look.sheets" :key="s">{{ s }}</option>
              </select>
            </label>
            <label class="tick">
              <input
                type="checkbox"
                :checked="look.header"
                @change="lookAgain({ header: ($event.target as HTMLInputElement).checked })"
              />
              The first row names the columns
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
        </section>

        <section aria-labelledby="the-columns">
          <h2 id="the-columns">Columns</h2>
          <div class="wide">
            <table class="lines">
              <thead>
                <tr>
                  <th scope="col"><span class="hidden-text">Import it</span></th>
                  <th scope="col">In the file</th>
                  <th scope="col">{{ into ? 'Goes into' : 'Name' }}</th>
                  <th scope="col">Read as</th>
                  <th scope="col">What it holds</th>
                  <th scope="col" class="fit">A value that does not fit</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="line in lines" :key="line.column.index" :class="{ left: !line.taken }">
                  <td>
                    <input v-model="line.taken" type="checkbox" :aria-label="`Take ${line.column.name}`" />
                  </td>
                  <td>
                    <strong>{{ line.column.name }}</strong>
                    <p class="small samples">{{ line.column.samples.slice(0, 3).join(' · ') || 'empty' }}</p>
                  </td>
                  <td>
                    <select
                      v-if="into"
                      v-model="line.field"
                      class="field"
                      :aria-label="`Field for ${line.column.name}`"
                      :disabled="!line.taken"
                    >
                      <option value="">choose a field…</option>
                      <option v-for="f in writable" :key="f.key" :value="f.key">{{ f.label }}</option>
                    </select>
                    <input
                      v-else
                      v-model="line.label"
                      class="field"
                      :aria-label="`Name of ${line.column.name}`"
                      :disabled="!line.taken"
                    />
                  </td>
                  <td>
                    <span v-if="into">{{ typeWords(line.type) }}</span>
                    <select
                      v-else
                      v-model="line.type"
                      class="field"
                      :aria-label="`Type of ${line.column.name}`"
                      :disabled="!line.taken"
                    >
                      <option v-for="t in TYPES" :key="t" :value="t">{{ typeWords(t) }}</option>
                    </select>
                  </td>
                  <td>
                    {{ line.column.guess.evidence }}.
                    <span v-if="line.column.filled < line.column.rows" class="small">
                      {{ number(line.column.rows - line.column.filled) }} empty.
                    </span>
                    <p v-for="odd in line.column.guess.odd.slice(0, 2)" :key="odd.line" class="small">
                      Line {{ number(odd.line) }}: “{{ odd.value }}” does not.
                    </p>
                    <div
                      v-if="
                        line.taken &&
                        line.column.guess.ask &&
                        (line.type === 'date' || line.type === 'moment')
                      "
                      class="ask"
                      role="group"
                      :aria-label="`Which is the day in ${line.column.name}?`"
                    >
                      <button
                        v-for="order in ['DAY_FIRST', 'MONTH_FIRST'] as const"
                        :key="order"
                        type="button"
                        class="quiet"
                        :aria-pressed="line.answered && line.order === order"
                        @click="answer(line, { order })"
                      >
                        {{ example(line, order) }}
                      </button>
                    </div>
                    <div
                      v-else-if="
                        line.taken &&
                        line.column.guess.ask &&
                        (line.type === 'number' || line.type === 'money')
                      "
                      class="ask"
                      role="group"
                      :aria-label="`How are numbers written in ${line.column.name}?`"
                    >
                      <button
                        v-for="decimal in ['POINT', 'COMMA'] as const"
                        :key="decimal"
                        type="button"
                        class="quiet"
                        :aria-pressed="line.answered && line.decimal === decimal"
                        @click="answer(line, { decimal })"
                      >
                        decimals behind a {{ decimal === 'POINT' ? 'point' : 'comma' }}
                      </button>
                    </div>
                  </td>
                  <td>
                    <select
                      v-model="line.unfit"
                      class="field"
                      :aria-label="`A value that does not fit ${line.column.name}`"
                      :disabled="!line.taken"
                    >
                      <option value="REFUSE">is refused</option>
                      <option value="EMPTY">is left empty</option>
                    </select>
                  </td>
                </tr>
              </tbody>
            </table>
          </div>
        </section>

        <section v-if="!into" aria-labelledby="the-register">
          <h2 id="the-register">The new register</h2>
          <div class="pair">
            <label>Name <input v-model="label" class="field" maxlength="120" /></label>
            <label>
              One record
              <input v-model="recordLabel" class="field" maxlength="60" placeholder="record" />
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
        <section v-else aria-labelledby="the-known">
          <h2 id="the-known">Records that are there already</h2>
          <div class="pair">
            <fieldset>
              <legend>are recognised by</legend>
              <label v-for="l in taken.filter((l) => l.field)" :key="l.column.index" class="tick">
                <input v-model="by" type="checkbox" :value="l.field" />
                {{ writable.find((f) => f.key === l.field)?.label }}
              </label>
            </fieldset>
            <label>
              and
              <select v-model="known" class="field">
                <option value="UPDATE" :disabled="!by.length">get the file's values</option>
                <option value="SKIP" :disabled="!by.length">are left as they are</option>
                <option value="ADD">are added once more</option>
              </select>
            </label>
            <label>
              Save these import settings as
              <input v-model="keepAs" class="field" maxlength="120" placeholder="not saved" />
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
          <button type="button" class="act" :disabled="hindered !== ''" @click="start">
            Import {{ counted(look.rows, 'row') }}
          </button>
          <button type="button" class="word" @click="look = undefined">Another file</button>
          <span v-if="hindered" class="small" role="status">{{ hindered }}</span>
        </p>
      </template>

      <section v-if="run" aria-live="polite" class="outcome">
        <template v-if="run.state === 'RUNNING'">
          <p>
            {{
              run.phase === 'reading'
                ? 'Reading and writing'
                : run.phase === 'writing'
                  ? 'Writing'
                  : 'Indexing'
            }}: {{ number(run.read) }} of {{ counted(run.expected, 'row') }}
            <template v-if="run.refused">, {{ number(run.refused) }} refused so far</template>
          </p>
          <div class="meter">
            <span :style="{ width: (100 * run.read) / Math.max(1, run.expected) + '%' }" />
          </div>
          <p class="acts"><button type="button" class="quiet" @click="stop">Stop</button></p>
        </template>
        <template v-else-if="run.state === 'DONE'">
          <h2>{{ run.fileName }} is in</h2>
          <p>
            {{ number(run.added) }} added, {{ number(run.updated) }} changed, {{ number(run.skipped) }} left
            as they were.
          </p>
          <p class="acts">
            <RouterLink class="act" :to="`/registers/${run.register}`"
              >Open {{ name(run.register) }}</RouterLink
            >
            <RouterLink class="quiet" :to="`/catalogue/${run.register}`">Describe its fields</RouterLink>
          </p>
        </template>
        <template v-else-if="run.state === 'REFUSED'">
          <h2>Nothing was written</h2>
          <p>
            {{ number(run.refused) }} of {{ counted(run.read, 'row') }}
            {{ run.refused === 1 ? 'does' : 'do' }} not fit. Correct them in the file, or change how the
            columns are read.
          </p>
          <table class="lines">
            <thead>
              <tr>
                <th scope="col" class="numeric">Line</th>
                <th scope="col">Why it was refused</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="r in run.refusals.slice(0, 50)" :key="r.line">
                <td class="numeric">{{ number(r.line) }}</td>
                <td>{{ r.reason }}</td>
              </tr>
            </tbody>
          </table>
          <p v-if="run.refused > 50" class="small">
            The first 50 of {{ number(run.refused)
            }}{{ run.refused > 1000 ? '; the report has the first 1,000' : '' }}.
          </p>
          <p class="acts">
            <button type="button" class="act" @click="run = undefined">Back to the columns</button>
            <a class="quiet" :href="report" :download="`refused rows of ${run.fileName}.csv`"
              >The report as a file</a
            >
          </p>
        </template>
        <template v-else>
          <h2>Nothing was written</h2>
          <p>{{ run.message }}</p>
          <p class="acts">
            <button type="button" class="act" @click="run = undefined">Back to the columns</button>
          </p>
        </template>
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

.fit {
  min-width: 170px;
}

.left td {
  color: var(--ink-3);
}

.samples {
  max-width: 250px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.ask {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 4px;
}

.ask [aria-pressed='true'] {
  background: var(--act-soft);
  border-color: var(--act);
  font-weight: 600;
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

a.quiet {
  color: var(--ink);
}
</style>
