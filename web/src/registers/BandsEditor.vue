<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import {
  api,
  data,
  isAborted,
  latest,
  sentence,
  type Band,
  type BandExtent,
  type FieldDescription,
} from '@/api/client'
import { shiftDay } from '@/platform/days'
import { durationSeconds, durationWords, readableDuration } from '@/platform/duration'
import { counted, isNumeric, number } from '@/platform/format'

/** How many values are listed at once. */
const MOST_VALUES = 60

const props = defineProps<{ registerKey: string; field: FieldDescription; disabled: boolean }>()
const bands = defineModel<Band[]>({ required: true })

/** A band with its place in the tree, drawn one under the other. */
interface Place {
  band: Band
  depth: number
  siblings: Band[]
}

interface Bar {
  low: number
  high: number
  records: number
}

const bars = ref<Bar[]>([])
const values = ref<{ value: string; count: number }[]>([])
/** How many records have each value that was seen so far. */
const counts = new Map<string, number>()
/** whether the field has more values than are listed, so that they are looked for by a piece of them */
const more = ref(false)
const sought = ref('')
/** how many records have no value; absent while it is not known */
const empty = ref<number>()
const trouble = ref('')
const asking = latest()

const numeric = computed(() => isNumeric(props.field))
const duration = computed(() => props.field.type === 'duration')
const dated = computed(() => props.field.type === 'date' || props.field.type === 'moment')
const timed = computed(() => props.field.type === 'time of day')

watch(
  () => props.field.key,
  async () => {
    bars.value = []
    values.value = []
    counts.clear()
    more.value = false
    sought.value = ''
    empty.value = undefined
    trouble.value = ''
    const path = { key: props.registerKey }
    try {
      if (numeric.value) {
        const found = await asking.ask((signal, name) =>
          data(
            api.POST('/api/registers/{key}/distribution', {
              params: { path, header: { 'X-Question': name } },
              body: { field: props.field.key },
              signal,
            }),
          ),
        )
        bars.value = found.stretches
        empty.value = found.empty
      } else if (dated.value) {
        const found = await asking.ask((signal, name) =>
          data(
            api.POST('/api/registers/{key}/histogram', {
              params: { path, header: { 'X-Question': name } },
              body: { field: props.field.key },
              signal,
            }),
          ),
        )
        bars.value = found.buckets.map((b) => ({
          low: Date.parse(b.start + 'Z'),
          high: Date.parse(b.end + 'Z'),
          records: b.records,
        }))
        empty.value = await without()
      } else if (!timed.value) {
        const found = await look()
        more.value = found.more
        empty.value = await without()
      }
    } catch (e) {
      if (!isAborted(e)) trouble.value = sentence(e)
    }
  },
  { immediate: true },
)

/** How many records have no value. */
async function without(): Promise<number> {
  const found = await asking.ask((signal, name) =>
    data(
      api.POST('/api/registers/{key}/count', {
        params: { path: { key: props.registerKey }, header: { 'X-Question': name } },
        body: { statement: `${props.field.key} is empty` },
        signal,
      }),
    ),
  )
  return found.matching
}

/** The most frequent values, or those that hold what is sought. */
async function look() {
  const found = await asking.ask((signal, name) =>
    data(
      api.POST('/api/registers/{key}/values', {
        params: { path: { key: props.registerKey }, header: { 'X-Question': name } },
        body: { field: props.field.key, limit: MOST_VALUES, search: sought.value.trim() || null },
        signal,
      }),
    ),
  )
  values.value = found.values
    .filter((v) => v.value != null && v.value !== '')
    .map((v) => ({ value: String(v.value), count: v.count }))
  values.value.forEach((v) => counts.set(v.value, v.count))
  return found
}

let timer = 0
watch(sought, () => {
  window.clearTimeout(timer)
  timer = window.setTimeout(() => {
    if (more.value) look().catch((e) => !isAborted(e) && (trouble.value = sentence(e)))
  }, 250)
})
onBeforeUnmount(() => window.clearTimeout(timer))

/** The values that a set can be ticked from: what it holds stays in sight, also where it is not among those found. */
function choices(extent: BandExtent): { value: string; count?: number }[] {
  const found = new Set(values.value.map((v) => v.value))
  const others = (extent.values ?? [])
    .filter((v) => !found.has(v))
    .map((value) => ({ value, count: counts.get(value) }))
  return [...others, ...values.value]
}

const places = computed(() => {
  const found: Place[] = []
  const walk = (siblings: Band[], depth: number) =>
    siblings.forEach((band) => {
      found.push({ band, depth, siblings })
      walk(band.bands, depth + 1)
    })
  walk(bands.value, 0)
  return found
})

// ------------------------------------------------------------------ the drawing

const WIDTH = 620
const HEIGHT = 90
const LANE = 17
const low = computed(() => bars.value[0]?.low ?? 0)
const high = computed(() => bars.value.at(-1)?.high ?? 1)
const most = computed(() => Math.max(1, ...bars.value.map((b) => b.records)))
const x = (value: number) => ((value - low.value) / (high.value - low.value || 1)) * WIDTH
// A root makes small counts visible beside great ones.
const y = (records: number) => Math.sqrt(records / most.value) * HEIGHT

type End = 'low' | 'high'

/** Where an end of a stretch lies on the axis; open ends lie at its edge. */
function at(extent: BandExtent, end: End): number | undefined {
  if (numeric.value) return end === 'low' ? (extent.low ?? undefined) : (extent.high ?? undefined)
  const day = end === 'low' ? extent.firstDay : extent.dayAfterLast
  return day ? Date.parse(day + 'T00:00Z') : undefined
}

/** A number fit to be read, at about the place that was pointed at. */
function readable(value: number): number {
  const width = (high.value - low.value) / 100
  if (duration.value) return readableDuration(value, width)
  const step = 10 ** Math.floor(Math.log10(Math.max(width, 1e-6)))
  return Number((Math.round(value / step) * step).toPrecision(12))
}

function put(extent: BandExtent, end: End, value: number) {
  if (numeric.value) {
    const round = readable(value)
    if (end === 'low') extent.low = Math.min(round, extent.high ?? Infinity)
    else extent.high = Math.max(round, extent.low ?? -Infinity)
  } else {
    const day = new Date(Math.round(value / 86_400_000) * 86_400_000).toISOString().slice(0, 10)
    if (end === 'low') extent.firstDay = day
    else extent.dayAfterLast = day
  }
}

const svg = ref<SVGSVGElement>()
function drag(event: PointerEvent, extent: BandExtent, end: End) {
  if (props.disabled) return
  const handle = event.currentTarget as Element
  handle.setPointerCapture(event.pointerId)
  const move = (e: Event) => {
    const box = svg.value!.getBoundingClientRect()
    const share = Math.min(1, Math.max(0, ((e as PointerEvent).clientX - box.left) / box.width))
    put(extent, end, low.value + share * (high.value - low.value))
  }
  const done = () => {
    handle.removeEventListener('pointermove', move)
    handle.removeEventListener('pointerup', done)
  }
  handle.addEventListener('pointermove', move)
  handle.addEventListener('pointerup', done)
}

/** About how many records a band holds, by the bars below it. */
function holds(band: Band): string {
  if (numeric.value || dated.value) {
    if (!bars.value.length) return ''
    const all = everything(band)
    const sum = bars.value.reduce((total, bar) => {
      const middle = (bar.low + bar.high) / 2
      const inside = all.some(
        (e) => middle >= (at(e, 'low') ?? -Infinity) && middle < (at(e, 'high') ?? Infinity),
      )
      return total + (inside ? bar.records : 0)
    }, 0)
    return `about ${number(sum)}`
  }
  const chosen = [...new Set(everything(band).flatMap((e) => e.values ?? []))]
  const sum = chosen.reduce((total, value) => total + (counts.get(value) ?? 0), 0)
  if (!counts.size) return ''
  return chosen.every((value) => counts.has(value)) ? number(sum) : `at least ${number(sum)}`
}

const everything = (band: Band): BandExtent[] => [...band.extents, ...band.bands.flatMap(everything)]

const show = (value: number) =>
  duration.value
    ? durationWords(Math.round(value))
    : numeric.value
      ? number(value)
      : new Date(value).toISOString().slice(0, 10)

// ------------------------------------------------------------------ the list

function fresh(): BandExtent {
  if (timed.value) return { from: '08:00', to: '17:00' }
  if (dated.value) return { firstDay: null, dayAfterLast: null }
  if (numeric.value) {
    const last = Math.max(
      low.value,
      ...places.value.flatMap((p) => p.band.extents.map((e) => e.high ?? low.value)),
    )
    return { low: readable(last), lowBelongs: true, high: null, highBelongs: false }
  }
  return { values: [] }
}

function add(siblings: Band[]) {
  siblings.push({ name: '', extents: [fresh()], bands: [] })
}

/** Adds one more stretch to a band: night is before 06:00 and from 22:00. */
function addStretch(band: Band) {
  band.extents.push(fresh())
}

function remove(place: Place) {
  place.siblings.splice(place.siblings.indexOf(place.band), 1)
}

/** Puts a band inside the one before it, or takes it out again. */
function inside(place: Place) {
  const before = place.siblings[place.siblings.indexOf(place.band) - 1]
  if (!before) return
  remove(place)
  before.bands.push(place.band)
}

function outside(place: Place) {
  const holder = places.value.find((p) => p.band.bands === place.siblings)
  if (!holder) return
  remove(place)
  holder.siblings.splice(holder.siblings.indexOf(holder.band) + 1, 0, place.band)
}

/** What is being typed stands as it is typed, whatever is drawn anew meanwhile, until it is taken. */
const typing = ref<{ extent: BandExtent; side: End; text: string }>()
const text = (extent: BandExtent, side: End) =>
  typing.value?.extent === extent && typing.value.side === side ? typing.value.text : shown(extent, side)

function typed(extent: BandExtent, end: End, text: string) {
  typing.value = undefined
  const plain = text.trim()
  if (numeric.value) {
    const value =
      plain === '' ? null : Number(duration.value ? durationSeconds(plain) : plain.replace(/,/g, ''))
    if (value !== null && Number.isNaN(value)) return
    if (end === 'low') extent.low = value
    else extent.high = value
  } else if (timed.value) {
    if (end === 'low') extent.from = plain
    else extent.to = plain
  } else if (end === 'low') extent.firstDay = plain || null
  // "Up to" a day has that day in it, here as everywhere.
  else extent.dayAfterLast = isDay(plain) ? shiftDay(plain, 1) : plain || null
}
const isDay = (text: string) => /^\d{4}-\d\d-\d\d$/.test(text) && !Number.isNaN(Date.parse(text))

function shown(extent: BandExtent, end: End): string {
  if (numeric.value) {
    const value = end === 'low' ? extent.low : extent.high
    return value == null ? '' : duration.value ? durationWords(value) : String(value)
  }
  if (timed.value) return String((end === 'low' ? extent.from : extent.to) ?? '').slice(0, 5)
  if (end === 'low') return extent.firstDay ?? ''
  const after = extent.dayAfterLast ?? ''
  return isDay(after) ? shiftDay(after, -1) : after
}

function toggle(extent: BandExtent, value: string) {
  const now = extent.values ?? []
  extent.values = now.includes(value) ? now.filter((v) => v !== value) : [...now, value]
}

const SHADES = ['a', 'b', 'c', 'd']
</script>

<template>
  <div class="bands">
    <p v-if="trouble" class="notice">{{ trouble }}</p>
    <svg
      v-if="bars.length"
      ref="svg"
      :viewBox="`0 0 ${WIDTH} ${HEIGHT + 6 + LANE * Math.max(1, places.length)}`"
      class="drawing"
      role="img"
      :aria-label="`Records by ${field.label}, with the bands below`"
    >
      <rect
        v-for="(bar, i) in bars"
        :key="i"
        :x="x(bar.low) + 0.5"
        :width="Math.max(1, x(bar.high) - x(bar.low) - 1)"
        :y="HEIGHT - y(bar.records)"
        :height="y(bar.records)"
        class="bar"
      >
        <title>{{ show(bar.low) }} to {{ show(bar.high) }}: {{ counted(bar.records, 'record') }}</title>
      </rect>
      <line x1="0" :x2="WIDTH" :y1="HEIGHT" :y2="HEIGHT" class="axis" />
      <g v-for="(p, row) in places" :key="row">
        <template v-for="(e, i) in p.band.extents" :key="i">
          <rect
            :x="Math.max(0, x(at(e, 'low') ?? low))"
            :width="
              Math.max(2, Math.min(WIDTH, x(at(e, 'high') ?? high)) - Math.max(0, x(at(e, 'low') ?? low)))
            "
            :y="HEIGHT + 5 + row * LANE"
            :height="LANE - 4"
            :class="['band', SHADES[row % SHADES.length]]"
          />
          <template v-for="end in ['low', 'high'] as const" :key="end">
            <g v-if="!disabled" class="handle" @pointerdown.prevent="drag($event, e, end)">
              <line
                :x1="Math.min(WIDTH - 1, Math.max(1, x(at(e, end) ?? (end === 'low' ? low : high))))"
                :x2="Math.min(WIDTH - 1, Math.max(1, x(at(e, end) ?? (end === 'low' ? low : high))))"
                y1="0"
                :y2="HEIGHT + 1 + (row + 1) * LANE"
                class="edge"
              />
              <rect
                :x="Math.min(WIDTH - 6, Math.max(0, x(at(e, end) ?? (end === 'low' ? low : high)) - 6))"
                width="12"
                :y="HEIGHT + 3 + row * LANE"
                :height="LANE"
                fill="transparent"
              />
            </g>
          </template>
        </template>
        <text
          :x="Math.max(4, x(at(p.band.extents[0] ?? {}, 'low') ?? low) + 5)"
          :y="HEIGHT + 15 + row * LANE"
        >
          {{ p.band.name }}
        </text>
      </g>
    </svg>
    <p v-if="bars.length" class="small ends">
      <span>{{ show(low) }}</span>
      <span v-if="empty">{{ counted(empty, 'record') }} without a value</span>
      <span>{{ show(high) }}</span>
    </p>
    <p v-else-if="empty" class="small">{{ counted(empty, 'record') }} without a value.</p>
    <p v-if="more && places.length" class="seek">
      <input
        v-model="sought"
        class="field"
        placeholder="Find a value…"
        :aria-label="`Find a value of ${field.label}`"
      />
    </p>
    <p v-if="!places.length" class="small">
      No bands yet. A band is a named {{ numeric || dated || timed ? 'stretch' : 'set' }} of values, to be
      asked for by its name: <em>is in band “…”</em>.
    </p>
    <div v-for="(p, row) in places" :key="row" class="line" :style="{ marginLeft: p.depth * 22 + 'px' }">
      <span :class="['swatch', SHADES[row % SHADES.length]]" aria-hidden="true" />
      <input
        v-model="p.band.name"
        class="field name"
        placeholder="name"
        maxlength="60"
        :aria-label="`Name of band ${row + 1}`"
      />
      <template v-for="(e, i) in p.band.extents" :key="i">
        <template v-if="e.values == null">
          <label>
            {{ i ? 'and from' : 'from' }}
            <input
              class="field end"
              :value="text(e, 'low')"
              :placeholder="timed ? '08:00' : dated ? '2026-01-01' : 'open'"
              :aria-label="`${p.band.name || `Band ${row + 1}`} from${i ? `, ${i + 1}` : ''}`"
              @input="typing = { extent: e, side: 'low', text: ($event.target as HTMLInputElement).value }"
              @change="typed(e, 'low', ($event.target as HTMLInputElement).value)"
            />
          </label>
          <label>
            {{ dated ? 'up to and including' : 'up to' }}
            <input
              class="field end"
              :value="text(e, 'high')"
              :placeholder="timed ? '17:00' : dated ? '2026-12-31' : 'open'"
              :aria-label="`${p.band.name || `Band ${row + 1}`} up to${i ? `, ${i + 1}` : ''}`"
              @input="typing = { extent: e, side: 'high', text: ($event.target as HTMLInputElement).value }"
              @change="typed(e, 'high', ($event.target as HTMLInputElement).value)"
            />
          </label>
          <label v-if="numeric" class="tick">
            <input
              type="checkbox"
              :checked="e.highBelongs ?? false"
              @change="e.highBelongs = ($event.target as HTMLInputElement).checked"
            />
            the end belongs
          </label>
          <button
            v-if="!disabled && p.band.extents.length > 1"
            type="button"
            class="word"
            :aria-label="`Remove stretch ${i + 1} of ${p.band.name || `band ${row + 1}`}`"
            @click="p.band.extents.splice(i, 1)"
          >
            ×
          </button>
        </template>
        <div v-else class="set">
          <label v-for="v in choices(e)" :key="v.value" class="tick">
            <input type="checkbox" :checked="e.values.includes(v.value)" @change="toggle(e, v.value)" />
            {{ v.value }} <span v-if="v.count !== undefined" class="small">{{ number(v.count) }}</span>
          </label>
        </div>
      </template>
      <span class="small holds">{{ holds(p.band) }}</span>
      <template v-if="!disabled">
        <button
          v-if="p.band.extents.some((e) => e.values == null)"
          type="button"
          class="word"
          :aria-label="`and from: add a stretch to ${p.band.name || `band ${row + 1}`}`"
          @click="addStretch(p.band)"
        >
          and from
        </button>
        <button
          v-if="p.siblings.indexOf(p.band) > 0"
          type="button"
          class="word"
          :aria-label="`put inside the band before it: ${p.band.name}`"
          @click="inside(p)"
        >
          put inside
        </button>
        <button
          v-if="p.depth"
          type="button"
          class="word"
          :aria-label="`take out ${p.band.name}`"
          @click="outside(p)"
        >
          take out
        </button>
        <button type="button" class="word" :aria-label="`Remove ${p.band.name || 'band'}`" @click="remove(p)">
          remove
        </button>
      </template>
    </div>
    <button v-if="!disabled" type="button" class="quiet" @click="add(bands)">Add a band</button>
  </div>
</template>

<style scoped>
.seek {
  max-width: 320px;
  margin: 8px 0 0;
}

.drawing {
  display: block;
  width: 100%;
  max-width: 720px;
  background: var(--card);
  border: 1px solid var(--rule);
  border-bottom: 0;
  touch-action: none;
}

.bar {
  fill: var(--rule-strong);
}

.axis {
  stroke: var(--rule-strong);
}

.band,
.swatch {
  fill: var(--act-soft);
  background: var(--act-soft);
  stroke: var(--act-line);
}

.band.b,
.swatch.b {
  fill: var(--head);
  background: var(--head);
}

.band.c,
.swatch.c {
  fill: var(--act-line);
  background: var(--act-line);
}

.band.d,
.swatch.d {
  fill: var(--rule);
  background: var(--rule);
}

.drawing text {
  font: 600 11px var(--sans);
  fill: var(--ink);
  pointer-events: none;
}

.handle {
  cursor: ew-resize;
}

.edge {
  stroke: var(--act);
  stroke-width: 1.4;
}

.ends {
  display: flex;
  justify-content: space-between;
  max-width: 720px;
  border: 1px solid var(--rule);
  border-top: 0;
  background: var(--card);
  padding: 0 6px 3px;
}

.line {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  margin: 6px 0;
}

.line label {
  font-weight: 400;
}

.swatch {
  width: 14px;
  height: 14px;
  border: 1px solid var(--act-line);
  border-radius: 2px;
}

.name {
  width: 160px;
}

.end {
  display: inline-block;
  width: 104px;
}

.field {
  min-height: var(--control-small);
  padding-block: 2px;
}

.set {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
  max-width: 560px;
  max-height: 132px;
  overflow: auto;
}

.holds {
  min-width: 90px;
}
</style>
