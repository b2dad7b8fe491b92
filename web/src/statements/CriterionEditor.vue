<script setup lang="ts">
import { computed, inject, nextTick, onMounted, ref, watch } from 'vue'
import type { FieldDescription } from '@/api/client'
import { MONTH_NAMES } from '@/platform/format'
import { DESK } from './desk'
import PeriodPicker from './PeriodPicker.vue'
import ValuePicker from './ValuePicker.vue'
import type { Node } from './tree'

const props = defineProps<{ node?: Node; about?: string }>()
const emit = defineEmits<{ apply: [node: Node]; cancel: [] }>()
const desk = inject(DESK)!

const start = props.node ?? {}
const fieldKey = ref(String(start.field ?? props.about ?? ''))
const field = computed<FieldDescription | undefined>(() =>
  desk.register.value.fields.find((f) => f.key === fieldKey.value),
)
const temporal = computed(() => field.value?.type === 'date' || field.value?.type === 'moment')
const span = computed(() => field.value?.type === 'span')
/** Whether the field knows hours, so that phrases and distances in hours fit it. */
const clock = computed(() => {
  const start = field.value?.ends?.start
  const held = start ? desk.register.value.fields.find((f) => f.key === start) : field.value
  return held?.type === 'moment'
})
const listed = computed(() => ['choice', 'person', 'tags'].includes(field.value?.type ?? ''))

/** The tests as they are offered: a listed field takes one value or several under the same words. */
const WORDS: Record<string, string> = {
  in: 'in the window',
  'not in': 'outside it',
  before: 'before it',
  after: 'after it',
  from: 'from it on',
  'up to': 'up to its end',
  'more than': 'more than … ago',
  'at least': 'at least … ago',
  'less than': 'less than … ago',
  '=': 'is',
  '!=': 'is not',
  '>=': 'is at least',
  '>': 'is more than',
  '<=': 'is at most',
  '<': 'is less than',
  'is in': 'is one of',
  'is not in': 'is none of',
  'is not empty': 'is not empty',
  'weekday in': 'on weekdays',
  'weekday not in': 'not on weekdays',
  'month in': 'in months of any year',
  'month not in': 'not in months',
  'day of month in': 'on days of the month',
  'day of month not in': 'not on days of the month',
  'time between': 'between hours of the day',
  overlaps: 'overlaps it',
  within: 'lies within it',
  covers: 'covers all of it',
  'starts in': 'starts in it',
  'ends in': 'ends in it',
  'is in band': 'is in a band',
  'is not in band': 'is in no such band',
  matches: 'matches a pattern',
}

const tests = computed(() => {
  const all = field.value?.tests ?? []
  // The opposites of calendar tests are said with "none of"; here they would only make the list long.
  const short = all.filter(
    (t) => !/^(weekday|month|day of month) not in$/.test(t.words) || t.words === start.test,
  )
  const offered = listed.value ? short.filter((t) => t.words !== 'is' && t.words !== 'is not') : short
  return offered.map((t) => ({
    ...t,
    label: temporal.value && t.words === 'between' ? 'between two' : (WORDS[t.words] ?? t.words),
  }))
})

function testOf(words: string): string {
  if (!listed.value) return words
  return words === 'is' ? 'is in' : words === 'is not' ? 'is not in' : words
}

const test = ref(start.test ? testOf(String(start.test)) : '')
const takes = computed(() => tests.value.find((t) => t.words === test.value)?.takes)

const isAsk = (value: unknown): value is Node => typeof value === 'object' && value !== null && 'ask' in value
const plain = (value: unknown) => (isAsk(value) ? value.default : value)

/** A date phrase that is asked for: its label and its default. */
const askedPhrase = /^\{([^=}]+?)(?:\s*=\s*(.*))?\}$/.exec(String(start.period ?? ''))
const period = ref(askedPhrase ? (askedPhrase[2] ?? 'today') : String(start.period ?? start.from ?? 'today'))
const secondPeriod = ref(String(start.to ?? 'today'))
const values = ref<unknown[]>(
  (start.values as unknown[]) ?? (plain(start.value) !== undefined ? [plain(start.value)] : []),
)
const text = ref(
  String(start.text ?? start.pattern ?? (typeof plain(start.value) === 'string' ? plain(start.value) : '')),
)
const exactly = ref(Boolean(start.exactly))
const low = ref(
  String(plain(start.low) ?? (typeof plain(start.value) === 'number' ? plain(start.value) : '')),
)
const high = ref(String(plain(start.high) ?? ''))
const fromTime = ref(String(start.from ?? start.time ?? '09:00').slice(0, 5))
const toTime = ref(String(start.to ?? '17:00').slice(0, 5))
const bands = ref<string[]>((start.bands as string[]) ?? [])
/** The label under which whoever reads the view is asked for the value; empty when nobody is. */
const ask = ref(
  String(
    askedPhrase?.[1] ?? (isAsk(start.value) ? start.value.ask : isAsk(start.count) ? start.count.ask : ''),
  ),
)
/** Another field of the record, in the place of a value. */
const other = ref(String(start.other ?? ''))
const plus = ref(
  typeof start.plus === 'number' ? String(start.plus) : start.plus ? String((start.plus as Node).count) : '',
)
const plusUnit = ref(start.plus && typeof start.plus === 'object' ? String((start.plus as Node).unit) : 'day')
const pasted = ref(((start.values as unknown[]) ?? []).filter((v) => typeof v !== 'object').join('\n'))
const count = ref(Number(plain(start.count) ?? 30))
const unit = ref(String(start.unit ?? 'day'))
const side = ref(String(start.side ?? 'ago'))
const yes = ref(start.value !== false)
const trouble = ref('')
const card = ref<HTMLElement>()

const viewers = computed(() => {
  if (!field.value || !['person', 'choice', 'text'].includes(field.value.type)) return []
  if (field.value.type === 'person') return ['me']
  // Of a choice, only the fact of that name makes sense: site is my site, to_site is my site.
  if (field.value.type === 'choice')
    return desk.register.value.viewerValues.filter(
      (v) => v === fieldKey.value || fieldKey.value.endsWith('_' + v),
    )
  return desk.register.value.viewerValues
})
const viewer = ref<string>(
  typeof start.value === 'object' && start.value !== null ? String((start.value as Node).viewer) : '',
)

const COMPARING = ['is', 'is not', '=', '!=', '>', '>=', '<', '<=', 'before', 'after', 'from', 'up to', 'in']
/** The fields that this one can be held against with the test. */
const others = computed(() => {
  const own = field.value
  if (!own || !COMPARING.includes(test.value)) return []
  if (listed.value && own.type === 'tags') return []
  const temporals = ['date', 'moment']
  return desk.register.value.fields.filter(
    (f) =>
      f.key !== own.key &&
      (f.type === own.type || (temporals.includes(f.type) && temporals.includes(own.type))) &&
      !(test.value === 'in' && f.type === 'moment' && own.type === 'moment'),
  )
})
const beside = computed(() => others.value.some((f) => f.key === other.value))
const plusUnits = computed(() =>
  field.value?.type === 'moment' && others.value.find((f) => f.key === other.value)?.type === 'moment'
    ? ['minute', 'hour', 'day', 'week', 'month', 'quarter', 'year']
    : ['day', 'week', 'month', 'quarter', 'year'],
)
const mayAsk = computed(
  () =>
    !beside.value &&
    !viewer.value &&
    (takes.value === 'NUMBER' ||
      takes.value === 'DISTANCE' ||
      takes.value === 'PERIOD' ||
      (takes.value === 'VALUE' && field.value?.type === 'text') ||
      (takes.value === 'VALUES' && listed.value && values.value.length <= 1 && field.value?.type !== 'tags')),
)
const asked = computed(() => mayAsk.value && ask.value.trim() !== '')

interface Band {
  name: string
  bands: Band[]
}
/** The bands of the field, those inside others after them and one step in. */
const bandLines = computed(() => {
  const lines: { name: string; depth: number }[] = []
  const walk = (band: Band, depth: number) => {
    lines.push({ name: band.name, depth })
    band.bands.forEach((b) => walk(b, depth + 1))
  }
  ;(field.value?.bands as Band[] | undefined)?.forEach((b) => walk(b, 0))
  return lines
})
const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const choices = computed<unknown[]>(() =>
  takes.value === 'WEEKDAYS'
    ? WEEKDAYS
    : takes.value === 'MONTHS'
      ? MONTH_NAMES
      : Array.from({ length: 31 }, (_, i) => i + 1),
)
function toggle(list: unknown[], one: unknown) {
  const at = list.indexOf(one)
  if (at < 0) list.push(one)
  else list.splice(at, 1)
}
watch(takes, (now, before) => {
  // What was chosen of one calendar means nothing in another.
  if (before && now !== before && ['WEEKDAYS', 'MONTHS', 'DAYS_OF_MONTH'].includes(now ?? ''))
    values.value = []
})

watch(fieldKey, () => {
  test.value = ''
  ask.value = ''
  other.value = ''
  bands.value = []
  values.value = []
  viewer.value = ''
  trouble.value = ''
  pickFirstTest()
  focusFirst()
})

function pickFirstTest() {
  if (test.value || !field.value) return
  const usual: Record<string, string> = {
    text: 'contains',
    number: '>=',
    money: '>=',
    date: 'before',
    moment: 'in',
    'time of day': 'between',
    span: 'overlaps',
  }
  const wanted = usual[field.value.type]
  test.value = tests.value.find((t) => t.words === wanted)?.words ?? tests.value[0]?.words ?? ''
  period.value = field.value.type === 'moment' ? 'last 7 days' : span.value ? 'this week' : 'today'
}

onMounted(() => {
  pickFirstTest()
  focusFirst()
})

function focusFirst() {
  void nextTick(() => {
    const first = fieldKey.value
      ? card.value?.querySelector<HTMLElement>('.value input, .value textarea, .value button')
      : card.value?.querySelector<HTMLElement>('.which input')
    ;(first ?? card.value?.querySelector<HTMLElement>('.tests button'))?.focus()
  })
}

function list(raw: string): string[] {
  return [
    ...new Set(
      raw
        .split(/[\n,;\t]+/)
        .map((v) => v.trim())
        .filter(Boolean),
    ),
  ]
}

function asNumber(raw: string): number {
  const value = Number(raw.trim())
  if (raw.trim() === '' || Number.isNaN(value)) throw new Error('Write a number, such as 3 or 12.50.')
  return value
}

function build(): Node {
  const base: Node = { field: fieldKey.value, test: test.value }
  if (beside.value) {
    const added = plus.value.trim()
    const node: Node = {
      ...base,
      test: listed.value ? (test.value === 'is in' ? 'is' : 'is not') : test.value,
      other: other.value,
    }
    if (!added) return node
    const amount = asNumber(added)
    return field.value?.type === 'number' || field.value?.type === 'money'
      ? { ...node, plus: amount }
      : { ...node, plus: { count: Math.round(amount), unit: plusUnit.value } }
  }
  const asking = (value: unknown): unknown =>
    asked.value
      ? value === undefined
        ? { ask: ask.value.trim() }
        : { ask: ask.value.trim(), default: value }
      : value
  const exact = exactly.value && field.value?.type === 'text' ? { exactly: true } : {}
  switch (takes.value) {
    case 'NOTHING':
      return base
    case 'PERIOD':
      if (asked.value && !period.value.trim().startsWith('{')) {
        return { ...base, period: `{${ask.value.trim()} = ${period.value}}` }
      }
      return { ...base, period: period.value }
    case 'TIME':
      return { ...base, time: fromTime.value }
    case 'TWO_TIMES':
      return { ...base, from: fromTime.value, to: toTime.value }
    case 'WEEKDAYS':
    case 'MONTHS':
    case 'DAYS_OF_MONTH':
      if (!values.value.length) throw new Error('Choose at least one.')
      return { ...base, values: values.value }
    case 'BANDS':
      if (!bands.value.length) throw new Error('Choose at least one band.')
      return { ...base, bands: bands.value }
    case 'PATTERN':
      if (!text.value) throw new Error('Write a regular expression, such as ^D-1\\d+$.')
      return { ...base, pattern: text.value, ...exact }
    case 'TWO_PERIODS':
      return { ...base, from: period.value, to: secondPeriod.value }
    case 'DISTANCE':
      return { ...base, count: asking(Math.round(count.value)), unit: unit.value, side: side.value }
    case 'TEXT':
      if (!text.value) throw new Error('Write the text to look for.')
      return { ...base, text: text.value, ...exact }
    case 'NUMBER':
      return { ...base, value: asking(asked.value && !low.value.trim() ? undefined : asNumber(low.value)) }
    case 'TWO_NUMBERS':
      return { ...base, low: asNumber(low.value), high: asNumber(high.value) }
    case 'VALUE':
      if (field.value?.type === 'yes/no') return { ...base, value: yes.value }
      if (viewer.value) return { ...base, value: { viewer: viewer.value } }
      if (!text.value && !asked.value) throw new Error('Write the text to compare with.')
      return { ...base, value: asking(text.value || undefined), ...exact }
    case 'VALUES': {
      if (!listed.value) {
        const found = list(pasted.value)
        if (!found.length) throw new Error('Write or paste at least one value.')
        const numeric = field.value?.type === 'number' || field.value?.type === 'money'
        return { ...base, values: numeric ? found.map(asNumber) : found, ...exact }
      }
      if (asked.value) {
        return {
          field: fieldKey.value,
          test: test.value === 'is in' ? 'is' : 'is not',
          value: asking(values.value[0]),
        }
      }
      if (!values.value.length) throw new Error('Choose at least one value.')
      if (values.value.length === 1 && field.value?.type !== 'tags') {
        return {
          field: fieldKey.value,
          test: test.value === 'is in' ? 'is' : 'is not',
          value: values.value[0],
        }
      }
      return { ...base, values: values.value }
    }
    default:
      throw new Error('Choose a test.')
  }
}

const picker = ref<InstanceType<typeof PeriodPicker>>()
async function apply() {
  // What was typed a moment ago is read first; what could mean several things is asked about, not applied.
  if (picker.value && !beside.value && !(await picker.value.settle())) return
  try {
    if (!field.value) throw new Error('Choose a field.')
    const node = build()
    trouble.value = ''
    emit('apply', node)
  } catch (e) {
    trouble.value = (e as Error).message
  }
}

function keys(event: KeyboardEvent) {
  if (event.key === 'Escape') {
    event.stopPropagation()
    emit('cancel')
  } else if (
    event.key === 'Enter' &&
    !(event.target as HTMLElement).closest('textarea, .el-select, button')
  ) {
    event.preventDefault()
    void apply()
  } else if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
    event.preventDefault()
    void apply()
  }
}
</script>

<template>
  <section
    ref="card"
    class="editor"
    :class="{ time: temporal || span }"
    aria-label="Criterion"
    @keydown="keys"
  >
    <div class="which">
      <ElSelect
        v-model="fieldKey"
        filterable
        default-first-option
        placeholder="Choose a field"
        aria-label="Field"
        class="field-select"
        :automatic-dropdown="!fieldKey"
      >
        <ElOption v-for="f in desk.register.value.fields" :key="f.key" :value="f.key" :label="f.label">
          <span>{{ f.label }}</span>
          <span class="type">{{ f.type }}</span>
        </ElOption>
      </ElSelect>
    </div>
    <div v-if="field" class="body" :class="{ dated: takes === 'PERIOD' }">
      <div class="tests" role="radiogroup" aria-label="Test">
        <button
          v-for="t in tests"
          :key="t.words"
          type="button"
          role="radio"
          class="option"
          :aria-checked="t.words === test"
          @click="test = t.words"
        >
          {{ t.label }}
        </button>
      </div>
      <div class="value">
        <div v-if="others.length" class="beside">
          <span>against</span>
          <select v-model="other" class="field" aria-label="Hold it against another field">
            <option value="">a value</option>
            <option v-for="f in others" :key="f.key" :value="f.key">the field {{ f.label }}</option>
          </select>
          <template
            v-if="
              beside &&
              !listed &&
              field.type !== 'text' &&
              field.type !== 'yes/no' &&
              field.type !== 'time of day'
            "
          >
            <span>plus</span>
            <input
              v-model="plus"
              class="field short"
              inputmode="decimal"
              placeholder="0"
              aria-label="Plus how much"
            />
            <select v-if="temporal" v-model="plusUnit" class="field" aria-label="Plus in units">
              <option v-for="u in plusUnits" :key="u" :value="u">{{ u }}s</option>
            </select>
          </template>
        </div>
        <template v-if="beside" />
        <PeriodPicker
          v-else-if="takes === 'PERIOD'"
          ref="picker"
          v-model="period"
          :register="desk.register.value.key"
          :criterion="{ field: fieldKey, test }"
          :clock="clock"
          :as-of="desk.asOf.value"
          :zone="desk.zone.value"
        />
        <div v-else-if="takes === 'TIME' || takes === 'TWO_TIMES'">
          <div class="distance">
            <input
              v-model="fromTime"
              class="field"
              type="time"
              :aria-label="takes === 'TIME' ? 'Time' : 'From'"
            />
            <template v-if="takes === 'TWO_TIMES'">
              <span>and</span><input v-model="toTime" class="field" type="time" aria-label="To" />
            </template>
          </div>
          <p v-if="takes === 'TWO_TIMES'" class="hint">
            From the first on, up to and not including the second{{
              fromTime > toTime ? ', over midnight' : ''
            }}.
          </p>
        </div>
        <div
          v-else-if="takes === 'WEEKDAYS' || takes === 'MONTHS' || takes === 'DAYS_OF_MONTH'"
          class="choices"
          role="group"
          aria-label="Which"
        >
          <button
            v-for="c in choices"
            :key="String(c)"
            type="button"
            class="choice"
            :aria-pressed="values.includes(c)"
            @click="toggle(values, c)"
          >
            {{ c }}
          </button>
        </div>
        <div v-else-if="takes === 'BANDS'" class="bands" role="group" aria-label="Bands">
          <label v-for="b in bandLines" :key="b.name" :style="{ marginLeft: b.depth * 18 + 'px' }">
            <input type="checkbox" :checked="bands.includes(b.name)" @change="toggle(bands, b.name)" />
            {{ b.name }}
          </label>
        </div>
        <template v-else-if="takes === 'PATTERN'">
          <input
            v-model="text"
            class="field"
            aria-label="Pattern"
            placeholder="^D-1\d+$"
            spellcheck="false"
          />
          <p class="hint">
            A regular expression, looked for anywhere in the text: . any character, [0-9] a set, * + ? {2,5}
            repeats, ( | ) alternatives, ^ $ the ends.
          </p>
          <label class="check"><input v-model="exactly" type="checkbox" /> letter case counts</label>
        </template>
        <template v-else-if="takes === 'TWO_PERIODS'">
          <label
            >From <input v-model="period" class="field" aria-label="From" placeholder="2026-11-01"
          /></label>
          <label>to <input v-model="secondPeriod" class="field" aria-label="To" placeholder="today" /></label>
          <p class="hint">
            Both named days belong. Any date phrase will do: a day, “last month”, “30 days ago”.
          </p>
        </template>
        <div v-else-if="takes === 'DISTANCE'" class="distance">
          <input
            v-model.number="count"
            class="field"
            type="number"
            min="0"
            max="100000"
            aria-label="How many"
          />
          <select v-model="unit" class="field" aria-label="Unit">
            <option
              v-for="u in clock
                ? ['minute', 'hour', 'day', 'working day', 'week', 'month', 'quarter', 'year']
                : ['day', 'working day', 'week', 'month', 'quarter', 'year']"
              :key="u"
              :value="u"
            >
              {{ u }}s
            </option>
          </select>
          <select v-model="side" class="field" aria-label="Direction">
            <option>ago</option>
            <option>from now</option>
          </select>
        </div>
        <template v-else-if="takes === 'TEXT' || (takes === 'VALUE' && field.type !== 'yes/no')">
          <div v-if="takes === 'VALUE' && viewers.length" class="viewers">
            <button
              v-for="v in viewers"
              :key="v"
              type="button"
              class="viewer"
              :aria-pressed="viewer === v"
              @click="viewer = viewer === v ? '' : v"
            >
              {{ v === 'me' ? 'me' : `my ${v}` }}
            </button>
            <span class="hint">whoever reads</span>
          </div>
          <input v-if="!viewer" v-model="text" class="field" aria-label="Text" placeholder="Text" />
          <p v-if="test === 'is like'" class="hint">* stands for any run of characters, ? for one.</p>
          <label v-if="!viewer" class="check"
            ><input v-model="exactly" type="checkbox" /> letter case counts</label
          >
        </template>
        <div v-else-if="takes === 'VALUE'" class="tests" role="radiogroup" aria-label="Yes or no">
          <button type="button" role="radio" class="option" :aria-checked="yes" @click="yes = true">
            yes
          </button>
          <button type="button" role="radio" class="option" :aria-checked="!yes" @click="yes = false">
            no
          </button>
        </div>
        <input
          v-else-if="takes === 'NUMBER'"
          v-model="low"
          class="field narrow"
          inputmode="decimal"
          aria-label="Number"
        />
        <template v-else-if="takes === 'TWO_NUMBERS'">
          <div class="distance">
            <input v-model="low" class="field narrow" inputmode="decimal" aria-label="From" />
            <span>and</span>
            <input v-model="high" class="field narrow" inputmode="decimal" aria-label="To" />
          </div>
          <p class="hint">Both ends belong.</p>
        </template>
        <ValuePicker
          v-else-if="takes === 'VALUES' && listed"
          v-model="values"
          :field="field"
          :viewers="field.type === 'tags' ? [] : viewers"
        />
        <template v-else-if="takes === 'VALUES'">
          <textarea
            v-model="pasted"
            class="field"
            rows="6"
            aria-label="Values"
            placeholder="Write or paste a list"
          />
          <p class="hint">{{ list(pasted).length }} values. Lines, commas, semicolons and tabs part them.</p>
        </template>
        <label v-if="mayAsk" class="ask">
          Ask whoever reads
          <input
            v-model="ask"
            class="field"
            maxlength="60"
            aria-label="Ask whoever reads"
            placeholder="under a label, such as “days overdue”"
          />
        </label>
      </div>
    </div>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <footer>
      <button type="button" class="act" :disabled="!field" @click="apply">Apply</button>
      <button type="button" class="word" @click="emit('cancel')">Cancel</button>
      <span class="hint">Enter applies, Esc leaves it as it was</span>
    </footer>
  </section>
</template>

<style scoped>
.editor {
  border: 1px solid var(--rule-strong);
  border-left: 3px solid var(--act);
  background: var(--card);
  padding: 10px 14px 12px;
  margin: 4px 0 10px;
  font-family: var(--sans);
}

.editor.time {
  border-left-color: var(--time-line);
}

.field-select {
  width: 240px;
}

.type {
  float: right;
  color: var(--ink-3);
  padding-left: 16px;
}

.body {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 18px;
  margin-top: 8px;
}

.tests {
  display: flex;
  flex-direction: column;
}

.option {
  border: 0;
  background: none;
  text-align: left;
  padding: 1.5px 8px;
  min-height: 24px;
  border-radius: 3px;
  cursor: pointer;
}

.option:hover {
  background: var(--head);
}

.option[aria-checked='true'] {
  background: var(--act-soft);
  font-weight: 600;
}

.time .option[aria-checked='true'] {
  background: var(--time-bg);
}

.value {
  min-width: 0;
}

.value > label {
  display: block;
  margin-bottom: 6px;
  max-width: 260px;
}

.check {
  display: flex;
  gap: 7px;
  margin-top: 8px;
}

.hint {
  color: var(--ink-2);
  font-size: 13.5px;
  margin-top: 4px;
}

.distance {
  display: flex;
  gap: 8px;
  align-items: center;
}

.distance .field {
  width: auto;
  max-width: 130px;
}

.narrow {
  max-width: 130px;
}

.viewers {
  display: flex;
  gap: 6px;
  align-items: baseline;
  margin-bottom: 8px;
}

.viewer {
  border: 1px solid var(--viewer-line);
  border-radius: 4px;
  background: none;
  color: var(--viewer);
  padding: 2px 9px;
  cursor: pointer;
}

.viewer[aria-pressed='true'] {
  background: var(--viewer-bg);
  font-weight: 600;
}

.beside {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 8px;
}

.beside .field {
  width: auto;
}

.beside .short {
  width: 64px;
}

.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  max-width: 420px;
}

.choice {
  border: 1px solid var(--rule-strong);
  border-radius: 4px;
  background: none;
  min-width: 34px;
  padding: 3px 9px;
  cursor: pointer;
  font-variant-numeric: tabular-nums;
}

.choice[aria-pressed='true'] {
  background: var(--time-bg);
  border-color: var(--time-line);
  font-weight: 600;
}

.bands label {
  display: flex;
  gap: 7px;
  min-height: 26px;
  align-items: center;
}

.value > .ask {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-top: 10px;
  max-width: none;
  color: var(--viewer);
}

.ask .field {
  max-width: 280px;
}

footer {
  display: flex;
  gap: 10px;
  align-items: baseline;
  margin-top: 12px;
  border-top: 1px solid var(--rule);
  padding-top: 10px;
}

footer .hint {
  margin: 0 0 0 auto;
}

.notice {
  margin-top: 8px;
}
</style>
