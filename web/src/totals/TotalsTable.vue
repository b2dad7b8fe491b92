<script setup lang="ts">
import { defaultRangeExtractor, useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch } from 'vue'
import type { Register } from '@/api/client'
import { number } from '@/platform/format'
import { leftOutWords, levelWords, type Shape } from '@/rows/shape'
import {
  columnId,
  figureHead,
  figuresOf,
  keyWords,
  isMade,
  linesOf,
  opens,
  placeOf,
  totalLines,
  totalText,
  type Key,
  type Place,
  type TotalsAnswer,
  type TotalsFigure,
  type TotalsLine,
} from './sheet'

/** Totals as a table: a line for each row, a column for each figure; every figure opens its records. */
const props = defineProps<{
  register: Register
  answer: TotalsAnswer
  shape: Shape
  zone: string
  waiting: boolean
  scroller?: HTMLElement
}>()
const emit = defineEmits<{ open: [place: Place]; order: [name: string | undefined]; all: [] }>()

const lines = computed(() => linesOf(props.register, props.shape, props.answer, props.zone))
const totals = computed(() => totalLines(props.answer))
const across = computed(() => props.shape.totals?.across)
const deepest = computed(() => (props.shape.groups?.length ?? 0) - 1)

/** One column of figures: what lies across, absent for all of it, and the figure. */
interface Column {
  key?: Key
  figure: TotalsFigure
}
const columns = computed<Column[]>(() => [
  ...props.answer.columns.flatMap((key) => figuresOf(props.answer, key).map((figure) => ({ key, figure }))),
  ...figuresOf(props.answer).map((figure) => ({ figure })),
])
/** Whether the figures need a line of heads of their own. */
const twoLines = computed(() => props.answer.columns.length > 0 && props.answer.figures.length > 1)
const columnWords = (key: Key) => keyWords(props.register, across.value!, key, props.zone)
const rowsHead = computed(
  () => (props.shape.groups ?? []).map((g) => levelWords(props.register, g)).join(', then ') || 'All records',
)
const acrossHead = computed(() => (across.value ? levelWords(props.register, across.value) : ''))
/** The one figure, where the heads are taken by what lies across. */
const only = computed(() =>
  props.answer.columns.length && !twoLines.value ? props.answer.figures[0]?.label : '',
)

const head = (figure: TotalsFigure) => figureHead(figure, props.shape.totals?.compare)
const leftOut = computed(() => leftOutWords(props.register, props.answer.leftOut))

const rowOf = (line: TotalsLine, column: Column) =>
  column.key ? line.cells.get(columnId(column.key)) : line.own
const text = (line: TotalsLine, column: Column) =>
  totalText(props.register, column.figure, rowOf(line, column), props.zone)
/** How a figure looks: what opens nothing is pale, unless it is made of others. */
const looks = (line: TotalsLine, column: Column) => {
  const made = isMade(column.figure)
  return {
    own: props.answer.columns.length && !column.key,
    none: !made && !opens(column.figure, rowOf(line, column)),
    made,
    first: column.figure === props.answer.figures[0],
  }
}

// ------------------------------------------------------------------ order

const sorted = (figure: TotalsFigure): 'ascending' | 'descending' | 'none' => {
  const order = props.shape.totals?.order
  return order === figure.name ? 'ascending' : order === '-' + figure.name ? 'descending' : 'none'
}
/** The greatest first, then the least, then as the rows are arranged. */
function orderBy(figure: TotalsFigure) {
  const now = sorted(figure)
  emit('order', now === 'none' ? '-' + figure.name : now === 'descending' ? figure.name : undefined)
}

// ------------------------------------------------------------------ drawing only what is in sight

const HEIGHT = 31
const all = computed(() => [...lines.value, ...totals.value])
/** The cell with the table's one Tab stop. */
const at = ref({ line: 0, column: 0 })
const root = ref<HTMLElement>()
/** Where the lines begin in what is scrolled, in pixels. */
const top = ref(0)
const virtualizer = useVirtualizer(
  computed(() => ({
    count: lines.value.length,
    getScrollElement: () => props.scroller ?? null,
    estimateSize: () => HEIGHT,
    overscan: 12,
    scrollMargin: top.value,
    getItemKey: (index: number) => lines.value[index]?.key ?? index,
    // The line with the Tab stop is drawn however far away it is, so that the keys are never lost.
    rangeExtractor: (range: Parameters<typeof defaultRangeExtractor>[0]) => {
      const inSight = defaultRangeExtractor(range)
      const kept = at.value.line
      return inSight.includes(kept) || kept >= range.count
        ? inSight
        : [...inSight, kept].sort((a, b) => a - b)
    },
  })),
)
watch(
  [() => props.answer, root],
  async () => {
    await nextTick()
    if (root.value && props.scroller)
      top.value =
        root.value.getBoundingClientRect().top -
        props.scroller.getBoundingClientRect().top +
        props.scroller.scrollTop
  },
  { immediate: true },
)
/** The lines that are drawn, each with the room that those before it take which are not. */
const drawn = computed(() => {
  let end = top.value
  return virtualizer.value.getVirtualItems().map((item) => {
    const gap = item.start - end
    end = item.end
    return { ...item, gap }
  })
})
const after = computed(() =>
  Math.max(0, virtualizer.value.getTotalSize() - ((drawn.value.at(-1)?.end ?? top.value) - top.value)),
)

// ------------------------------------------------------------------ the keys

watch(all, (now) => {
  if (at.value.line >= now.length) at.value = { line: 0, column: 0 }
})
watch(columns, (now) => {
  if (at.value.column >= now.length) at.value.column = Math.max(0, now.length - 1)
})
const PAGE = 15
async function goTo(line: number, column: number) {
  at.value = {
    line: Math.max(0, Math.min(all.value.length - 1, line)),
    column: Math.max(0, Math.min(columns.value.length - 1, column)),
  }
  if (at.value.line < lines.value.length) virtualizer.value.scrollToIndex(at.value.line)
  await focus()
}
/** Puts the keys where they were last, or to a button of the heads. */
async function focus(stop?: string) {
  const head = stop && root.value?.querySelector<HTMLElement>(`thead [data-stop="${CSS.escape(stop)}"]`)
  if (head) return head.focus()
  for (let frames = 0; frames < 30; frames++) {
    await nextTick()
    const cell = root.value?.querySelector<HTMLElement>(
      `[data-line="${at.value.line}"] [data-column="${at.value.column}"]`,
    )
    if (cell) return cell.focus()
    await new Promise(requestAnimationFrame)
  }
}
function keys(event: KeyboardEvent) {
  if (event.altKey || event.metaKey) return
  const { line, column } = at.value
  const last = columns.value.length - 1
  const moves: Record<string, [number, number]> = {
    ArrowDown: [line + 1, column],
    ArrowUp: [line - 1, column],
    ArrowRight: [line, column + 1],
    ArrowLeft: [line, column - 1],
    PageDown: [line + PAGE, column],
    PageUp: [line - PAGE, column],
    Home: event.ctrlKey ? [0, 0] : [line, 0],
    End: event.ctrlKey ? [all.value.length - 1, last] : [line, last],
  }
  const to = moves[event.key]
  if (to) {
    event.preventDefault()
    void goTo(...to)
  } else if ((event.key === 'Enter' || event.key === ' ') && !event.ctrlKey) {
    event.preventDefault()
    press(all.value[line]!, columns.value[column]!)
  }
}
function press(line: TotalsLine, column: Column) {
  if (!props.waiting && opens(column.figure, rowOf(line, column)))
    emit('open', placeOf(line, column.figure, column.key))
}
defineExpose({ focus })
</script>

<template>
  <div ref="root" class="totals" :class="{ waiting }">
    <table
      role="grid"
      :aria-label="`Totals of ${register.label}`"
      :aria-rowcount="all.length + (twoLines ? 2 : 1)"
      :aria-busy="waiting"
    >
      <thead>
        <tr v-if="twoLines" class="across">
          <th scope="col" class="label">{{ acrossHead }}</th>
          <th
            v-for="key in answer.columns"
            :key="columnId(key)"
            scope="colgroup"
            :colspan="figuresOf(answer, key).length"
          >
            <span>{{ columnWords(key) }}</span>
          </th>
          <th scope="colgroup" class="own" :colspan="figuresOf(answer).length"><span>All</span></th>
        </tr>
        <tr :class="{ second: twoLines }">
          <th scope="col" class="label">
            <span>{{ rowsHead }}</span><span v-if="only" class="only">{{ only }}</span>
          </th>
          <th
            v-for="(c, i) in columns"
            :key="i"
            scope="col"
            class="numeric"
            :class="{ own: answer.columns.length && !c.key, first: c.figure === answer.figures[0] }"
            :aria-sort="c.key ? undefined : sorted(c.figure)"
          >
            <template v-if="c.key"
              ><span>{{ twoLines ? head(c.figure) : columnWords(c.key) }}</span></template
            >
            <button
              v-else
              type="button"
              :data-stop="c.figure.name"
              :title="`Order the rows by ${c.figure.label}`"
              @click="orderBy(c.figure)"
            >
              {{ answer.columns.length && !twoLines ? 'All' : head(c.figure)
              }}<span v-if="sorted(c.figure) !== 'none'" class="arrow" aria-hidden="true">{{
                sorted(c.figure) === 'descending' ? '↓' : '↑'
              }}</span>
            </button>
          </th>
        </tr>
      </thead>
      <tbody :inert="waiting || undefined" @keydown="keys">
        <template v-for="item in drawn" :key="lines[item.index]!.key">
          <tr v-if="item.gap > 0" aria-hidden="true" class="spacer" :style="{ height: item.gap + 'px' }" />
          <tr
            :data-line="item.index"
            :aria-rowindex="item.index + (twoLines ? 3 : 2)"
            :aria-level="deepest > 0 ? lines[item.index]!.depth + 1 : undefined"
            :class="{ above: lines[item.index]!.depth < deepest }"
          >
            <th
              scope="row"
              class="label"
              :style="{ paddingLeft: 6 + lines[item.index]!.depth * 18 + 'px' }"
              :title="lines[item.index]!.words"
            >
              {{ lines[item.index]!.words }}
            </th>
            <td
              v-for="(c, i) in columns"
              :key="i"
              :data-column="i"
              :tabindex="item.index === at.line && i === at.column ? 0 : -1"
              :class="looks(lines[item.index]!, c)"
              @focus="at = { line: item.index, column: i }"
              @click="press(lines[item.index]!, c)"
            >
              {{ text(lines[item.index]!, c) }}
            </td>
          </tr>
        </template>
        <tr v-if="after > 0" aria-hidden="true" class="spacer" :style="{ height: after + 'px' }" />
      </tbody>
      <tfoot :inert="waiting || undefined" @keydown="keys">
        <tr
          v-for="(line, n) in totals"
          :key="line.key"
          :data-line="lines.length + n"
          :aria-rowindex="lines.length + n + (twoLines ? 3 : 2)"
        >
          <th scope="row" class="label">{{ line.words }}</th>
          <td
            v-for="(c, i) in columns"
            :key="i"
            :data-column="i"
            :tabindex="lines.length + n === at.line && i === at.column ? 0 : -1"
            :class="looks(line, c)"
            @focus="at = { line: lines.length + n, column: i }"
            @click="press(line, c)"
          >
            {{ text(line, c) }}
          </td>
        </tr>
      </tfoot>
    </table>
    <p v-if="answer.outermost" class="first-rows">
      The first {{ number(answer.outermost.shown) }} of {{ number(answer.outermost.all) }} rows by
      {{ levelWords(register, shape.groups![0]!) }}.
      <button type="button" class="word" @click="emit('all')">
        show all {{ number(answer.outermost.all) }}
      </button>
    </p>
    <p v-for="note in leftOut" :key="note" class="left-out">{{ note }}.</p>
  </div>
</template>

<style scoped>
.totals {
  width: fit-content;
  min-width: 460px;
  max-width: none;
  background: var(--card);
  border-top: 1px solid var(--rule-strong);
  border-right: 1px solid var(--rule);
}

.totals.waiting tbody,
.totals.waiting tfoot {
  opacity: 0.45;
}

table {
  border-collapse: separate;
  border-spacing: 0;
  width: 100%;
}

thead th {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--head);
  border-bottom: 1px solid var(--rule-strong);
  padding: 5px 10px;
  height: 31px;
  font-weight: 600;
  text-align: right;
  white-space: nowrap;
}

thead .across th {
  border-bottom: 1px solid var(--rule);
  text-align: left;
}

thead .across th:not(.label) {
  border-left: 1px solid var(--rule);
}

thead .second th {
  top: 31px;
  font-weight: 400;
}

/* Clear of the heads and of the totals, which stay in sight. */
thead th button,
tbody td {
  scroll-margin: 66px 0 70px;
}

thead th button {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  font-weight: 600;
  cursor: pointer;
}

thead th button:hover {
  color: var(--act);
}

.arrow {
  padding-left: 5px;
}

.label {
  position: sticky;
  left: 0;
  z-index: 1;
  background: inherit;
  text-align: left;
  font-weight: 400;
  padding: 0 14px 0 6px;
  max-width: 340px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: pre;
}

thead .label {
  z-index: 3;
  text-align: left;
  background: var(--head);
  font-weight: 600;
}

/* Which figure it is, where the heads are taken. */
.only {
  padding-left: 12px;
  font-weight: 400;
  color: var(--ink-2);
}

tbody tr:not(.spacer),
tfoot tr {
  background: var(--card);
}

tbody th,
tbody td,
tfoot th,
tfoot td {
  height: 31px;
  border-bottom: 1px solid var(--rule);
}

td {
  text-align: right;
  padding: 0 10px;
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
  cursor: pointer;
}

td.none {
  color: var(--ink-3);
  cursor: default;
}

td.made {
  color: var(--ink-2);
  cursor: default;
}

td.first,
th.first {
  border-left: 1px solid var(--rule);
}

td:not(.none, .made):hover {
  color: var(--act);
  background: var(--act-soft);
  text-decoration: underline;
}

td:focus-visible {
  outline: 2px solid var(--focus);
  outline-offset: -2px;
}

td.own {
  font-weight: 600;
}

tbody tr.above {
  background: var(--head);
}

tbody tr.above th,
tbody tr.above td {
  font-weight: 600;
}

tfoot {
  position: sticky;
  bottom: -30px;
  z-index: 2;
}

tfoot tr {
  background: var(--head);
}

tfoot th,
tfoot td {
  font-weight: 600;
}

tfoot tr:first-child th,
tfoot tr:first-child td {
  border-top: 1px solid var(--rule-strong);
}

.first-rows,
.left-out {
  position: sticky;
  left: 0;
  width: fit-content;
  max-width: calc(100vw - 24px);
  color: var(--ink-2);
  padding: 5px 6px;
}
</style>
