<script setup lang="ts">
import { defaultRangeExtractor, useVirtualizer } from '@tanstack/vue-virtual'
import { computed, onMounted, onUpdated, ref, watch } from 'vue'
import type { FieldDescription, Register, Row } from '@/api/client'
import { cell, figures, isNumeric } from '@/platform/format'
import { useSession } from '@/people/session'
import { directionIn, orderedBy, placeIn, type Direction } from './orders'
import type { Line } from './lines'
import { inColumns, MOST_FIGURES, underHead, type Figure, type Shape } from './shape'
import { narrow, offers, textOffers, type Offer } from '@/statements/narrowing'
import type { Change, Node } from '@/statements/tree'
import CellMenu from './CellMenu.vue'
import HeadPanel from './HeadPanel.vue'
import FigureLine from './FigureLine.vue'
import { MARK, RUNNING, useColumns } from './useColumns'
import { HEADS, useGrid } from './useGrid'
import type { Question } from './useRows'
import PanelButton from '@/platform/PanelButton.vue'

const props = defineProps<{
  register: Register
  columns: string[]
  order: string[]
  lines: Line[]
  shape: Shape
  total?: number
  /** what all records come to, where they are no groups; stays in sight at the bottom */
  whole?: Extract<Line, { kind: 'whole' }>
  done: boolean
  selected?: string
  /** fields that a criterion tests; those of dates are marked as time */
  tested: string[]
  scroller?: HTMLElement
  zone: string
  /** the statement as a tree, of which a head shows what is asked of its field */
  tree: Node
  question: Question
  /** whether these are the records of the question before, until those of this one come */
  waiting: boolean
}>()
const emit = defineEmits<{
  order: [order: string[]]
  shape: [shape: Shape]
  select: [id: string]
  more: []
  narrow: [change: Change]
  /** the next record that matches is wanted, or the one before */
  match: [by: 1 | -1]
  /** a criterion on the field is to be written in full */
  write: [field: string]
  /** how a field is calculated here is to be changed */
  calculate: [field: string]
}>()
const session = useSession()

const HEIGHTS = { close: 25, usual: 31, open: 41 }
const height = computed(() => HEIGHTS[props.shape.density ?? 'usual'])
const root = ref<HTMLElement>()
const offset = ref(0)

const {
  fields,
  head,
  running,
  marked,
  cells,
  width,
  wholeWidth,
  held,
  left,
  setWidth,
  pull,
  pulling,
  letGo,
  resizeByKey,
  resizeBy,
} = useColumns(
  props,
  (shape) => emit('shape', shape),
  (key) => longest.value.get(key) ?? 0,
)

const grid = useGrid(
  root,
  () => props.lines,
  () => fields.value.length,
  (index) => virtualizer.value.scrollToIndex(index),
  (index) => {
    const row = rowAt(index)
    // Whoever looks at a record goes from one to the next.
    if (row && props.selected !== undefined) emit('select', row.id)
  },
)
const { column } = grid

/** How many characters the longest number or figure of each column has, among the records and groups that are there. */
const longest = computed(() => {
  const numeric = props.register.fields.filter((f) => isNumeric(f) && props.columns.includes(f.key))
  const measured = inColumns(props.shape, fields.value)
  const found = new Map<string, number>()
  const needs = (key: string, characters: number) => found.set(key, Math.max(found.get(key) ?? 0, characters))
  for (const line of props.whole ? [...props.lines, props.whole] : props.lines) {
    if (line.kind === 'record')
      for (const f of numeric) {
        const value = line.row.values[f.key]
        if (value != null) needs(f.key, figures(value, f.type))
      }
    else if ('figures' in line)
      for (const [key, { figure, at }] of measured)
        needs(key, underHead(props.register, figure, line.figures[at], props.zone).length)
  }
  return found
})

const measuredOf = (key: string) =>
  (props.shape.measures ?? []).filter((m) => m.field === key).map((m) => m.function)
/** Shows a figure of a field, or no longer. */
function toggleFigure(field: string, does: Figure['function']) {
  const now = props.shape.measures ?? []
  const others = now.filter((m) => m.field !== field || m.function !== does)
  emit('shape', {
    ...props.shape,
    measures: others.length < now.length ? others : [...now, { function: does, field }],
  })
}

const virtualizer = useVirtualizer(
  computed(() => ({
    count: props.lines.length,
    getScrollElement: () => props.scroller ?? null,
    estimateSize: () => height.value,
    getItemKey: (index: number) => props.lines[index]?.key ?? index,
    overscan: 14,
    scrollMargin: offset.value,
    // The line with the Tab stop is drawn however far away it is, so that the keys are never lost.
    rangeExtractor: (range: Parameters<typeof defaultRangeExtractor>[0]) => {
      const drawn = defaultRangeExtractor(range)
      const kept = grid.stopLine.value
      return kept === HEADS || drawn.includes(kept) || kept >= range.count
        ? drawn
        : [...drawn, kept].sort((a, b) => a - b)
    },
  })),
)
/** Whether the lines of groups are as high as their words and figures take. */
const tall = computed(() => props.shape.wrap || (props.shape.measures?.length ?? 0) > 0)
watch([height, tall], () => virtualizer.value.measure())
/** Lines of several lines of text have heights of their own. */
const sized = (el: unknown) => {
  if (props.shape.wrap && el instanceof HTMLElement) virtualizer.value.measureElement(el)
}
const sizedLine = (line: unknown) => {
  const el = (line as { $el?: unknown } | null)?.$el
  if (tall.value && el instanceof HTMLElement) virtualizer.value.measureElement(el)
}
const items = computed(() =>
  virtualizer.value
    .getVirtualItems()
    .filter((item) => props.lines[item.index])
    .map((item, i, all) => ({
      ...item,
      line: props.lines[item.index]!,
      /** what is left free before it for lines that are not drawn, in pixels */
      gap: item.start - (all[i - 1]?.end ?? offset.value),
    })),
)
const after = computed(() => {
  const last = items.value.at(-1)
  return last ? virtualizer.value.getTotalSize() - (last.end - offset.value) : 0
})

function measure() {
  if (!root.value || !props.scroller) return
  const top =
    root.value.getBoundingClientRect().top -
    props.scroller.getBoundingClientRect().top +
    props.scroller.scrollTop
  if (Math.abs(top - offset.value) > 1) offset.value = top
}
onMounted(measure)
onUpdated(measure)

watch(
  () => items.value.at(-1)?.index ?? 0,
  (last) => {
    if (!props.done && last > props.lines.length - 40) emit('more')
  },
)

// ------------------------------------------------------------------ order

const sorted = (key: string) => directionIn(props.order, key)
function orderOf(field: FieldDescription, direction: Direction, beside: boolean) {
  opened.value = undefined
  emit('order', orderedBy(props.order, field.key, direction, beside))
}

/** A click orders by the column, again turns it round, again leaves it; with Shift it joins the order there is. */
function orderBy(field: FieldDescription, event: MouseEvent) {
  if (!field.orderable) return
  const now = sorted(field.key)
  orderOf(field, now === 'none' ? 'ascending' : now === 'ascending' ? 'descending' : 'none', event.shiftKey)
}

// ------------------------------------------------------------------ narrowing

/** The head whose panel is open. */
const opened = ref<string>()
interface Pointed {
  x: number
  y: number
  field: FieldDescription
  row: Row
  index: number
  offers: Offer[]
}
const pointed = ref<Pointed>()

function pointAt(field: FieldDescription, index: number, x: number, y: number, selected = '') {
  const row = rowAt(index)
  if (!row) return
  const value = row.values[field.key]
  const found = selected ? textOffers(field, String(value ?? ''), selected) : []
  pointed.value = {
    x,
    y,
    field,
    row,
    index,
    offers: found.length ? found : offers(field, value, props.zone, session.current?.weekStarts),
  }
  grid.take(index, fields.value.indexOf(field))
}
function take(offer: Offer) {
  pointed.value = undefined
  emit('narrow', (tree) => narrow(tree, offer.node))
}
function closeMenu() {
  pointed.value = undefined
  void grid.focus()
}
function openRecord() {
  const at = pointed.value
  pointed.value = undefined
  if (at) emit('select', at.row.id)
}
function context(event: MouseEvent, field: FieldDescription, index: number) {
  event.preventDefault()
  pointAt(field, index, event.clientX, event.clientY, selection(event))
}
/** What of the cell's text is selected, if anything is. */
function selection(event: MouseEvent): string {
  const selected = window.getSelection()
  const cell = (event.target as HTMLElement).closest('td')
  return selected && !selected.isCollapsed && cell?.contains(selected.anchorNode) ? selected.toString() : ''
}

/** The cell under the pointer, which shows how to narrow by it. */
const over = ref<{ field: FieldDescription; index: number; left: number; top: number }>()
function hover(event: MouseEvent, field: FieldDescription, index: number) {
  const cell = (event.target as HTMLElement).closest('td')!
  const box = root.value!.getBoundingClientRect()
  const place = cell.getBoundingClientRect()
  // Where the value is not: the last digits of a number must not be covered.
  const left = isNumeric(field) ? place.left + 2 : place.right - 26
  over.value = { field, index, left: left - box.left, top: place.top - box.top + 3 }
}
function byButton(event: MouseEvent) {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  if (over.value) pointAt(over.value.field, over.value.index, box.left, box.bottom + 2)
}

const rowAt = (index: number): Row | undefined => {
  const line = props.lines[index]
  return line?.kind === 'record' ? line.row : undefined
}

/** Goes to the next or the one before of the records that match, among all that are shown; says whether there is one. */
function toMatch(by: 1 | -1): boolean {
  const now = Math.max(0, grid.line.value)
  // Nobody has been in the records yet: the first of them may be the one.
  let at = grid.hasBegun() || by === -1 ? now + by : now
  while (rowAt(at) && rowAt(at)!.matches === false) at += by
  if (!rowAt(at)) return false
  grid.goTo(at)
  return true
}
defineExpose({ toMatch, focus: (stop?: string) => grid.focus(stop), table: () => root.value })

function keys(event: KeyboardEvent) {
  if (marked.value && event.shiftKey && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
    event.preventDefault()
    emit('match', event.key === 'ArrowDown' ? 1 : -1)
    return
  }
  if (grid.move(event)) return
  const inHeads = (event.target as HTMLElement).closest('thead') !== null
  if (inHeads) return
  if (event.key === 'Enter' || event.key === ' ') {
    event.preventDefault()
    activate(grid.line.value)
  } else if (event.key === 'm' || event.key === 'ContextMenu' || (event.key === 'F10' && event.shiftKey)) {
    event.preventDefault()
    event.stopPropagation()
    const field = fields.value[column.value]
    const box = (event.target as HTMLElement).closest('td[data-field]')?.getBoundingClientRect()
    if (field && box) pointAt(field, grid.line.value, box.left + 8, box.bottom)
  }
}

/** Opens a record, opens or closes a group, reads more. */
function activate(index: number) {
  const line = props.lines[index]
  grid.take(index)
  if (line?.kind === 'record') emit('select', line.row.id)
  else if (line?.kind === 'group') line.toggle()
  else if (line?.kind === 'more') line.load?.()
}
/** A line of several records that was pressed takes the keys as well. */
function press(index: number) {
  activate(index)
  void grid.focus()
}

/** whether the lines lie in groups */
const grouped = computed(() => props.lines.some((line) => line.kind === 'group'))
/** How many lines there are with the heads; -1 where nobody knows yet. */
const lineCount = computed(() => {
  if (props.done) return props.lines.length + 1
  return grouped.value || props.total === undefined ? -1 : props.total + 1
})
const level = (depth: number) => (grouped.value ? depth + 1 : undefined)

function choose(event: MouseEvent, index: number, row: Row) {
  const selected = selection(event)
  const cell = (event.target as HTMLElement).closest('td')
  const field = cell && fields.value.find((f) => f.key === cell.dataset.field)
  // Who selects a part of a text wants to do something with it, not to open the record.
  if (selected.trim() && field?.type === 'text') {
    pointAt(field, index, event.clientX, event.clientY + 8, selected)
    return
  }
  grid.take(index, field ? fields.value.indexOf(field) : undefined)
  void grid.focus()
  emit('select', row.id)
}

/** The panel of a head makes its column wider; one that was never sized begins with what is drawn. */
function widen(field: FieldDescription, by?: number) {
  const th = root.value?.querySelector(`[data-head="${CSS.escape(field.key)}"]`)?.closest('th')
  if (by === undefined || !th) setWidth(field.key)
  else resizeBy(field, by, th)
}
</script>

<template>
  <div
    ref="root"
    class="table"
    :class="{ wrap: shape.wrap, waiting, marked }"
    :aria-busy="waiting"
    :style="{ '--line': height + 'px' }"
    @mouseleave="over = undefined"
  >
    <table
      :role="grouped ? 'treegrid' : 'grid'"
      :aria-rowcount="lineCount"
      :aria-colcount="cells"
      :style="{ minWidth: wholeWidth + 'px' }"
      aria-label="Records"
      @focusin="grid.came"
    >
      <colgroup>
        <col v-if="marked" :style="{ width: MARK + 'px' }" />
        <template v-for="(f, c) in fields" :key="f.key">
          <col :style="{ width: width(f) === undefined ? 'auto' : width(f) + 'px' }" />
          <col v-if="running?.after === c" :style="{ width: RUNNING + 'px' }" />
        </template>
      </colgroup>
      <thead @keydown="keys">
        <tr aria-rowindex="1">
          <th v-if="marked" scope="col" class="mark-head"><span class="hidden-text">Matches</span></th>
          <template v-for="(f, c) in fields" :key="f.key">
            <th
              scope="col"
              data-column
              :aria-sort="f.orderable ? sorted(f.key) : undefined"
              :class="{
                held: c < held,
                numeric: isNumeric(f),
                tested: tested.includes(f.key),
                time: tested.includes(f.key) && (f.type === 'date' || f.type === 'moment'),
              }"
              :style="c < held ? { left: left(c) } : undefined"
              @keydown="resizeByKey($event, f)"
            >
              <button
                v-if="f.orderable"
                type="button"
                :data-stop="`order:${f.key}`"
                :tabindex="grid.headStop.value === `order:${f.key}` ? 0 : -1"
                :title="`${head(f) === f.label ? '' : f.label + '. '}Order by ${f.label}; with Shift as well`"
                @click="orderBy(f, $event)"
              >
                {{ head(f) }}<span v-if="f.unit" class="unit">{{ f.unit }}</span
                ><span v-if="sorted(f.key) !== 'none'" aria-hidden="true" class="arrow">
                  {{ sorted(f.key) === 'descending' ? '↓' : '↑'
                  }}{{ order.length > 1 ? placeIn(order, f.key) + 1 : '' }}</span
                >
              </button>
              <span v-else
                >{{ head(f) }}<span v-if="f.unit" class="unit">{{ f.unit }}</span></span
              >
              <PanelButton
                :open="opened === f.key"
                :name="`Narrow by ${f.label}`"
                :width="300"
                placement="bottom-start"
                class="narrow"
                :disabled="waiting"
                :data-head="f.key"
                :data-stop="`narrow:${f.key}`"
                :tabindex="grid.headStop.value === `narrow:${f.key}` ? 0 : -1"
                :aria-label="`Narrow by ${f.label}`"
                :title="`Narrow by ${f.label}`"
                @update:open="opened = $event ? f.key : undefined"
              >
                <template #button>
                  <svg viewBox="0 0 10 10" aria-hidden="true"><path d="M1.5 3.5 5 7l3.5-3.5" /></svg>
                </template>
                <HeadPanel
                  :field="f"
                  :question="question"
                  :tree="tree"
                  :zone="zone"
                  :sorted="sorted(f.key)"
                  :measured="measuredOf(f.key)"
                  :added="register.added.includes(f.key)"
                  :full="(shape.measures?.length ?? 0) >= MOST_FIGURES"
                  @narrow="((opened = undefined), emit('narrow', $event))"
                  @order="(direction, beside) => orderOf(f, direction, beside)"
                  @calculate="((opened = undefined), emit('calculate', f.key))"
                  @editor="((opened = undefined), emit('write', f.key))"
                  @width="widen(f, $event)"
                  @figure="toggleFigure(f.key, $event)"
                />
              </PanelButton>
              <span
                class="edge"
                aria-hidden="true"
                title="Drag for another width; double click for the usual one"
                @pointerdown.stop.prevent="pull($event, f)"
                @pointermove="pulling"
                @pointerup="letGo"
                @pointercancel="letGo"
                @dblclick="setWidth(f.key)"
              />
            </th>
            <th v-if="running?.after === c" scope="col" class="numeric">
              <span :title="`${running.field.label}, added up in the order of time`">Running</span>
            </th>
          </template>
        </tr>
      </thead>
      <tbody :inert="waiting || undefined" @keydown="keys">
        <template v-for="item in items" :key="item.line.key">
          <tr v-if="item.gap > 0" aria-hidden="true" class="spacer" :style="{ height: item.gap + 'px' }" />
          <tr
            v-if="item.line.kind === 'record'"
            :ref="sized"
            :data-index="item.index"
            :aria-rowindex="item.index + 2"
            :aria-selected="item.line.row.id === selected"
            :aria-level="level(item.line.depth)"
            :class="{ outside: item.line.row.matches === false }"
            @click="choose($event, item.index, item.line.row)"
          >
            <td v-if="marked" class="mark">
              <template v-if="item.line.row.matches"
                ><span aria-hidden="true">✓</span><span class="hidden-text">matches</span></template
              >
            </td>
            <template v-for="(f, c) in fields" :key="f.key">
              <td
                :data-field="f.key"
                :role="f.key === register.titleField ? 'rowheader' : undefined"
                :tabindex="item.index === grid.stopLine.value && c === column ? 0 : undefined"
                :class="{
                  held: c < held,
                  numeric: isNumeric(f),
                  ident: f.identifying,
                  none: item.line.row.values[f.key] == null,
                }"
                :style="{
                  left: c < held ? left(c) : undefined,
                  paddingLeft: c === 0 && item.line.depth ? 6 + item.line.depth * 8 + 'px' : undefined,
                }"
                :title="
                  !shape.wrap && (f.type === 'text' || f.type === 'person' || f.type === 'tags')
                    ? cell(f, item.line.row.values[f.key], zone)
                    : undefined
                "
                @contextmenu="context($event, f, item.index)"
                @mouseenter="hover($event, f, item.index)"
                v-text="cell(f, item.line.row.values[f.key], zone)"
              />
              <td v-if="running?.after === c" class="numeric running">
                {{ cell(running.field, item.line.row.running, zone) }}
              </td>
            </template>
          </tr>
          <FigureLine
            v-else-if="item.line.kind === 'group' || item.line.kind === 'whole'"
            :ref="sizedLine"
            :line="item.line"
            :register="register"
            :fields="fields"
            :shape="shape"
            :running="running?.after"
            :zone="zone"
            :data-index="item.index"
            :aria-rowindex="item.index + 2"
            :aria-level="level(item.line.depth)"
            :aria-expanded="item.line.kind === 'group' ? item.line.open : undefined"
            :tabindex="item.index === grid.stopLine.value ? 0 : -1"
            @activate="press(item.index)"
          />
          <tr
            v-else
            :ref="sized"
            :data-index="item.index"
            :aria-rowindex="item.index + 2"
            :aria-level="level(item.line.depth)"
            class="sum more"
            :tabindex="item.index === grid.stopLine.value ? 0 : -1"
            @click="press(item.index)"
          >
            <td :colspan="cells" :style="{ paddingLeft: 6 + item.line.depth * 16 + 'px' }">
              <button
                v-if="item.line.kind === 'more' && item.line.load"
                type="button"
                class="word"
                tabindex="-1"
                @click.stop="item.line.load()"
              >
                {{ item.line.words }}
              </button>
              <span v-else>{{ item.line.words }}</span>
              <strong v-if="item.line.kind === 'balance' && running">
                &nbsp;{{ cell(running.field, item.line.amount, zone) }}
              </strong>
            </td>
          </tr>
        </template>
        <tr v-if="after > 0" aria-hidden="true" class="spacer" :style="{ height: after + 'px' }" />
      </tbody>
      <tfoot v-if="whole || marked">
        <tr v-if="marked" class="matches">
          <td :colspan="cells"><slot name="matches" /></td>
        </tr>
        <FigureLine
          v-if="whole"
          :line="whole"
          :register="register"
          :fields="fields"
          :shape="shape"
          :running="running?.after"
          :marked="marked"
          :zone="zone"
        />
      </tfoot>
    </table>
    <button
      v-if="over"
      type="button"
      class="by-cell"
      tabindex="-1"
      :style="{ left: over.left + 'px', top: over.top + 'px' }"
      :aria-label="`Narrow by this ${over.field.label}`"
      title="Narrow by this value (right click, or m)"
      @click.stop="byButton"
    >
      <svg viewBox="0 0 10 10" aria-hidden="true"><path d="M1.5 3.5 5 7l3.5-3.5" /></svg>
    </button>
    <CellMenu
      v-if="pointed"
      :key="pointed.row.id + pointed.field.key"
      :x="pointed.x"
      :y="pointed.y"
      :title="`${pointed.field.label}: ${cell(pointed.field, pointed.row.values[pointed.field.key], zone)}`"
      :text="cell(pointed.field, pointed.row.values[pointed.field.key], zone)"
      :offers="pointed.offers"
      @take="take"
      @open="openRecord"
      @close="closeMenu"
    />
  </div>
</template>

<style scoped>
th :deep(.narrow),
.by-cell {
  position: absolute;
  width: 24px !important;
  height: 25px;
  padding: 0 !important;
  display: grid;
  place-items: center;
  cursor: pointer;
  border: 0;
}

th :deep(.narrow) {
  right: 8px;
  top: 2px;
  background: var(--head) !important;
  opacity: 0;
}

th:hover :deep(.narrow),
th :deep(.narrow:focus-visible),
th :deep(.narrow[aria-expanded='true']) {
  opacity: 1;
}

/* Without a mouse nothing can be pointed at to be seen. */
@media (hover: none) {
  th :deep(.narrow) {
    opacity: 1;
  }
}

.by-cell {
  z-index: 2;
  background: var(--head);
  border: 1px solid var(--rule-strong);
  border-radius: 3px;
}

th :deep(.narrow) svg,
.by-cell svg {
  width: 11px;
  stroke: var(--act);
  stroke-width: 1.4;
  fill: none;
}

/* Below the heads, which stay in sight. */
td[data-field],
.table :deep(tr[data-index]) {
  scroll-margin: 34px 0 34px;
}

.table {
  position: relative;
  min-width: fit-content;
  background: var(--card);
  border-top: 1px solid var(--rule-strong);
}

.table.waiting tbody {
  opacity: 0.45;
}

table {
  table-layout: fixed;
  border-collapse: separate;
  border-spacing: 0;
  width: 100%;
}

th {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--head);
  border-bottom: 1px solid var(--rule-strong);
  padding: 0;
  text-align: left;
  font-weight: 600;
  height: 31px;
}

th button,
th span {
  border: 0;
  background: none;
  font-weight: 600;
  width: 100%;
  padding: 5px 6px;
  text-align: inherit;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}

th button {
  cursor: pointer;
}

th button:hover {
  color: var(--act);
}

th .unit {
  width: auto;
  padding: 0 0 0 5px;
  font-weight: 400;
  color: var(--ink-2);
}

th .arrow {
  padding: 0 0 0 5px;
  width: auto;
}

th.tested {
  box-shadow: inset 0 -3px 0 var(--act);
}

th.time {
  box-shadow: inset 0 -3px 0 var(--time-line);
}

td,
.sum :deep(td) {
  border-bottom: 1px solid var(--rule);
  padding: 0 6px;
  height: var(--line);
  /* A second space in a name is there to be seen. */
  white-space: pre;
  overflow: hidden;
  text-overflow: ellipsis;
}

/* Words and figures are never cut: the line is as high as they take. */
.sum :deep(td.several) {
  white-space: pre-wrap;
  padding-block: 4px;
}

.wrap td,
.wrap .sum :deep(td) {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  vertical-align: top;
  padding-block: 5px;
}

.numeric {
  text-align: right;
}

.edge {
  position: absolute;
  right: 0;
  top: 0;
  bottom: 0;
  width: 8px !important;
  padding: 0 !important;
  z-index: 1;
  cursor: col-resize;
  touch-action: none;
}

th:hover .edge {
  background: linear-gradient(90deg, transparent 7px, var(--rule-strong) 7px);
}

.running {
  font-weight: 600;
}

.mark {
  color: var(--act);
  font-weight: 700;
  text-align: center;
}

.outside td {
  color: var(--ink-3);
}

.outside td.ident {
  color: var(--ink-3);
  font-weight: 400;
}

.more td {
  background: var(--card);
}

/* In sight at the very bottom of the sheet, over its padding. */
tfoot {
  position: sticky;
  bottom: -30px;
  z-index: 2;
}

.matches td {
  background: var(--head);
  border-top: 1px solid var(--rule-strong);
}

.more .word {
  padding: 2px 0;
  color: var(--act);
}

td.ident {
  color: var(--act);
  font-weight: 600;
}

td.none {
  color: var(--ink-3);
}

tbody tr:not(.spacer) {
  cursor: default;
  background: var(--card);
}

/* Over the other columns when those are scrolled sideways. */
td.held {
  position: sticky;
  left: 0;
  z-index: 1;
  background: inherit;
}

th.held {
  left: 0;
  z-index: 3;
}

tbody tr:not(.spacer):hover {
  background: var(--head);
}

tbody tr[aria-selected='true'] {
  background: var(--act-soft);
}

.table :deep(tr:focus-visible),
td:focus-visible {
  outline-offset: -2px;
}

/* Whoever goes from match to match by a button sees where they are. */
.marked tbody td:focus {
  outline: 2px solid var(--act);
  outline-offset: -2px;
}

.spacer td {
  padding: 0;
}
</style>
