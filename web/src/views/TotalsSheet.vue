<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import type { Register } from '@/api/client'
import type { Shape } from '@/rows/shape'
import BalanceNote from '@/totals/BalanceNote.vue'
import ComparedNote from '@/totals/ComparedNote.vue'
import KeepLine from '@/totals/KeepLine.vue'
import type { Place, TotalsAnswer, TotalsFinding } from '@/totals/sheet'
import TotalsTable from '@/totals/TotalsTable.vue'

/** Records read as totals: the criteria on figures, what the figures are of, a chart, and the table. */
const props = defineProps<{
  register: Register
  shape: Shape
  /** the answer to the question as it stands; absent until it is there */
  answer?: TotalsAnswer
  /** what the table shows: that, or for a moment the one before */
  sums?: {
    answer: { register: Register; answer: TotalsAnswer; shape: Shape; zone: string }
    held: boolean
  }
  /** whether the answer cannot be had */
  failed: boolean
  /** whether there are no records to read as totals */
  nothing: boolean
  /** whether a finding can be mended now */
  mendable: boolean
  scroller?: HTMLElement
  zone: string
  /** the moment that the question is read at */
  now: string
}>()
const emit = defineEmits<{
  /** a figure's records are wanted */
  open: [place: Place]
  change: [parts: NonNullable<Shape['totals']>]
  mend: [finding: TotalsFinding]
  window: [phrase: string, field: string]
}>()
// A chart is loaded when one is shown.
const TotalsChart = defineAsyncComponent(() => import('@/totals/TotalsChart.vue'))

/** A balance goes through every period of its date: where these are rows, none is left out. */
const leavesOut = computed(
  () =>
    !props.shape.totals?.balances || !props.shape.groups?.some((g) => g.field === props.register.mainField),
)
const asks = computed(
  () =>
    !props.nothing &&
    props.shape.groups?.length &&
    (props.shape.totals?.keep || (!props.failed && leavesOut.value)),
)

const table = ref<InstanceType<typeof TotalsTable>>()
defineExpose({
  /** Puts the keys where they were in the table, or to a button of its heads. */
  focus: (stop?: string) => table.value?.focus(stop),
  /** the table, while it is there */
  table: () => table.value?.$el as HTMLElement | undefined,
})
</script>

<template>
  <div v-if="asks" class="still">
    <KeepLine
      :register="register"
      :shape="shape"
      :figures="answer?.figures ?? []"
      :findings="answer?.findings"
      :mendable="mendable"
      @mend="emit('mend', $event)"
      @keep="emit('change', { keep: $event || undefined })"
    />
  </div>
  <BalanceNote
    v-if="sums?.answer.answer.balance"
    class="still"
    :register="register"
    :balance="sums.answer.answer.balance"
    :zone="zone"
    :now="now"
  />
  <ComparedNote
    v-if="sums?.answer.answer.compared"
    class="still"
    :register="register"
    :compared="sums.answer.answer.compared"
    :zone="zone"
  />
  <TotalsChart
    v-if="sums && shape.totals?.chart"
    v-bind="sums.answer"
    class="still"
    :waiting="sums.held"
    @open="emit('open', $event)"
    @window="(phrase, field) => emit('window', phrase, field)"
    @choose="emit('change', { chart: $event })"
  />
  <TotalsTable
    v-if="sums"
    ref="table"
    v-bind="sums.answer"
    :waiting="sums.held"
    :scroller="scroller"
    @open="emit('open', $event)"
    @order="emit('change', { order: $event })"
    @all="emit('change', { limit: undefined })"
  />
</template>

<style scoped>
/* Stays where it is while a wide table is scrolled sideways. */
.still {
  position: sticky;
  left: 0;
}
</style>
