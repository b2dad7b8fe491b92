<script setup lang="ts">
import { computed } from 'vue'
import type { FieldDescription, Register } from '@/api/client'
import { isNumeric, number } from '@/platform/format'
import type { Line } from './lines'
import {
  figureMark,
  figureText,
  figureWords,
  inColumns,
  leftOutWords,
  type Placed,
  type Shape,
} from './shape'

/** A line about several records: what they are called, how many they are, and their figures under the heads of the columns. */
const props = defineProps<{
  line: Extract<Line, { kind: 'group' | 'whole' }>
  register: Register
  /** the columns of the table */
  fields: FieldDescription[]
  shape: Shape
  /** behind which column the running total stands, if there is one */
  running?: number
  /** how many narrow columns come before those of fields */
  lead?: number
  zone: string
}>()
const emit = defineEmits<{ activate: [] }>()

const placed = computed(() => inColumns(props.shape, props.fields))
/** The words reach up to the first column that has a figure. */
const firstFigure = computed(() => {
  const at = props.fields.findIndex((f) => placed.value.has(f.key))
  return at < 0 ? props.fields.length : at
})
const reach = computed(
  () =>
    firstFigure.value +
    (props.lead ?? 0) +
    (props.running !== undefined && props.running < firstFigure.value ? 1 : 0),
)
const text = ({ figure, at }: Placed) =>
  figureText(props.register, figure, props.line.figures[at], props.zone)
const mark = ({ figure }: Placed) => figureMark(props.register, figure)
const unit = ({ figure }: Placed) =>
  figure.function === 'distinct' ? '' : props.register.fields.find((f) => f.key === figure.field)?.unit
/** The figures that have no column to stand in, with what they are; the number of records stands there already. */
const others = computed(() =>
  (props.shape.measures ?? [])
    .map((figure, at) => ({ figure, at }))
    .filter(
      ({ figure, at }) => figure.function !== 'count' && placed.value.get(figure.field ?? '')?.at !== at,
    ),
)

/** What a figure does not have in it: another server may hold numbers that are none. */
const leftOut = computed(() => leftOutWords(props.register, props.line.leftOut))
</script>

<template>
  <tr class="sum" :class="[line.kind, `depth-${line.depth}`]" @click="emit('activate')">
    <td
      :colspan="reach"
      class="what"
      :class="{ several: shape.measures?.length }"
      :style="{ paddingLeft: 6 + line.depth * 16 + 'px' }"
    >
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
      <template v-for="one in others" :key="one.at"
        >{{ ' '
        }}<span class="records"
          >{{ figureWords(register, one.figure) }}
          <span class="figure">{{ text(one) }}{{ unit(one) ? ` ${unit(one)}` : '' }}</span></span
        ></template
      >
      <template v-for="note in leftOut" :key="note"
        >{{ ' ' }}<span class="left-out">{{ note }}</span></template
      >
    </td>
    <template v-for="(f, i) in fields.slice(firstFigure)" :key="f.key">
      <td class="total" :class="{ numeric: isNumeric(f) }">
        <span v-if="placed.has(f.key)" class="amount"
          ><span v-if="mark(placed.get(f.key)!)" class="mark">{{ mark(placed.get(f.key)!) }}&nbsp;</span
          >{{ text(placed.get(f.key)!) }}</span
        >
      </td>
      <td v-if="running === firstFigure + i" />
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

.several .records {
  display: inline-block;
  white-space: nowrap;
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

/* A figure may be longer than what it is about: it reaches over the empty cell before it and is never cut. */
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

.mark {
  color: var(--ink-2);
  font-weight: 400;
}

.figure {
  color: var(--ink);
}

.left-out {
  color: var(--alert);
  margin-left: 14px;
}
</style>
