<script setup lang="ts">
import { computed, inject, nextTick, onMounted, ref, watch } from 'vue'
import type { FieldDescription } from '@/api/client'
import { DESK } from './desk'
import PeriodPicker from './PeriodPicker.vue'
import ValuePicker from './ValuePicker.vue'
import type { Node } from './tree'

const props = defineProps<{ node?: Node }>()
const emit = defineEmits<{ apply: [node: Node]; cancel: [] }>()
const desk = inject(DESK)!

const start = props.node ?? {}
const fieldKey = ref(String(start.field ?? ''))
const field = computed<FieldDescription | undefined>(() =>
  desk.register.value.fields.find((f) => f.key === fieldKey.value),
)
const temporal = computed(() => field.value?.type === 'date' || field.value?.type === 'moment')
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
}

const tests = computed(() => {
  const all = field.value?.tests ?? []
  const offered = listed.value ? all.filter((t) => t.words !== 'is' && t.words !== 'is not') : all
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

const period = ref(String(start.period ?? start.from ?? 'today'))
const secondPeriod = ref(String(start.to ?? 'today'))
const values = ref<unknown[]>((start.values as unknown[]) ?? (start.value !== undefined ? [start.value] : []))
const text = ref(String(start.text ?? (typeof start.value === 'string' ? start.value : '')))
const exactly = ref(Boolean(start.exactly))
const low = ref(String(start.low ?? (typeof start.value === 'number' ? start.value : '')))
const high = ref(String(start.high ?? ''))
const pasted = ref(((start.values as unknown[]) ?? []).filter((v) => typeof v !== 'object').join('\n'))
const count = ref(Number(start.count ?? 30))
const unit = ref(String(start.unit ?? 'day'))
const side = ref(String(start.side ?? 'ago'))
const yes = ref(start.value !== false)
const trouble = ref('')
const card = ref<HTMLElement>()

const viewers = computed(() => {
  if (!field.value || !['person', 'choice', 'text'].includes(field.value.type)) return []
  if (field.value.type === 'person') return ['me']
  // Of a choice, only the fact of that name makes sense: site is my site.
  if (field.value.type === 'choice')
    return desk.register.value.viewerValues.filter((v) => v === fieldKey.value)
  return desk.register.value.viewerValues
})
const viewer = ref<string>(
  typeof start.value === 'object' && start.value !== null ? String((start.value as Node).viewer) : '',
)

watch(fieldKey, () => {
  test.value = ''
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
  }
  const wanted = usual[field.value.type]
  test.value = tests.value.find((t) => t.words === wanted)?.words ?? tests.value[0]?.words ?? ''
  period.value = field.value.type === 'moment' ? 'last 7 days' : 'today'
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
  const exact = exactly.value && field.value?.type === 'text' ? { exactly: true } : {}
  switch (takes.value) {
    case 'NOTHING':
      return base
    case 'PERIOD':
      return { ...base, period: period.value }
    case 'TWO_PERIODS':
      return { ...base, from: period.value, to: secondPeriod.value }
    case 'DISTANCE':
      return { ...base, count: Math.round(count.value), unit: unit.value, side: side.value }
    case 'TEXT':
      if (!text.value) throw new Error('Write the text to look for.')
      return { ...base, text: text.value, ...exact }
    case 'NUMBER':
      return { ...base, value: asNumber(low.value) }
    case 'TWO_NUMBERS':
      return { ...base, low: asNumber(low.value), high: asNumber(high.value) }
    case 'VALUE':
      if (field.value?.type === 'yes/no') return { ...base, value: yes.value }
      if (viewer.value) return { ...base, value: { viewer: viewer.value } }
      if (!text.value) throw new Error('Write the text to compare with.')
      return { ...base, value: text.value, ...exact }
    case 'VALUES': {
      if (!listed.value) {
        const found = list(pasted.value)
        if (!found.length) throw new Error('Write or paste at least one value.')
        const numeric = field.value?.type === 'number' || field.value?.type === 'money'
        return { ...base, values: numeric ? found.map(asNumber) : found, ...exact }
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

function apply() {
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
    apply()
  } else if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
    event.preventDefault()
    apply()
  }
}
</script>

<template>
  <section ref="card" class="editor" :class="{ time: temporal }" aria-label="Criterion" @keydown="keys">
    <div class="which">
      <ElSelect
        v-model="fieldKey"
        filterable
        default-first-option
        placeholder="Choose a field"
        aria-label="Field"
        class="field-select"
        :automatic-dropdown="!node"
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
        <PeriodPicker
          v-if="takes === 'PERIOD'"
          v-model="period"
          :clock="field.type === 'moment'"
          :as-of="desk.asOf.value"
        />
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
              v-for="u in field.type === 'moment'
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
