<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Register, Row } from '@/api/client'
import { cell, figures, isNumeric } from '@/platform/format'
import { useSession } from '@/people/session'
import type { Line } from './lines'
import { inColumns, underHead, type Shape } from './shape'
import { narrow, type Offer } from '@/statements/narrowing'
import type { Change, Node } from '@/statements/tree'
import CellMenu from './CellMenu.vue'
import FigureLine from './FigureLine.vue'
import { MARK, RUNNING, useColumns } from './useColumns'
import { useDrawnLines } from './useDrawnLines'
import { useGrid } from './useGrid'
import RecordHeads from './RecordHeads.vue'
import { selection, usePointing } from './usePointing'
import type { useChosen } from './useChosen'
import type { Question } from './useRows'

type Chosen = ReturnType<typeof useChosen>
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
  /** the records that are chosen, and whether each has a box to choose it by */
  chosen: Chosen
  choosing: boolean
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

const root = ref<HTMLElement>()

/** Whether records are told apart from those that share a value with them. */
const traced = computed(() => props.lines.some((line) => line.kind === 'record' && line.row.matches != null))
const table = useColumns(
  props,
  (shape) => emit('shape', shape),
  (key) => longest.value.get(key) ?? 0,
  () => traced.value,
)
const { fields, running, marked, lead, cells, width, wholeWidth, held, left } = table

const grid = useGrid(
  root,
  () => props.lines,
  () => fields.value.length,
  (index) => drawn.scrollTo(index),
  (index) => {
    const row = rowAt(index)
    // Whoever looks at a record goes from one to the next.
    if (row && props.selected !== undefined) emit('select', row.id)
  },
)
const { column } = grid
const drawn = useDrawnLines(
  root,
  props,
  () => grid.stopLine.value,
  () => emit('more'),
)
const { height, items, after, sized, sizedLine } = drawn

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

// ------------------------------------------------------------------ narrowing

const { pointed, over, pointAt, context, hover, byButton, close } = usePointing(root, {
  rowAt: (index) => rowAt(index),
  zone: () => props.zone,
  weekStarts: () => session.current?.weekStarts,
  took: (index, field) => grid.take(index, fields.value.indexOf(field)),
})
function take(offer: Offer) {
  close()
  emit('narrow', (tree) => narrow(tree, offer.node))
}
function closeMenu() {
  close()
  void grid.focus()
}
function openRecord() {
  const at = close()
  if (at) emit('select', at.row.id)
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
  if (props.shape.marked && event.shiftKey && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
    event.preventDefault()
    emit('match', event.key === 'ArrowDown' ? 1 : -1)
    return
  }
  if (!(event.target as HTMLElement).closest('thead') && chooseByKey(event)) {
    event.preventDefault()
    event.stopPropagation()
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

/** The records that are shown, in their order. */
const shown = () => props.lines.flatMap((line) => (line.kind === 'record' ? [line.row] : []))

/** Chooses by a key: Shift with Space or the arrows, Ctrl with A; Escape lets go. Says whether it was one. */
function chooseByKey(event: KeyboardEvent): boolean {
  const { chosen } = props
  const here = rowAt(grid.line.value)
  if (event.key === ' ' && event.shiftKey && here) chosen.toggle(here)
  else if (event.key.toLowerCase() === 'a' && (event.ctrlKey || event.metaKey)) chosen.everything()
  else if (event.key === 'Escape' && chosen.some.value) chosen.none()
  else if (event.shiftKey && (event.key === 'ArrowDown' || event.key === 'ArrowUp') && here) {
    const to = grid.line.value + (event.key === 'ArrowDown' ? 1 : -1)
    if (!chosen.has(here.id)) chosen.toggle(here)
    if (!rowAt(to)) return true
    grid.goTo(to)
    chosen.rangeTo(rowAt(to)!, shown())
  } else return false
  return true
}
/** Chooses by the mouse: up to it with Shift, it alone without. */
function pick(event: MouseEvent, row: Row) {
  if (event.shiftKey) props.chosen.rangeTo(row, shown())
  else props.chosen.toggle(row)
}
/** A range is chosen, and no text. */
function pressed(event: MouseEvent) {
  if (event.shiftKey) event.preventDefault()
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

const titled = computed(() => props.register.fields.find((f) => f.key === props.register.titleField)!)
/** whether the lines lie in groups */
const grouped = computed(() => props.lines.some((line) => line.kind === 'group'))
/** How many lines there are with the heads; -1 where nobody knows yet. */
const lineCount = computed(() => {
  if (props.done) return props.lines.length + 1
  return grouped.value || props.total === undefined ? -1 : props.total + 1
})
const level = (depth: number) => (grouped.value ? depth + 1 : undefined)

function choose(event: MouseEvent, index: number, row: Row) {
  if (event.ctrlKey || event.metaKey || event.shiftKey) {
    grid.take(index)
    void grid.focus()
    pick(event, row)
    return
  }
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
        <col v-if="choosing" :style="{ width: MARK + 'px' }" />
        <col v-if="marked" :style="{ width: MARK + 'px' }" />
        <template v-for="(f, c) in fields" :key="f.key">
          <col :style="{ width: width(f) === undefined ? 'auto' : width(f) + 'px' }" />
          <col v-if="running?.after === c" :style="{ width: RUNNING + 'px' }" />
        </template>
      </colgroup>
      <RecordHeads
        :columns="table"
        :register="register"
        :order="order"
        :shape="shape"
        :tested="tested"
        :zone="zone"
        :tree="tree"
        :question="question"
        :waiting="waiting"
        :stop="grid.headStop.value"
        @keydown="keys"
        @order="emit('order', $event)"
        @shape="emit('shape', $event)"
        @narrow="emit('narrow', $event)"
        @calculate="emit('calculate', $event)"
        @write="emit('write', $event)"
      />
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
            :class="{ outside: item.line.row.matches === false, chosen: chosen.has(item.line.row.id) }"
            @mousedown="pressed"
            @click="choose($event, item.index, item.line.row)"
          >
            <td v-if="choosing" class="mark">
              <input
                type="checkbox"
                tabindex="-1"
                :checked="chosen.has(item.line.row.id)"
                :aria-label="`Choose ${cell(titled, item.line.row.values[titled.key], zone)}`"
                @click.stop="pick($event, item.line.row)"
              />
            </td>
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
            :lead="lead"
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
      <tfoot v-if="whole || shape.marked">
        <tr v-if="shape.marked" class="matches">
          <td :colspan="cells"><slot name="matches" /></td>
        </tr>
        <FigureLine
          v-if="whole"
          :line="whole"
          :register="register"
          :fields="fields"
          :shape="shape"
          :running="running?.after"
          :lead="lead"
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

.by-cell {
  z-index: 2;
  background: var(--head);
  border: 1px solid var(--rule-strong);
  border-radius: 3px;
}

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

.running {
  font-weight: 600;
}

.mark {
  color: var(--act);
  font-weight: 700;
  text-align: center;
  padding: 0;
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

tbody tr:not(.spacer):hover {
  background: var(--head);
}

tbody tr.chosen {
  background: color-mix(in srgb, var(--act-soft) 55%, var(--card));
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
