<script setup lang="ts">
import { vRoving } from '@/platform/roving'
import { durationWords, readableDuration } from '@/platform/duration'
import { computed, onMounted, ref, watch } from 'vue'
import {
  api,
  data,
  isAborted,
  latest,
  sentence,
  type Distribution,
  type FieldDescription,
  type ValueCount,
} from '@/api/client'
import { cell, isNumeric, number } from '@/platform/format'
import {
  isQuantity,
  isWrittenQuantity,
  quantityKey,
  quantityOf,
  quantitySize,
  quantityText,
  quantityWanted,
  typedQuantity,
  type Quantity,
} from '@/statements/quantity'
import { bandLines as bandLinesOf } from '@/statements/criterion'
import { direct, settle } from '@/statements/narrowing'
import type { Change, Node } from '@/statements/tree'
import { directionWords } from './orders'
import { askedOf, type Question } from './useRows'

const props = defineProps<{
  field: FieldDescription
  question: Question
  tree: Node
  zone: string
  /** how the records are ordered by it: not at all, up or down */
  sorted: 'ascending' | 'descending' | 'none'
  /** the functions of the figures of it that are shown */
  measured: string[]
  /** whether as many figures are shown as can be */
  full: boolean
  /** whether it is calculated for this question alone */
  added: boolean
}>()
const emit = defineEmits<{
  narrow: [change: Change]
  order: [direction: 'ascending' | 'descending' | 'none', beside: boolean]
  editor: []
  /** how it is calculated here is to be changed */
  calculate: []
  /** the column is to be so much wider, in pixels; absent for its usual width */
  width: [by?: number]
  /** a figure of it is to be shown, or not any more */
  figure: [does: FieldDescription['measures'][number]['function']]
}>()

const MOST = 200
/** So much one press makes the column wider, in pixels. */
const WIDER = 32
const asking = latest()
const loading = ref(true)
const trouble = ref('')
const values = ref<ValueCount[]>([])
const more = ref(false)
const search = ref('')
const chosen = ref<string[]>([])
const without = ref(false)
const spread = ref<Distribution>()
const low = ref('')
const high = ref('')
const bands = ref<string[]>([])

const numeric = computed(() => isNumeric(props.field))
const dated = computed(() => props.field.type === 'date' || props.field.type === 'moment')
const searchable = computed(() => props.field.type === 'text')
const listable = computed(() =>
  ['text', 'choice', 'person', 'tags', 'yes/no', 'number', 'duration'].includes(props.field.type),
)
const name = (v: unknown) => (v === null || v === undefined ? '' : String(v))
const own = direct(props.tree, props.field.key)

/** Facts about the reader, or blanks for them, that the field is held against beside plain values. */
const facts = ref<Node[]>([])
const chosenFacts = ref<Node[]>([])
const factWords = (fact: Node) =>
  fact.viewer === 'me'
    ? 'me, whoever reads'
    : fact.viewer
      ? `my ${fact.viewer}, whoever reads`
      : `what the reader says for “${fact.ask}”`

onMounted(async () => {
  const listed = (all: unknown[]) => {
    const isValue = (v: unknown) => typeof v !== 'object' || isWrittenQuantity(v)
    chosen.value = all.filter(isValue).map((v) => (isWrittenQuantity(v) ? quantityKey(v) : name(v)))
    facts.value = all.filter((v): v is Node => !isValue(v) && v !== null)
    chosenFacts.value = [...facts.value]
  }
  for (const node of own) {
    const test = String(node.test)
    if ((test === 'is' || test === '=') && 'value' in node) listed([node.value])
    else if (test === 'is in' || test === 'has any of') listed(node.values as unknown[])
    else if (test === 'is empty') without.value = true
    else if (test === '>=' && isQuantity(node.value)) low.value = quantityText(node.value)
    else if (test === '<=' && isQuantity(node.value)) high.value = quantityText(node.value)
    else if (test === 'between') {
      low.value = quantityText(node.low)
      high.value = quantityText(node.high)
    } else if (test === 'is in band') bands.value = [...(node.bands as string[])]
  }
  await load()
})

let timer = 0
watch(search, () => {
  if (!searchable.value) return
  window.clearTimeout(timer)
  timer = window.setTimeout(() => void load(), 180)
})

async function load() {
  trouble.value = ''
  const { register } = props.question
  const body = { ...askedOf(props.question), field: props.field.key, beside: true }
  try {
    if (numeric.value && !spread.value) {
      spread.value = await asking.ask((signal, question) =>
        data(
          api.POST('/api/registers/{key}/distribution', {
            params: { path: { key: register }, header: { 'X-Question': question } },
            body,
            signal,
          }),
        ),
      )
    }
    if (!listable.value) return
    const found = await asking.ask((signal, question) =>
      data(
        api.POST('/api/registers/{key}/values', {
          params: { path: { key: register }, header: { 'X-Question': question } },
          body: { ...body, limit: MOST, search: searchable.value ? search.value : undefined },
          signal,
        }),
      ),
    )
    values.value = found.values
    more.value = found.more
    for (const v of found.values) counted.set(name(v.value), v.count)
  } catch (e) {
    if (!isAborted(e)) trouble.value = sentence(e)
  } finally {
    loading.value = false
  }
}

interface Line {
  value: string
  words: string
  /** absent where it was not counted, as what was found by a search does not tell */
  count?: number
}
/** What was counted since the panel was opened. */
const counted = new Map<string, number>()
const lines = computed<Line[]>(() => {
  const counts = new Map(values.value.filter((v) => v.value !== null).map((v) => [name(v.value), v.count]))
  const declared = ['choice', 'person'].includes(props.field.type)
    ? props.field.options.map((o) => o.value).filter((v) => counts.has(v) || chosen.value.includes(v))
    : []
  const rest = [...counts.keys(), ...chosen.value].filter((v) => !declared.includes(v))
  if (numeric.value) rest.sort((a, b) => Number(a) - Number(b))
  const wanted = search.value.trim().toLowerCase()
  return [...new Set([...declared, ...rest])]
    .map((value) => ({
      value,
      words: numeric.value
        ? cell(props.field, value, props.zone)
        : props.field.type === 'yes/no'
          ? value === 'true'
            ? 'yes'
            : 'no'
          : cell(props.field, props.field.type === 'tags' ? [value] : value, props.zone),
      count: counted.get(value) ?? (more.value || search.value ? undefined : 0),
    }))
    .filter((l) => searchable.value || !wanted || l.words.toLowerCase().includes(wanted))
})
const counts = (line: Line) => (line.count === undefined ? '' : number(line.count))
const empties = computed(() => values.value.find((v) => v.value === null)?.count ?? spread.value?.empty ?? 0)

const all = () => (chosen.value = [...new Set([...chosen.value, ...lines.value.map((l) => l.value)])])
const none = () => {
  const shown = lines.value.map((l) => l.value)
  chosen.value = chosen.value.filter((v) => !shown.includes(v))
}
const invert = () => {
  const shown = lines.value.map((l) => l.value)
  chosen.value = [
    ...chosen.value.filter((v) => !shown.includes(v)),
    ...shown.filter((v) => !chosen.value.includes(v)),
  ]
}

const typed = (value: string): unknown =>
  numeric.value ? quantityOf(props.field, value) : props.field.type === 'yes/no' ? value === 'true' : value

const LISTS = [
  'is',
  'is not',
  'is in',
  'is not in',
  'is empty',
  'is not empty',
  '=',
  '!=',
  'has any of',
  'has none of',
]
/** What is chosen: plain values, then those that depend on the reader. */
const list = computed<unknown[]>(() => [...chosen.value.map(typed), ...chosenFacts.value])
function keepOnly() {
  const key = props.field.key
  const ofList: Node | undefined = !list.value.length
    ? undefined
    : props.field.type === 'tags'
      ? { field: key, test: 'has any of', values: list.value }
      : list.value.length === 1
        ? { field: key, test: numeric.value ? '=' : 'is', value: list.value[0] }
        : { field: key, test: 'is in', values: list.value }
  const empty = { field: key, test: 'is empty' }
  const node =
    ofList && without.value ? { any: [ofList, empty] } : (ofList ?? (without.value ? empty : undefined))
  emit('narrow', (tree) => settle(tree, key, node, LISTS))
}
function leaveOut() {
  const key = props.field.key
  const test = props.field.type === 'tags' ? 'has none of' : 'is not in'
  const listed = list.value
  const filled = without.value ? { field: key, test: 'is not empty' } : undefined
  emit('narrow', (tree) => {
    let left = settle(tree, key, undefined, LISTS)
    if (listed.length) left = settle(left, key, { field: key, test, values: listed }, [])
    return filled ? settle(left, key, filled, []) : left
  })
}

/** Whichever way round the ends were written. */
const inOrder = (a: Quantity, b: Quantity) =>
  quantitySize(a) <= quantitySize(b) ? { low: a, high: b } : { low: b, high: a }

const RANGES = ['=', '>=', '>', '<=', '<', 'between']
function keepRange() {
  const [from, to] = [low.value, high.value].map((raw) => typedQuantity(props.field, raw))
  if ((low.value.trim() && from === undefined) || (high.value.trim() && to === undefined)) {
    trouble.value = quantityWanted(props.field).replace(/\.$/, ', or leave an end open.')
    return
  }
  const key = props.field.key
  const node: Node | undefined =
    from !== undefined && to !== undefined
      ? { field: key, test: 'between', ...inOrder(from, to) }
      : from !== undefined
        ? { field: key, test: '>=', value: from }
        : to !== undefined
          ? { field: key, test: '<=', value: to }
          : undefined
  emit('narrow', (tree) => settle(tree, key, node, RANGES))
}

// ------------------------------------------------------------------ the range, drawn

const svg = ref<SVGSVGElement>()
const anchor = ref<number>()
const stretches = computed(() => spread.value?.stretches ?? [])
const most = computed(() => Math.max(1, ...stretches.value.map((s) => s.records)))
const index = (event: PointerEvent) => {
  const box = svg.value!.getBoundingClientRect()
  const at = Math.floor(((event.clientX - box.left) / box.width) * stretches.value.length)
  return Math.max(0, Math.min(stretches.value.length - 1, at))
}
/** As few digits as still part two stretches. */
function tidy(value: number): number {
  const width = (stretches.value[0]?.high ?? 1) - (stretches.value[0]?.low ?? 0)
  const digits = Math.max(0, Math.min(6, Math.ceil(-Math.log10(width || 1))))
  return Number(value.toFixed(digits))
}
/** An end as it is typed. */
function shown(value: number): string {
  const width = (stretches.value[0]?.high ?? 1) - (stretches.value[0]?.low ?? 0)
  return props.field.type === 'duration' ? durationWords(readableDuration(value, width)) : String(tidy(value))
}
function draw(event: PointerEvent, begins: boolean) {
  if (begins) {
    anchor.value = index(event)
    svg.value!.setPointerCapture(event.pointerId)
  }
  if (anchor.value === undefined) return
  const [from, to] = [anchor.value, index(event)].sort((a, b) => a - b) as [number, number]
  low.value = shown(stretches.value[from]!.low)
  high.value = shown(stretches.value[to]!.high)
}
/** The size of an end that was typed; of an open one, or one that cannot be read, none. */
function sizeOf(raw: string): number | undefined {
  const typed = typedQuantity(props.field, raw)
  return typed === undefined ? undefined : quantitySize(typed)
}
const inside = (s: { low: number; high: number }) =>
  s.high > (sizeOf(low.value) ?? -Infinity) && s.low < (sizeOf(high.value) ?? Infinity)

const bandLines = computed(() => bandLinesOf(props.field))
function keepBands() {
  const { key } = props.field
  const node = bands.value.length ? { field: key, test: 'is in band', bands: bands.value } : undefined
  emit('narrow', (tree) => settle(tree, key, node, ['is in band']))
}
const words = computed(() => [false, true].map((descending) => directionWords(props.field.type, descending)))
</script>

<template>
  <div class="head-panel">
    <p v-if="field.calculation" class="calculated">
      <span
        >= <code>{{ field.calculation.words }}</code></span
      >
      <button v-if="added" type="button" class="word" @click="emit('calculate')">
        Change the calculation
      </button>
    </p>
    <div v-if="field.orderable" class="orders" role="group" :aria-label="`Order by ${field.label}`">
      <button
        v-for="(d, i) in ['ascending', 'descending'] as const"
        :key="d"
        type="button"
        class="quiet"
        :aria-pressed="sorted === d"
        @click="emit('order', sorted === d ? 'none' : d, $event.shiftKey)"
      >
        {{ words[i] }}
      </button>
    </div>
    <div v-if="field.measures.length" class="figures" role="group" :aria-label="`Figures of ${field.label}`">
      <span class="small">Figures</span>
      <button
        v-for="m in field.measures"
        :key="m.function"
        type="button"
        class="word"
        :aria-pressed="measured.includes(m.function)"
        :disabled="full && !measured.includes(m.function)"
        :title="full && !measured.includes(m.function) ? 'No more figures can be shown.' : undefined"
        @click="emit('figure', m.function)"
      >
        {{ m.words.replace(/ of$/, '') }}
      </button>
    </div>
    <p v-if="field.description" class="small">{{ field.description }}</p>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>

    <template v-if="numeric && stretches.length">
      <svg
        ref="svg"
        viewBox="0 0 480 60"
        preserveAspectRatio="none"
        role="img"
        :aria-label="`How many there are of each ${field.label}, ${cell(field, stretches[0]!.low, zone)} to ${cell(field, stretches.at(-1)!.high, zone)}; draw over it for a range`"
        @pointerdown="draw($event, true)"
        @pointermove="draw($event, false)"
        @pointerup="anchor = undefined"
      >
        <g v-for="(s, i) in stretches" :key="i">
          <title>
            {{ cell(field, s.low, zone) }} to {{ cell(field, s.high, zone) }}: {{ number(s.records) }}
          </title>
          <rect :x="i * 10" y="0" width="10" height="60" fill="transparent" />
          <rect
            :x="i * 10"
            :y="60 - (s.records ? Math.max(2, (s.records / most) * 60) : 0)"
            width="9"
            :height="s.records ? Math.max(2, (s.records / most) * 60) : 0"
            class="bar"
            :class="{ in: inside(s) }"
          />
        </g>
      </svg>
      <form class="range" :class="{ long: field.type === 'duration' }" @submit.prevent="keepRange">
        <input
          v-model="low"
          class="field"
          :inputmode="field.type === 'duration' ? undefined : 'decimal'"
          :aria-label="`${field.label} from`"
          placeholder="from"
        />
        <span>to</span>
        <input
          v-model="high"
          class="field"
          :inputmode="field.type === 'duration' ? undefined : 'decimal'"
          :aria-label="`${field.label} to`"
          placeholder="to"
        />
        <button type="submit" class="quiet">Keep only this range</button>
      </form>
      <p class="small">Both ends belong.</p>
    </template>

    <fieldset v-if="bandLines.length">
      <legend>Bands</legend>
      <label v-for="b in bandLines" :key="b.name" class="line" :style="{ paddingLeft: b.depth * 16 + 'px' }">
        <input v-model="bands" type="checkbox" :value="b.name" @change="keepBands" />
        <span>{{ b.name }}</span>
      </label>
    </fieldset>

    <fieldset v-if="listable">
      <legend>Values <span class="small">under the other criteria</span></legend>
      <input
        v-if="searchable || lines.length > 8 || search"
        v-model="search"
        class="field"
        type="search"
        :aria-label="`Search the values of ${field.label}`"
        placeholder="Search"
      />
      <p class="picks">
        <button type="button" class="word" :disabled="loading" @click="all">all</button>
        <button type="button" class="word" :disabled="loading" @click="none">none</button>
        <button type="button" class="word" :disabled="loading" @click="invert">invert</button>
        <span v-if="list.length" class="small">{{ list.length }} chosen</span>
      </p>
      <p v-if="loading" class="small">Counting…</p>
      <div v-else v-roving class="lines">
        <label v-for="(fact, i) in facts" :key="i" class="line">
          <input v-model="chosenFacts" type="checkbox" :value="fact" />
          <span class="value fact">{{ factWords(fact) }}</span>
        </label>
        <label v-for="l in lines" :key="l.value" class="line">
          <input v-model="chosen" type="checkbox" :value="l.value" />
          <span class="value">{{ l.words }}</span>{{ ' ' }}<span class="count">{{ counts(l) }}</span>
        </label>
        <label v-if="empties || without" class="line">
          <input v-model="without" type="checkbox" />
          <span class="value none">without a value</span>{{ ' '
          }}<span class="count">{{ number(empties) }}</span>
        </label>
        <p v-if="!lines.length && !facts.length && !empties" class="small">No value fits.</p>
      </div>
      <p v-if="more" class="small">The {{ MOST }} most frequent; search for others.</p>
      <p class="acts">
        <button
          type="button"
          class="act"
          :disabled="!list.length && !without && !own.length"
          @click="keepOnly"
        >
          Keep only these
        </button>
        <button type="button" class="quiet" :disabled="!list.length && !without" @click="leaveOut">
          Leave these out
        </button>
      </p>
    </fieldset>
    <p class="more">
      <button type="button" class="word" @click="emit('editor')">
        {{ dated ? 'Choose a window…' : 'Every other test…' }}
      </button>
    </p>
    <p class="more" role="group" :aria-label="`Width of the column ${field.label}`">
      <span class="small">Column</span>
      <button type="button" class="word" title="Alt ← in the head" @click="emit('width', -WIDER)">
        narrower
      </button>
      <button type="button" class="word" title="Alt → in the head" @click="emit('width', WIDER)">
        wider
      </button>
      <button type="button" class="word" @click="emit('width', undefined)">usual width</button>
    </p>
  </div>
</template>

<style scoped>
.calculated code {
  font: 400 16px/1.4 var(--serif);
}

.calculated {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: baseline;
  overflow-wrap: anywhere;
}

.head-panel {
  display: grid;
  gap: 8px;
}

.orders,
.figures {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 6px;
}

.figures {
  gap: 2px 10px;
}

.figures .word {
  padding: 2px 4px;
}

[aria-pressed='true'] {
  background: var(--act-soft);
  font-weight: 600;
}

svg {
  width: 100%;
  height: 60px;
  border-bottom: 1px solid var(--rule-strong);
  cursor: crosshair;
  touch-action: none;
}

/* What depends on the reader. */
.fact {
  color: var(--viewer);
}

.bar {
  fill: var(--bar-out);
}

.bar.in {
  fill: var(--act-line);
}

.range {
  display: flex;
  gap: 6px;
  align-items: center;
}

.range .field {
  min-width: 0;
  flex: 1 1 0;
  min-height: var(--control-small);
  padding: 2px 7px;
}

/* A duration needs a line of its own beside the button. */
.range.long {
  flex-wrap: wrap;
}

.range.long .field {
  flex-basis: 100px;
}

fieldset {
  border: 0;
  border-top: 1px solid var(--rule);
  padding: 6px 0 0;
  margin: 0;
  min-width: 0;
}

legend {
  float: left;
  width: 100%;
  padding: 0 0 3px;
  font-weight: 600;
}

.small {
  color: var(--ink-2);
  font-size: 13px;
  font-weight: 400;
}

.picks {
  display: flex;
  gap: 12px;
  align-items: baseline;
  clear: both;
}

.picks .word {
  padding: 2px 0;
  min-width: 26px;
  min-height: 26px;
  font-weight: 400;
  text-decoration: underline;
}

.lines {
  padding-top: 6px;
}

.line {
  display: flex;
  gap: 7px;
  align-items: baseline;
  min-height: 28px;
  clear: both;
}

.value {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: pre;
}

.none {
  color: var(--ink-2);
  font-style: italic;
}

.count {
  color: var(--ink-2);
}

.acts {
  display: flex;
  gap: 8px;
  margin-top: 6px;
  position: sticky;
  bottom: -12px;
  background: var(--card);
  padding: 5px 0;
}

.more {
  display: flex;
  gap: 12px;
  align-items: baseline;
  border-top: 1px solid var(--rule);
  padding-top: 4px;
}

.more .word {
  padding: 2px 0;
}
</style>
