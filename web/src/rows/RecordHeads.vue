<script setup lang="ts">
import { ref } from 'vue'
import type { FieldDescription, Register } from '@/api/client'
import { isNumeric } from '@/platform/format'
import PanelButton from '@/platform/PanelButton.vue'
import type { Change, Node } from '@/statements/tree'
import HeadPanel from './HeadPanel.vue'
import { directionIn, orderedBy, placeIn, type Direction } from './orders'
import { MOST_FIGURES, type Figure, type Shape } from './shape'
import type { useColumns } from './useColumns'
import type { Question } from './useRows'

/** The heads of the columns of records: their names, the order, their widths, and what can be asked of each field. */
const props = defineProps<{
  columns: ReturnType<typeof useColumns>
  register: Register
  order: string[]
  shape: Shape
  /** fields that a criterion tests; those of dates are marked as time */
  tested: string[]
  zone: string
  tree: Node
  question: Question
  waiting: boolean
  /** the button that Tab comes to, if one of these */
  stop?: string
}>()
const emit = defineEmits<{
  order: [order: string[]]
  shape: [shape: Shape]
  narrow: [change: Change]
  write: [field: string]
  calculate: [field: string]
}>()
// They are the same ones as long as the table is there.
const { fields, head, running, marked, held, left, setWidth, pull, pulling, letGo, resizeByKey, resizeBy } =
  props.columns

const root = ref<HTMLElement>()
/** The head whose panel is open. */
const opened = ref<string>()

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

/** The panel of a head makes its column wider; one that was never sized begins with what is drawn. */
function widen(field: FieldDescription, by?: number) {
  const th = root.value?.querySelector(`[data-head="${CSS.escape(field.key)}"]`)?.closest('th')
  if (by === undefined || !th) setWidth(field.key)
  else resizeBy(field, by, th)
}
</script>

<template>
  <thead ref="root">
    <tr aria-rowindex="1">
      <th v-if="columns.lead.value > (marked ? 1 : 0)" scope="col" class="mark-head">
        <span class="hidden-text">Chosen</span>
      </th>
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
            :tabindex="stop === `order:${f.key}` ? 0 : -1"
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
            :tabindex="stop === `narrow:${f.key}` ? 0 : -1"
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
</template>

<style scoped>
th :deep(.narrow) {
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

/* Where the name is not. */
th.numeric :deep(.narrow) {
  right: auto;
  left: 2px;
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

th :deep(.narrow) svg {
  width: 11px;
  stroke: var(--act);
  stroke-width: 1.4;
  fill: none;
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

th.held {
  left: 0;
  z-index: 3;
}
</style>
