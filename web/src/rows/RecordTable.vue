<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, onMounted, onUpdated, ref, watch } from 'vue'
import type { FieldDescription, Register, Row } from '@/api/client'
import { cell, full, isNumeric } from '@/platform/format'

const props = defineProps<{
  register: Register
  columns: string[]
  order: string[]
  rows: Row[]
  total?: number
  done: boolean
  selected?: number
  /** fields that a criterion tests; those of dates are marked as time */
  tested: string[]
  scroller?: HTMLElement
  zone: string
}>()
const emit = defineEmits<{ order: [order: string[]]; select: [id: number]; more: [] }>()

const ROW = 31
const root = ref<HTMLElement>()
const offset = ref(0)

const fields = computed(() =>
  props.columns
    .map((key) => props.register.fields.find((f) => f.key === key))
    .filter((f): f is FieldDescription => f !== undefined),
)

const virtualizer = useVirtualizer(
  computed(() => ({
    count: props.rows.length,
    getScrollElement: () => props.scroller ?? null,
    estimateSize: () => ROW,
    overscan: 14,
    scrollMargin: offset.value,
  })),
)
const items = computed(() => virtualizer.value.getVirtualItems())
const before = computed(() => (items.value[0] ? items.value[0].start - offset.value : 0))
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
    if (!props.done && last > props.rows.length - 40) emit('more')
  },
)

function width(field: FieldDescription): string {
  if (field.identifying) return '84px'
  if (field.key === props.register.titleField) return 'auto'
  switch (field.type) {
    case 'moment':
      return '140px'
    case 'date':
      return '92px'
    case 'number':
      return Math.max(56, (place(field.key) < 0 ? 24 : 46) + field.label.length * 7.4) + 'px'
    case 'money':
      return '92px'
    case 'yes/no':
      return Math.max(64, 24 + field.label.length * 7.4) + 'px'
    case 'choice':
      return '124px'
    case 'person':
      return '100px'
    case 'tags':
      return '150px'
    default:
      return field.key === 'number' ? '74px' : '150px'
  }
}

const least = computed(() =>
  fields.value.reduce((sum, f) => sum + (width(f) === 'auto' ? 180 : Number.parseFloat(width(f))), 0),
)

const place = (key: string) => props.order.findIndex((o) => o.replace(/^-/, '') === key)
const sorted = (key: string): 'ascending' | 'descending' | 'none' => {
  const at = place(key)
  return at < 0 ? 'none' : props.order[at]!.startsWith('-') ? 'descending' : 'ascending'
}

/** A click orders by the column, again turns it round, again leaves it; with Shift it joins the order there is. */
function orderBy(field: FieldDescription, event: MouseEvent) {
  if (!field.orderable) return
  const now = sorted(field.key)
  const next = now === 'none' ? [field.key] : now === 'ascending' ? ['-' + field.key] : []
  if (!event.shiftKey) {
    emit('order', next)
    return
  }
  const kept = [...props.order]
  const at = place(field.key)
  if (at < 0) kept.push(...next)
  else kept.splice(at, 1, ...next)
  emit('order', kept)
}

const current = ref(0)
watch(
  () => props.rows,
  (rows, old) => {
    if (rows.length < old.length || rows[0] !== old[0]) current.value = 0
  },
)

function keys(event: KeyboardEvent) {
  const step: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15 }
  let to: number
  if (event.key in step) to = current.value + step[event.key]!
  else if (event.key === 'Home') to = 0
  else if (event.key === 'End') to = props.rows.length - 1
  else if (event.key === 'Enter' || event.key === ' ') {
    const row = props.rows[current.value]
    if (row) emit('select', row.id)
    event.preventDefault()
    return
  } else return
  event.preventDefault()
  current.value = Math.max(0, Math.min(props.rows.length - 1, to))
  virtualizer.value.scrollToIndex(current.value)
  void nextTick(() => root.value?.querySelector<HTMLElement>(`tr[data-index="${current.value}"]`)?.focus())
  if (props.selected !== undefined) {
    const row = props.rows[current.value]
    if (row) emit('select', row.id)
  }
}

function choose(index: number, row: Row) {
  current.value = index
  emit('select', row.id)
}
</script>

<template>
  <div ref="root" class="table">
    <table
      :aria-rowcount="total === undefined ? -1 : total + 1"
      :style="{ minWidth: least + 'px' }"
      aria-label="Records"
    >
      <colgroup>
        <col v-for="f in fields" :key="f.key" :style="{ width: width(f) }" />
      </colgroup>
      <thead>
        <tr>
          <th
            v-for="f in fields"
            :key="f.key"
            scope="col"
            :aria-sort="f.orderable ? sorted(f.key) : undefined"
            :class="{
              numeric: isNumeric(f),
              tested: tested.includes(f.key),
              time: tested.includes(f.key) && (f.type === 'date' || f.type === 'moment'),
            }"
          >
            <button
              v-if="f.orderable"
              type="button"
              :title="`Order by ${f.label}; with Shift as well`"
              @click="orderBy(f, $event)"
            >
              {{ f.label
              }}<span v-if="place(f.key) >= 0" aria-hidden="true" class="arrow">
                {{ sorted(f.key) === 'descending' ? '↓' : '↑'
                }}{{ order.length > 1 ? place(f.key) + 1 : '' }}</span
              >
            </button>
            <span v-else>{{ f.label }}</span>
          </th>
        </tr>
      </thead>
      <tbody @keydown="keys">
        <tr v-if="before > 0" aria-hidden="true" class="spacer" :style="{ height: before + 'px' }" />
        <tr
          v-for="item in items"
          :key="rows[item.index]!.id"
          :data-index="item.index"
          :aria-rowindex="item.index + 2"
          :aria-selected="rows[item.index]!.id === selected"
          :tabindex="item.index === current ? 0 : -1"
          @click="choose(item.index, rows[item.index]!)"
        >
          <td
            v-for="f in fields"
            :key="f.key"
            :class="{
              numeric: isNumeric(f),
              ident: f.identifying,
              none: rows[item.index]!.values[f.key] == null,
            }"
            :title="
              f.type === 'text' || f.type === 'person' || f.type === 'tags'
                ? full(f, rows[item.index]!.values[f.key], zone)
                : undefined
            "
            v-text="cell(f, rows[item.index]!.values[f.key], zone)"
          />
        </tr>
        <tr v-if="after > 0" aria-hidden="true" class="spacer" :style="{ height: after + 'px' }" />
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.table {
  min-width: fit-content;
  background: var(--card);
  border-top: 1px solid var(--rule-strong);
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

td {
  border-bottom: 1px solid var(--rule);
  padding: 4px 6px;
  height: 31px;
  /* A second space in a name is there to be seen. */
  white-space: pre;
  overflow: hidden;
  text-overflow: ellipsis;
}

.numeric {
  text-align: right;
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
}

tbody tr:not(.spacer):hover {
  background: var(--head);
}

tbody tr[aria-selected='true'] {
  background: var(--act-soft);
}

tr:focus-visible {
  outline-offset: -2px;
}

.spacer td {
  padding: 0;
}
</style>
