<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import {
  api,
  data,
  isAborted,
  latest,
  sentence,
  type Outline,
  type OverTime,
  type Register,
} from '@/api/client'
import { vRoving } from '@/platform/roving'
import { counted, day, moment, number } from '@/platform/format'
import { firstOfTwo, localTime, writtenIn, zonedInstant } from '@/platform/zones'
import { around, firstWindowed, isStretch, phraseOf, windowsOn, type DrawnWindow } from './rail'
import { askedOf, type Question } from './useRows'

const props = defineProps<{
  register: Register
  question: Question
  outline?: Outline
  zone: string
  /** the moment the question is read at, an ISO instant */
  now: string
  /** whether records have come; the rail waits for them */
  ready: boolean
}>()
const emit = defineEmits<{
  /** a window was drawn: on a criterion that is there, or as a new one on the field */
  window: [phrase: string, field: string, path?: string]
  step: [later: boolean, field: string]
}>()

const WIDTH = 1000
const HEIGHT = 44

const chosen = ref('')
/** The stretch that is shown; absent while it follows the windows. */
const zoomed = ref<{ from?: string; to?: string }>()
const drawn = shallowRef<OverTime>()
const trouble = ref('')
const slow = ref(false)
const asking = latest()

const fields = computed(() =>
  props.register.fields.filter((f) => f.type === 'date' || f.type === 'moment' || f.type === 'span'),
)
const field = computed(() => {
  const wanted = chosen.value || firstWindowed(props.outline) || props.register.mainField || ''
  return fields.value.find((f) => f.key === wanted) ?? fields.value[0]
})
const windows = computed(() => windowsOn(props.outline, field.value ? [field.value.key] : []))
const nowAt = computed(() => Date.parse(props.now))
const shown = computed(() => zoomed.value ?? around(windows.value, nowAt.value) ?? {})

watch(
  () => props.register.key,
  () => {
    chosen.value = ''
    drawn.value = undefined
  },
)
// A window that moves out of sight takes the rail along.
watch(
  () => windows.value.map((w) => `${w.from}-${w.to}`).join(),
  () => (zoomed.value = undefined),
)
watch(
  // Each by itself, since a fresh list of the same parts would count as a change.
  [
    () => props.ready,
    () => JSON.stringify(props.question),
    () => field.value?.key,
    () => JSON.stringify(shown.value),
  ],
  ([ready]) => {
    if (ready) void load()
  },
  { immediate: true },
)

async function load() {
  const wanted = field.value
  if (!wanted) return
  trouble.value = ''
  const timer = window.setTimeout(() => (slow.value = true), 300)
  try {
    drawn.value = await asking.ask((signal, name) =>
      data(
        api.POST('/api/registers/{key}/histogram', {
          params: { path: { key: props.question.register }, header: { 'X-Question': name } },
          body: { ...askedOf(props.question), field: wanted.key, ...shown.value },
          signal,
        }),
      ),
    )
  } catch (e) {
    if (isAborted(e)) return
    // What is drawn is of another question.
    drawn.value = undefined
    trouble.value = sentence(e)
  } finally {
    window.clearTimeout(timer)
    slow.value = false
  }
}
function stop() {
  asking.stop()
  drawn.value = undefined
  trouble.value = 'Stopped.'
}

/** An hour that comes twice is one bar, from the first time on. */
const buckets = computed(() =>
  drawn.value?.step === 'hour'
    ? drawn.value.buckets.map((b) => ({
        ...b,
        start: firstOfTwo(b.start, props.zone),
        end: firstOfTwo(b.end, props.zone),
      }))
    : (drawn.value?.buckets ?? []),
)
const at = (local: string) => zonedInstant(local, props.zone)
const start = computed(() => (buckets.value[0] ? at(buckets.value[0].start) : 0))
const end = computed(() => (buckets.value.length ? at(buckets.value.at(-1)!.end) : 1))
const x = (instant: number) => ((instant - start.value) / (end.value - start.value)) * WIDTH
const held = (instant: number) => Math.max(0, Math.min(WIDTH, x(instant)))
const most = computed(() => Math.max(1, ...buckets.value.map((b) => b.records)))
const height = (records: number) => (records ? Math.max(1.5, (records / most.value) * HEIGHT) : 0)
const bars = computed(() =>
  buckets.value.map((b) => {
    const left = x(at(b.start))
    const right = x(at(b.end))
    const gap = right - left > 4 ? 1.5 : 0
    return { ...b, left, width: Math.max(0.5, right - left - gap) }
  }),
)
const when = (instant: number) =>
  field.value?.type === 'date' || drawn.value?.step !== 'hour'
    ? day(localTime(instant, props.zone).slice(0, 10))
    : moment(new Date(instant).toISOString(), props.zone)

const inSight = computed(() =>
  windows.value.filter(
    (w) => (w.from === undefined || w.from < end.value) && (w.to === undefined || w.to > start.value),
  ),
)
/** A bound with its exact time, also where it is midnight. */
const bound = (instant: number) =>
  field.value?.type === 'date' ? when(instant) : moment(new Date(instant).toISOString(), props.zone)
/** Under its line, as far as there is room; beside it otherwise. */
function place(w: DrawnWindow) {
  const left = (w.from === undefined ? 0 : held(w.from)) / WIDTH
  const right = (w.to === undefined ? WIDTH : held(w.to)) / WIDTH
  if (right - left > 0.42) return { marginLeft: left * 100 + '%', marginRight: (1 - right) * 100 + '%' }
  return left > 0.55
    ? { marginRight: (1 - right) * 100 + '%', justifyContent: 'flex-end' }
    : { marginLeft: left * 100 + '%', justifyContent: 'flex-start' }
}
const label = (b: { start: string; end: string; records: number; matching: number }) =>
  `${when(at(b.start))}${drawn.value?.step === 'day' || drawn.value?.step === 'hour' ? '' : ' up to ' + when(at(b.end) - 1)}: ` +
  `${number(b.records)}${b.matching === b.records ? '' : `, ${number(b.matching)} shown`}`

// ------------------------------------------------------------------ drawing a window

const svg = ref<SVGSVGElement>()
/** What is being drawn: by dragging, or by a click at one end and another at the other. */
const drag = ref<{ anchor: string; to: string; window?: DrawnWindow; clicked?: boolean }>()

/** The bucket's beginning nearest to a place on the screen. */
function snap(event: PointerEvent): string {
  const box = svg.value!.getBoundingClientRect()
  const place = ((event.clientX - box.left) / box.width) * WIDTH
  const edges = [...bars.value.map((b) => b.start), buckets.value.at(-1)!.end]
  return edges.reduce((best, e) => (Math.abs(x(at(e)) - place) < Math.abs(x(at(best)) - place) ? e : best))
}

function down(event: PointerEvent, handle?: { window: DrawnWindow; end: 'from' | 'to' }) {
  if (event.button !== 0 || !buckets.value.length) return
  svg.value!.setPointerCapture(event.pointerId)
  const here = snap(event)
  if (drag.value?.clicked) drag.value = { ...drag.value, to: here }
  else if (handle) {
    const other = handle.end === 'from' ? handle.window.to : handle.window.from
    const anchor = other === undefined ? undefined : writtenIn(other, props.zone)
    if (!anchor) return
    drag.value = { anchor, to: here, window: handle.window }
  } else drag.value = { anchor: here, to: here }
  event.preventDefault()
  event.stopPropagation()
}
/** Whether a handle was clicked, and not dragged: its window is as it was. */
function isUnmoved({ anchor, to, window }: NonNullable<typeof drag.value>): boolean {
  const ends = [window?.from, window?.to].map((end) => end !== undefined && writtenIn(end, props.zone))
  return window !== undefined && ends.includes(anchor) && ends.includes(to)
}
function move(event: PointerEvent) {
  if (drag.value) drag.value = { ...drag.value, to: snap(event) }
}
function up() {
  const made = drag.value
  // A click without dragging is one end; the next click is the other, or takes this one back.
  const first = made && !made.clicked && (made.anchor === made.to || isUnmoved(made))
  drag.value = first ? { ...made, clicked: true } : undefined
  if (first || !made || made.anchor === made.to || !field.value) return
  const [from, to] = [made.anchor, made.to].sort() as [string, string]
  const own = made.window ?? (windows.value.length === 1 ? windows.value[0] : undefined)
  emit('window', phraseOf(from, to), field.value.key, own?.path)
}
const dragged = computed(() => {
  if (!drag.value) return undefined
  const [from, to] = [drag.value.anchor, drag.value.to].sort() as [string, string]
  return { left: held(at(from)), right: held(at(to)), words: from === to ? '' : phraseOf(from, to) }
})

// ------------------------------------------------------------------ looking closer

/** Looks closer or from further off, around the first window or what is in sight. */
function zoom(factor: number) {
  if (!buckets.value.length) return
  const { from = start.value, to = end.value } = inSight.value[0] ?? {}
  const middle = (Math.max(from, start.value) + Math.min(to, end.value)) / 2
  const half = Math.max(43_200_000, ((end.value - start.value) * factor) / 2)
  zoomed.value = {
    from: new Date(middle - half).toISOString().slice(0, 10),
    to: new Date(middle + half).toISOString().slice(0, 10),
  }
}
function keys(event: KeyboardEvent) {
  if (event.key === 'Escape' && drag.value) drag.value = undefined
  else if (event.key === 'ArrowLeft') emit('step', false, field.value!.key)
  else if (event.key === 'ArrowRight') emit('step', true, field.value!.key)
  else if (event.key === '+' || event.key === '=') zoom(0.5)
  else if (event.key === '-') zoom(2)
  else if (event.key === '0') zoomed.value = {}
  else return
  event.preventDefault()
}
const canStep = computed(() => windows.value.some(isStretch))
const total = computed(() => buckets.value.reduce((sum, b) => sum + b.records, 0))
const words = computed(() => {
  if (!drawn.value || !buckets.value.length) return 'Records over time'
  return `${drawn.value.label} by ${drawn.value.step}, ${when(start.value)} to ${when(end.value - 1)}${
    field.value?.type === 'span' ? '' : `, ${counted(total.value, 'record')}`
  }`
})
</script>

<template>
  <figure v-if="field" class="rail" :class="{ waiting: slow }" aria-label="Time rail">
    <div class="head">
      <label>
        <span class="hidden-text">Time on</span>
        <select :value="field.key" @change="chosen = ($event.target as HTMLSelectElement).value">
          <option v-for="f in fields" :key="f.key" :value="f.key">{{ f.label }}</option>
        </select>
      </label>
      <span v-if="drawn" class="by">by {{ drawn.step }}</span>
      <span v-if="slow" class="by">
        counting… <button type="button" class="word" @click="stop">Stop</button>
      </span>
      <span v-else-if="trouble" class="by alert" role="alert"
        >{{ trouble }} <button type="button" class="word" @click="load">Count again</button></span
      >
      <span v-roving class="tools" role="toolbar" aria-label="Time rail">
        <template v-if="canStep">
          <button
            type="button"
            class="word"
            title="The window before (p)"
            @click="emit('step', false, field.key)"
          >
            ‹ previous
          </button>
          <button
            type="button"
            class="word"
            title="The window after (n)"
            @click="emit('step', true, field.key)"
          >
            next ›
          </button>
        </template>
        <button
          type="button"
          class="word"
          aria-label="Zoom in"
          title="Zoom in (+ on the rail)"
          @click="zoom(0.5)"
        >
          zoom in
        </button>
        <button
          type="button"
          class="word"
          aria-label="Zoom out"
          title="Zoom out (− on the rail)"
          @click="zoom(2)"
        >
          zoom out
        </button>
        <button type="button" class="word" title="All of it (0 on the rail)" @click="zoomed = {}">
          show all
        </button>
      </span>
    </div>
    <div class="drawing" tabindex="0" role="img" :aria-label="words" @keydown="keys">
      <svg
        ref="svg"
        :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
        preserveAspectRatio="none"
        aria-hidden="true"
        @pointerdown="down"
        @pointermove="move"
        @pointerup="up"
        @pointercancel="drag = undefined"
      >
        <rect x="0" y="0" :width="WIDTH" :height="HEIGHT" class="ground" />
        <g v-for="b in bars" :key="b.start">
          <title>{{ label(b) }}</title>
          <rect :x="b.left" y="0" :width="b.width" :height="HEIGHT" class="ground" />
          <rect
            :x="b.left"
            :y="HEIGHT - height(b.records)"
            :width="b.width"
            :height="height(b.records)"
            class="bar"
          />
          <rect
            :x="b.left"
            :y="HEIGHT - height(b.matching)"
            :width="b.width"
            :height="height(b.matching)"
            class="bar in"
          />
        </g>
        <rect
          v-if="dragged"
          :x="dragged.left"
          y="0"
          :width="dragged.right - dragged.left"
          :height="HEIGHT"
          class="dragged"
        />
        <line x1="0" :y1="HEIGHT" :x2="WIDTH" :y2="HEIGHT" class="floor" />
      </svg>
      <span
        v-if="buckets.length && nowAt >= start && nowAt <= end"
        class="now"
        :style="{ left: (x(nowAt) / WIDTH) * 100 + '%' }"
        ><span :class="{ leftwards: x(nowAt) > WIDTH * 0.95 }">now</span></span
      >
      <template v-for="w in inSight" :key="w.path">
        <span
          v-if="w.from !== undefined && w.to !== undefined && w.from > start && w.from < end"
          class="handle"
          :style="{ left: (x(w.from) / WIDTH) * 100 + '%' }"
          @pointerdown="down($event, { window: w, end: 'from' })"
          @pointermove="move"
          @pointerup="up"
        />
        <span
          v-if="w.from !== undefined && w.to !== undefined && w.to > start && w.to < end"
          class="handle"
          :style="{ left: (x(w.to) / WIDTH) * 100 + '%' }"
          @pointerdown="down($event, { window: w, end: 'to' })"
          @pointermove="move"
          @pointerup="up"
        />
      </template>
    </div>
    <!-- As high as its windows from the start, so that the records below stay where they are. -->
    <div class="marks" :style="{ '--windows': Math.max(1, windows.length) }">
      <div v-for="w in inSight" :key="w.path" class="window">
        <span
          class="line"
          :class="{
            begins: w.from !== undefined && w.from >= start,
            ends: w.to !== undefined && w.to <= end,
            outside: w.outside,
          }"
          :style="{
            left: ((w.from === undefined ? 0 : held(w.from)) / WIDTH) * 100 + '%',
            right: 100 - ((w.to === undefined ? WIDTH : held(w.to)) / WIDTH) * 100 + '%',
          }"
        />
        <p v-if="!dragged" class="bounds" :style="place(w)" :title="w.account.words">
          <span
            >{{ w.outside ? 'outside: ' : ''
            }}{{ w.from === undefined ? 'no start' : 'from ' + bound(w.from) }}</span
          >{{ ' ' }}<span>{{ w.to === undefined ? 'no end' : 'up to, not including, ' + bound(w.to) }}</span>
        </p>
      </div>
      <p v-if="dragged" class="bounds">
        {{ dragged.words || 'Draw, or click, to the other end of the window.' }}
      </p>
      <p v-else-if="!inSight.length" class="bounds still">
        {{
          buckets.length
            ? `${when(start)} to ${when(end - 1)} · draw over the bars, or click both ends, to make a window`
            : drawn
              ? 'No record that fits has a date here.'
              : ' '
        }}
      </p>
    </div>
  </figure>
</template>

<style scoped>
.rail {
  margin: 2px 0 10px;
  border-top: 1px solid var(--rule);
  padding-top: 4px;
}

/* Above the drawing, so that nothing of what is pressed here is covered by it. */
.head {
  position: relative;
  z-index: 1;
  display: flex;
  align-items: baseline;
  gap: 10px;
  font-size: 13.5px;
  color: var(--ink-2);
}

.head select {
  border: 0;
  background-color: transparent;
  background-position: right 2px center;
  color: var(--ink);
  font: 600 13.5px var(--sans);
  padding: 2px 18px 2px 0;
  cursor: pointer;
  max-width: 160px;
}

.head .word {
  font-weight: 400;
  padding: 2px 0;
  min-height: 24px;
}

.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0 10px;
  margin-left: auto;
}

.alert {
  color: var(--alert);
}

.drawing {
  position: relative;
  margin-top: 2px;
}

svg {
  display: block;
  width: 100%;
  height: 44px;
  touch-action: none;
  cursor: crosshair;
}

.ground {
  fill: transparent;
}

.bar {
  fill: var(--bar-out);
}

.bar.in {
  fill: var(--time-bar);
}

.waiting svg {
  opacity: 0.55;
}

.floor {
  stroke: var(--rule-strong);
  stroke-width: 1;
  vector-effect: non-scaling-stroke;
}

.dragged {
  fill: var(--time-line);
  opacity: 0.3;
}

.now {
  position: absolute;
  top: -2px;
  bottom: -4px;
  border-left: 1.5px dashed var(--ink);
  pointer-events: none;
  z-index: 1;
}

.now span {
  position: absolute;
  top: -3px;
  left: 4px;
  font-size: 12.5px;
  line-height: 1;
  background: var(--page);
  padding: 0 2px;
}

.now .leftwards {
  left: auto;
  right: 4px;
}

.handle {
  position: absolute;
  top: 0;
  bottom: -9px;
  width: 12px;
  margin-left: -6px;
  cursor: ew-resize;
  touch-action: none;
}

.marks {
  min-height: calc(var(--windows) * 26px);
}

.window {
  position: relative;
  padding-top: 9px;
}

.line {
  position: absolute;
  top: 5px;
  height: 0;
  border-top: 2px solid var(--time-line);
}

.line.outside {
  border-top-style: dotted;
}

.line.begins::before,
.line.ends::after {
  content: '';
  position: absolute;
  top: -6px;
  height: 8px;
  border-left: 2px solid var(--time-line);
}

.line.begins::before {
  left: 0;
}

.line.ends::after {
  right: 0;
}

.bounds {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  color: var(--time);
  font-size: 13px;
  line-height: 17px;
  white-space: nowrap;
}

.bounds.still {
  padding-top: 5px;
  color: var(--ink-2);
}

/* On a narrow page the words of a window stand below the rail, not under their place. */
@media (max-width: 560px) {
  .bounds {
    margin-inline: 0 !important;
    flex-wrap: wrap;
    justify-content: flex-start !important;
    gap: 0 8px;
  }

  .head {
    flex-wrap: wrap;
    gap: 0 10px;
  }

  .head .word {
    white-space: nowrap;
  }
}
</style>
