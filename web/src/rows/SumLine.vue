<script setup lang="ts">
import { computed } from 'vue'
import type { FieldDescription, Register } from '@/api/client'
import { cell, isNumeric, number } from '@/platform/format'
import type { Line } from './lines'
import type { Shape } from './shape'

/** A line about several records: what they are called, how many they are, and their sums under the heads of the columns. */
const props = defineProps<{
  line: Extract<Line, { kind: 'group' | 'whole' }>
  register: Register
  /** the columns of the table */
  fields: FieldDescription[]
  shape: Shape
  /** behind which column the running total stands, if there is one */
  running?: number
  /** whether a column of marks comes before all others */
  marked?: boolean
  zone: string
}>()
const emit = defineEmits<{ activate: [] }>()

const summed = (key: string) => props.shape.totals?.includes(key) ?? false
/** The words reach up to the first column that has a sum. */
const firstSum = computed(() => {
  const at = props.fields.findIndex((f, i) => i > 0 && summed(f.key))
  return at < 0 ? props.fields.length : at
})
const reach = computed(
  () =>
    firstSum.value +
    (props.marked ? 1 : 0) +
    (props.running !== undefined && props.running < firstSum.value ? 1 : 0),
)
/** The sums that have no column of their own. */
const others = computed(() =>
  (props.shape.totals ?? [])
    .map((key) => props.register.fields.find((f) => f.key === key))
    .filter((f): f is FieldDescription => f !== undefined)
    .filter((f) => props.fields.findIndex((c) => c.key === f.key) < 1),
)
const sum = (f: FieldDescription) => cell(f, props.line.totals[f.key], props.zone)

/** What a sum does not have in it: another server may hold numbers that are none. */
const leftOut = computed(() =>
  Object.entries(props.line.leftOut ?? {}).map(([key, values]) => {
    const label = props.register.fields.find((f) => f.key === key)?.label ?? key
    return values === 1
      ? `1 value of ${label} is no number and is left out of the sum`
      : `${number(values)} values of ${label} are no numbers and are left out of the sum`
  }),
)
</script>

<template>
  <tr class="sum" :class="[line.kind, `depth-${line.depth}`]" @click="emit('activate')">
    <td :colspan="reach" class="what" :style="{ paddingLeft: 6 + line.depth * 16 + 'px' }">
      <button
        v-if="line.kind === 'group'"
        type="button"
        class="fold"
        tabindex="-1"
        @click.stop="emit('activate')"
      >
        <svg viewBox="0 0 10 10" aria-hidden="true" :class="{ open: line.open }">
          <path d="M3.5 1.5 7 5 3.5 8.5" />
        </svg>
        <span>{{ line.words }}</span>
      </button>
      <span v-else>{{ line.words }}</span>{{ ' ' }}<span class="records">{{ number(line.records) }}</span>
      <span v-for="f in others" :key="f.key" class="records">{{ f.label }} {{ sum(f) }} {{ f.unit }}</span>
      <span v-for="note in leftOut" :key="note" class="left-out">{{ note }}</span>
    </td>
    <template v-for="(f, i) in fields.slice(firstSum)" :key="f.key">
      <td class="total" :class="{ numeric: isNumeric(f) }">
        <span class="amount">{{ summed(f.key) ? sum(f) : '' }}</span>
      </td>
      <td v-if="running === firstSum + i" />
    </template>
  </tr>
</template>

<style scoped>
td {
  background: var(--head);
}

.depth-1 td {
  background: color-mix(in srgb, var(--head) 60%, var(--card));
}

.depth-2 td {
  background: var(--card);
}

.whole td {
  border-top: 1px solid var(--rule-strong);
  font-weight: 600;
}

.group {
  cursor: pointer;
}

.what {
  position: sticky;
  left: 0;
}

.fold {
  border: 0;
  background: none;
  padding: 2px 4px 2px 0;
  font-weight: 600;
  cursor: pointer;
}

.fold svg {
  width: 11px;
  margin-right: 6px;
  stroke: var(--act);
  stroke-width: 1.6;
  fill: none;
  transition: rotate 0.12s;
}

.fold svg.open {
  rotate: 90deg;
}

@media (prefers-reduced-motion: reduce) {
  .fold svg {
    transition: none;
  }
}

.records {
  color: var(--ink-2);
  font-weight: 400;
  margin-left: 12px;
}

/* A sum is longer than what it sums: it reaches over the empty cell before it and is never cut. */
.total {
  text-align: right;
  font-weight: 600;
  overflow: visible;
}

.amount {
  display: flex;
  justify-content: flex-end;
  white-space: nowrap;
}

.left-out {
  color: var(--alert);
  margin-left: 14px;
}
</style>
