<script setup lang="ts">
import { isNumeric } from '@/platform/format'
import { computed, ref, watch } from 'vue'
import type { FieldDescription, Register } from '@/api/client'
import {
  CHART_WORDS,
  EARLIER,
  figureWords,
  groupable,
  levelWords,
  MOST_FIGURES,
  MOST_GROUPS,
  MOST_ROWS,
  percentOf,
  runs,
  sameFigure,
  waysToGroup,
  withoutMade,
  type By,
  type ChartKind,
  type Figure,
  type Grouping,
  type Part,
  type Shape,
  type Totals,
} from './shape'

const props = defineProps<{ register: Register; shape: Shape; order: string[] }>()
const emit = defineEmits<{ shape: [shape: Shape]; order: [order: string[], shape: Shape] }>()

const groups = computed(() => props.shape.groups ?? [])
/** What is made of a field already, in rows and across. */
const used = (key: string, but?: Grouping) =>
  [...groups.value, ...(totals.value?.across ? [totals.value.across] : [])]
    .filter((g) => g !== but && g.field === key)
    .map((g) => g.by ?? waysToGroup(fieldOf(g))[0]!)
/** What groups of a field can still be: a date can be years in the rows and months across. */
const unused = (f: FieldDescription, but?: Grouping) =>
  waysToGroup(f).filter((by) => !used(f.key, but).includes(by))
const free = computed(() =>
  props.register.fields
    .filter((f) => groupable(f) && !f.identifying && (totals.value ? unused(f).length : !used(f.key).length))
    .sort((a, b) => Number(b.useful) - Number(a.useful)),
)
const figures = computed(() => props.shape.measures ?? [])
const fieldOf = (g: Grouping): FieldDescription => props.register.fields.find((f) => f.key === g.field)!
const amount = computed(() => props.register.fields.find((f) => f.key === props.register.running))
const date = computed(() => props.register.fields.find((f) => f.key === props.register.mainField))

function change(parts: Partial<Shape>) {
  emit('shape', { ...props.shape, ...parts })
}
const totals = computed(() => props.shape.totals)
const changeTotals = (parts: Totals) => change({ totals: withoutMade({ ...totals.value, ...parts }) })
/** The fields that can lie across, that which does among them. */
const beside = computed(() =>
  props.register.fields
    .filter((f) => groupable(f) && !f.identifying && unused(f, across.value).length)
    .sort((a, b) => Number(b.useful) - Number(a.useful)),
)
const across = computed(() => totals.value?.across ?? undefined)
/** Whether a question of the register can have a window that there is one before. */
const hasWindows = computed(() => props.register.fields.some((f) => f.type === 'date' || f.type === 'moment'))
function lay(key: string) {
  const field = props.register.fields.find((f) => f.key === key)
  changeTotals({
    across: field ? { field: key, by: unused(field, across.value)[0]! } : undefined,
    // A change is against the column before.
    changes: field ? totals.value?.changes : undefined,
  })
}
const draw = (kind: string) =>
  changeTotals({
    chart: kind ? { ...totals.value?.chart, kind: kind as ChartKind } : undefined,
  })
const setGroups = (list: Grouping[]) =>
  change({
    groups: list,
    marked: undefined,
    // Where there are no rows there are none to leave out.
    ...(totals.value && !list.length
      ? { totals: { ...totals.value, keep: undefined, limit: undefined } }
      : {}),
  })
/** A whole number from 1 to a thousand, or nothing for all; anything else leaves it as it was. */
function setLimit(box: HTMLInputElement) {
  if (box.validity.valid) changeTotals({ limit: box.value ? box.valueAsNumber : undefined })
  else box.value = String(totals.value?.limit ?? '')
}
function addGroup(key: string) {
  if (!key) return
  const by = unused(props.register.fields.find((f) => f.key === key)!)[0]!
  setGroups([...groups.value, { field: key, by }])
}
const setGroup = (at: number, parts: Partial<Grouping>) =>
  setGroups(groups.value.map((g, i) => (i === at ? { ...g, ...parts } : g)))

// ------------------------------------------------------------------ figures

/** In the place of a field: the records themselves. No field is called so. */
const RECORDS = '*'

const isTaken = (figure: Figure, but?: Figure) =>
  figures.value.some((m) => m !== but && sameFigure(m, figure))
/** The fields of which there is another figure, those that people look at first. */
const measurable = computed(() =>
  props.register.fields
    .filter((f) => f.measures.some((m) => !isTaken({ function: m.function, field: f.key })))
    .sort((a, b) => Number(isNumeric(b)) - Number(isNumeric(a)) || Number(b.useful) - Number(a.useful)),
)
const labelOf = (figure: Figure) =>
  props.register.fields.find((f) => f.key === figure.field)?.label ?? 'records'
/** The order of rows by a figure goes with the figure. */
const setFigures = (list: Figure[]) =>
  change({ measures: list, ...(totals.value ? { totals: { ...totals.value, order: undefined } } : {}) })
const countsRecords = computed(() => figures.value.some((m) => m.function === 'count'))
function addFigure(key: string) {
  if (key === RECORDS) {
    setFigures([...figures.value, { function: 'count' }])
    return
  }
  const next = props.register.fields
    .find((f) => f.key === key)
    ?.measures.find((m) => !isTaken({ function: m.function, field: key }))
  if (next) setFigures([...figures.value, { function: next.function, field: key }])
}
const setFigure = (at: number, does: Figure['function']) =>
  setFigures(figures.value.map((m, i) => (i === at ? { function: does, field: m.field } : m)))
const waysToMeasure = (figure: Figure) =>
  (props.register.fields.find((f) => f.key === figure.field)?.measures ?? []).filter(
    (m) => m.function === figure.function || !isTaken({ function: m.function, field: figure.field }, figure),
  )
/** A whole number from 1 to 99 that no other figure of the field has; anything else leaves it as it was. */
function setPercent(at: number, box: HTMLInputElement) {
  const figure = { ...figures.value[at]!, percent: box.valueAsNumber }
  if (box.validity.valid && !isTaken(figure, figures.value[at]))
    setFigures(figures.value.map((m, i) => (i === at ? figure : m)))
  else box.value = String(percentOf(figures.value[at]!))
}

// ------------------------------------------------------------------ which of them

type Which = 'all' | 'first' | 'rows' | 'sample' | 'marked'
const which = computed<Which>(() =>
  props.shape.marked
    ? 'marked'
    : !props.shape.take
      ? 'all'
      : props.shape.take.sample
        ? 'sample'
        : props.shape.take.first
          ? 'first'
          : 'rows',
)
const first = ref(100)
const from = ref(101)
const to = ref(200)
const sample = ref(50)
watch(
  () => props.shape.take,
  (take) => {
    if (take?.first) first.value = take.first
    if (take?.from) from.value = take.from
    if (take?.to) to.value = take.to
    if (take?.sample) sample.value = take.sample
  },
  { immediate: true },
)
const whole = (n: unknown, most: number) => Math.max(1, Math.min(most, Math.round(Number(n)) || 1))
function choose(what: Which, seed?: number) {
  if (what === 'marked') {
    change({ marked: true, take: undefined, groups: undefined, running: undefined })
    return
  }
  const parts: Record<string, Part | undefined> = {
    all: undefined,
    first: { first: whole(first.value, 1_000_000) },
    rows: {
      from: whole(from.value, 1_000_000),
      to: Math.max(whole(from.value, 1_000_000), whole(to.value, 1_000_000)),
    },
    sample: { sample: whole(sample.value, 100_000), seed: seed ?? props.shape.take?.seed ?? 1 },
  }
  change({
    take: parts[what],
    marked: undefined,
    running: what === 'all' ? props.shape.running : undefined,
  })
}
const again = () => choose('sample', (props.shape.take?.seed ?? 1) + 1)

// ------------------------------------------------------------------ running

function run(value: string) {
  const running = (value || undefined) as Shape['running']
  const shape = { ...props.shape, running, ...(running ? { take: undefined, marked: undefined } : {}) }
  if (running && !runs(props.register, props.order)) emit('order', [props.register.mainField!], shape)
  else emit('shape', shape)
}
</script>

<template>
  <div class="shown-panel">
    <fieldset v-if="!totals">
      <legend>Show</legend>
      <label
        ><input type="radio" name="which" :checked="which === 'all'" @change="choose('all')" /> every
        match</label
      >
      <label>
        <input type="radio" name="which" :checked="which === 'first'" @change="choose('first')" /> the first
        <input
          v-model="first"
          class="field short"
          type="number"
          min="1"
          aria-label="How many of the first"
          @change="choose('first')"
        />
      </label>
      <label>
        <input type="radio" name="which" :checked="which === 'rows'" @change="choose('rows')" /> rows
        <input
          v-model="from"
          class="field short"
          type="number"
          min="1"
          aria-label="From row"
          @change="choose('rows')"
        />
        to
        <input
          v-model="to"
          class="field short"
          type="number"
          min="1"
          aria-label="To row"
          @change="choose('rows')"
        />
      </label>
      <label>
        <input type="radio" name="which" :checked="which === 'sample'" @change="choose('sample')" />
        <input
          v-model="sample"
          class="field short"
          type="number"
          min="1"
          aria-label="How many at random"
          @change="choose('sample')"
        />
        picked at random
        <button v-if="which === 'sample'" type="button" class="word" @click="again">pick others</button>
      </label>
      <label>
        <input type="radio" name="which" :checked="which === 'marked'" @change="choose('marked')" /> every
        record, matches marked
      </label>
    </fieldset>

    <fieldset>
      <legend>{{ totals ? 'Rows' : 'In groups' }}</legend>
      <ol v-if="groups.length">
        <li v-for="(g, i) in groups" :key="`${g.field} ${g.by}`">
          <span class="name">{{ i ? 'then ' : '' }}{{ levelWords(register, g) }}</span>
          <select
            v-if="unused(fieldOf(g), g).length > 1"
            class="field"
            :aria-label="`Groups of ${fieldOf(g).label} by`"
            :value="g.by ?? waysToGroup(fieldOf(g))[0]"
            @change="setGroup(i, { by: ($event.target as HTMLSelectElement).value as By })"
          >
            <option v-for="by in unused(fieldOf(g), g)" :key="by" :value="by">{{ by }}</option>
          </select>
          <select
            class="field"
            :aria-label="`Order of the ${totals ? 'rows' : 'groups'} of ${fieldOf(g).label}`"
            :value="g.arranged ?? 'ascending'"
            @change="
              setGroup(i, { arranged: ($event.target as HTMLSelectElement).value as Grouping['arranged'] })
            "
          >
            <option value="ascending">in order</option>
            <option value="descending">last first</option>
            <option value="largest">largest first</option>
          </select>
          <button
            type="button"
            class="word"
            :aria-label="`remove the ${totals ? 'rows' : 'groups'} by ${fieldOf(g).label}`"
            @click="setGroups(groups.filter((_, j) => j !== i))"
          >
            remove
          </button>
        </li>
      </ol>
      <select
        v-if="groups.length < MOST_GROUPS"
        class="field"
        value=""
        :aria-label="totals ? 'Rows by' : 'Group by'"
        @change="
          (addGroup(($event.target as HTMLSelectElement).value),
          (($event.target as HTMLSelectElement).value = ''))
        "
      >
        <option value="">{{ groups.length ? 'then by…' : 'by…' }}</option>
        <option v-for="f in free" :key="f.key" :value="f.key">{{ f.label }}</option>
      </select>
      <p v-if="!totals" class="hint">Groups change nothing about which records match.</p>
      <label v-if="totals && groups.length">
        <input
          type="checkbox"
          :checked="totals.empties !== false"
          @change="changeTotals({ empties: totals.empties === false ? undefined : false })"
        />
        periods without records too
      </label>
      <label v-if="totals && groups.length">
        only the first
        <input
          class="field short"
          type="number"
          min="1"
          :max="MOST_ROWS"
          step="1"
          placeholder="all"
          aria-label="How many of the first rows"
          :value="totals.limit ?? ''"
          @change="setLimit($event.target as HTMLInputElement)"
        />
        {{ groups.length > 1 ? `of ${levelWords(register, groups[0]!)}` : 'rows' }}, in their order
      </label>
    </fieldset>

    <fieldset v-if="totals">
      <legend>Across</legend>
      <div class="row">
        <select
          class="field"
          aria-label="Columns by"
          :value="across?.field ?? ''"
          @change="lay(($event.target as HTMLSelectElement).value)"
        >
          <option value="">nothing: one column for each figure</option>
          <option v-for="f in beside" :key="f.key" :value="f.key">{{ f.label }}</option>
        </select>
        <select
          v-if="across && unused(fieldOf(across), across).length > 1"
          class="field"
          :aria-label="`Columns of ${fieldOf(across).label} by`"
          :value="across.by ?? waysToGroup(fieldOf(across))[0]"
          @change="
            changeTotals({ across: { ...across, by: ($event.target as HTMLSelectElement).value as By } })
          "
        >
          <option v-for="by in unused(fieldOf(across), across)" :key="by" :value="by">{{ by }}</option>
        </select>
        <select
          v-if="across"
          class="field"
          :aria-label="`Order of the columns of ${fieldOf(across).label}`"
          :value="across.arranged ?? 'ascending'"
          @change="
            changeTotals({
              across: {
                ...across,
                arranged: ($event.target as HTMLSelectElement).value as Grouping['arranged'],
              },
            })
          "
        >
          <option value="ascending">in order</option>
          <option value="descending">last first</option>
          <option value="largest">largest first</option>
        </select>
      </div>
    </fieldset>

    <fieldset>
      <legend>Figures</legend>
      <ol v-if="figures.length">
        <li v-for="(m, i) in figures" :key="i">
          <select
            v-if="waysToMeasure(m).length > 1"
            class="field"
            :aria-label="`What of ${labelOf(m)}`"
            :value="m.function"
            @change="setFigure(i, ($event.target as HTMLSelectElement).value as Figure['function'])"
          >
            <option v-for="way in waysToMeasure(m)" :key="way.function" :value="way.function">
              {{ way.words }}
            </option>
          </select>
          <input
            v-if="percentOf(m)"
            class="field percent"
            type="number"
            min="1"
            max="99"
            required
            :aria-label="`Which percentile of ${labelOf(m)}, from 1 to 99`"
            :value="percentOf(m)"
            @change="setPercent(i, $event.target as HTMLInputElement)"
          />
          <span class="name">{{ waysToMeasure(m).length > 1 ? labelOf(m) : figureWords(register, m) }}</span>
          <button
            type="button"
            class="word"
            :aria-label="`remove ${figureWords(register, m)}`"
            @click="setFigures(figures.filter((_, j) => j !== i))"
          >
            remove
          </button>
        </li>
      </ol>
      <select
        v-if="(measurable.length || (totals && !countsRecords)) && figures.length < MOST_FIGURES"
        class="field"
        value=""
        aria-label="Figure of"
        @change="
          (addFigure(($event.target as HTMLSelectElement).value),
          (($event.target as HTMLSelectElement).value = ''))
        "
      >
        <option value="">{{ figures.length ? 'and of…' : 'of…' }}</option>
        <option v-if="totals && !countsRecords" :value="RECORDS">the number of records</option>
        <option v-for="f in measurable" :key="f.key" :value="f.key">{{ f.label }}</option>
      </select>
      <label v-if="totals">
        <input
          type="checkbox"
          :checked="totals.shares === true"
          @change="changeTotals({ shares: !totals.shares || undefined })"
        />
        numbers and sums as shares of the total too
      </label>
      <label v-if="across">
        <input
          type="checkbox"
          :checked="totals?.changes === true"
          @change="changeTotals({ changes: !totals?.changes || undefined })"
        />
        change against the column before too
      </label>
      <p v-if="totals && !figures.length && !totals.balances" class="hint">
        Without a choice: the number of records.
      </p>
      <p v-else-if="!totals" class="hint">
        {{
          groups.length
            ? 'Of each group, and of all records together on the last line.'
            : 'Of all records together, on the last line.'
        }}
        Records without a value count for nothing.
      </p>
    </fieldset>

    <fieldset v-if="totals">
      <legend>Chart</legend>
      <select
        class="field"
        aria-label="Chart above the table"
        :value="totals.chart?.kind ?? ''"
        @change="draw(($event.target as HTMLSelectElement).value)"
      >
        <option value="">none</option>
        <option v-for="(words, kind) in CHART_WORDS" :key="kind" :value="kind">{{ words }}</option>
      </select>
    </fieldset>

    <fieldset v-if="totals && amount && date">
      <legend>Balances of {{ amount.label }}</legend>
      <select
        class="field"
        :aria-label="`Balances of ${amount.label}`"
        :value="totals.balances ?? ''"
        @change="
          changeTotals({
            balances: (($event.target as HTMLSelectElement).value || undefined) as Totals['balances'],
            // Balances say themselves what was before.
            compare: undefined,
          })
        "
      >
        <option value="">none</option>
        <option value="beginning">opening with everything before the window</option>
        <option value="zero">opening with zero</option>
      </select>
      <p v-if="totals.balances" class="hint">
        By {{ date.label }}. Periods of it come last among the rows, or across.
      </p>
    </fieldset>

    <fieldset v-if="totals && hasWindows && !totals.balances">
      <legend>Beside</legend>
      <select
        class="field"
        aria-label="Compare with"
        :value="totals.compare ?? ''"
        @change="
          changeTotals({
            compare: (($event.target as HTMLSelectElement).value || undefined) as Totals['compare'],
          })
        "
      >
        <option value="">nothing earlier</option>
        <option v-for="(words, with_) in EARLIER" :key="with_" :value="with_">{{ words }}</option>
      </select>
    </fieldset>

    <fieldset v-if="amount && date && !totals">
      <legend>Running {{ amount.label.toLowerCase() }}</legend>
      <select
        class="field"
        :aria-label="`Running ${amount.label}`"
        :value="shape.running ?? ''"
        @change="run(($event.target as HTMLSelectElement).value)"
      >
        <option value="">not shown</option>
        <option value="beginning">from the beginning: what came before the first record counts</option>
        <option value="zero">from zero</option>
      </select>
      <p class="hint">Added up in the order of {{ date.label.toLowerCase() }}.</p>
    </fieldset>

    <fieldset v-if="!totals">
      <legend>Lines</legend>
      <div class="row">
        <label v-for="d in ['close', 'usual', 'open'] as const" :key="d">
          <input
            type="radio"
            name="density"
            :checked="(shape.density ?? 'usual') === d"
            @change="change({ density: d === 'usual' ? undefined : d })"
          />
          {{ d }}
        </label>
        <label>
          <input
            type="checkbox"
            :checked="shape.wrap === true"
            @change="change({ wrap: !shape.wrap || undefined })"
          />
          long texts in full
        </label>
      </div>
    </fieldset>
  </div>
</template>

<style scoped>
.shown-panel {
  display: grid;
  gap: 12px;
  max-height: 72vh;
  overflow: auto;
}

fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  min-width: 0;
  display: grid;
  gap: 4px;
}

legend {
  font-weight: 600;
  padding: 0;
  margin-bottom: 3px;
}

label {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  min-height: 26px;
}

.percent {
  width: 58px;
  padding-inline: 7px 2px;
}

.short {
  width: 86px;
}

ol {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: flex;
  gap: 6px;
  align-items: center;
  flex-wrap: wrap;
  padding: 2px 0;
}

li .field {
  width: auto;
  max-width: 160px;
}

.name {
  flex: 1;
  min-width: 90px;
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
}

.hint {
  color: var(--ink-2);
  font-size: 13.5px;
}
</style>
