<script setup lang="ts">
import { BarChart, LineChart } from 'echarts/charts'
import {
  AriaComponent,
  GridComponent,
  LegendComponent,
  TitleComponent,
  TooltipComponent,
} from 'echarts/components'
import { init, use, type EChartsType } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { Register } from '@/api/client'
import { CHART_WORDS, type ChartKind, type Shape } from '@/rows/shape'
import { chartOf, drawable, windowOver } from './chart'
import { optionsOf, panelsOf, type Look } from './chartOptions'
import type { Place, TotalsAnswer } from './sheet'

use([
  AriaComponent,
  BarChart,
  GridComponent,
  LegendComponent,
  LineChart,
  SVGRenderer,
  TitleComponent,
  TooltipComponent,
])

/** A figure of totals, drawn from the same answer as the table, which says the same to those who do not see it. */
const props = defineProps<{
  register: Register
  answer: TotalsAnswer
  shape: Shape
  zone: string
  waiting: boolean
}>()
const emit = defineEmits<{
  /** the records behind a mark are wanted */
  open: [place: Place]
  /** a window was drawn over the marks of dates */
  window: [phrase: string, field: string]
  /** another chart is wanted, or none */
  choose: [chart: { kind: ChartKind; figure?: string } | undefined]
}>()

const kind = computed(() => (props.shape.totals?.chart?.kind ?? 'bars') as ChartKind)
const figures = computed(() => drawable(props.answer))
function choose(parts: { kind?: ChartKind; figure?: string }) {
  const figure = parts.figure ?? props.shape.totals?.chart?.figure
  emit('choose', { kind: parts.kind ?? kind.value, ...(figure ? { figure } : {}) })
}

const chart = computed(() => chartOf(props.register, props.shape, props.answer, props.zone))
const host = ref<HTMLElement>()
const width = ref(0)
/** whether the page is dark, for the colours are read from it */
const dark = ref(document.documentElement.classList.contains('dark'))
/** the places over which a window is being drawn */
const drawn = ref<{ grid: number; from: number; to: number }>()
let drawing: EChartsType | undefined

const panels = computed(() => (chart.value ? panelsOf(chart.value, width.value) : { columns: 1, height: 0 }))
const words = computed(() =>
  chart.value ? `Chart of ${chart.value.figure.label}. The table below has the same figures.` : '',
)
const phrase = computed(() =>
  drawn.value && chart.value && drawn.value.from !== drawn.value.to
    ? windowOver(chart.value, drawn.value.from, drawn.value.to)
    : undefined,
)

function look(): Look {
  const style = getComputedStyle(document.documentElement)
  const colour = (name: string) => style.getPropertyValue(name).trim()
  return {
    ink: colour('--ink'),
    quiet: colour('--ink-2'),
    rule: colour('--rule'),
    card: colour('--card'),
    series: Array.from({ length: 8 }, (_, i) => colour(`--chart-${i + 1}`)),
    font: colour('--sans'),
  }
}

function draw() {
  if (!host.value || !chart.value || !width.value) return
  drawing ??= begin(host.value)
  drawing.resize({ width: width.value, height: panels.value.height })
  drawing.setOption(optionsOf(chart.value, look(), width.value), {
    notMerge: true,
  })
}

function begin(at: HTMLElement): EChartsType {
  const made = init(at, undefined, { renderer: 'svg', width: width.value, height: panels.value.height })
  const under = (event: { offsetX: number; offsetY: number }) => {
    for (let grid = 0; grid < (chart.value?.kind === 'multiples' ? chart.value.series.length : 1); grid++) {
      const point = [event.offsetX, event.offsetY]
      if (!made.containPixel({ gridIndex: grid }, point)) continue
      const index = Number(made.convertFromPixel({ gridIndex: grid }, point)?.[0])
      return Number.isInteger(index) && chart.value!.places[index] ? { grid, index } : undefined
    }
    return undefined
  }
  made.getZr().on('mousedown', (event) => {
    const at = props.waiting ? undefined : under(event)
    if (at && chart.value?.dates) drawn.value = { grid: at.grid, from: at.index, to: at.index }
  })
  made.getZr().on('mousemove', (event) => {
    const at = drawn.value && under(event)
    if (at && at.grid === drawn.value!.grid && at.index !== drawn.value!.to)
      drawn.value = { ...drawn.value!, to: at.index }
  })
  made.on('click', (event) => {
    const { seriesIndex, dataIndex } = event as { seriesIndex?: number; dataIndex?: number }
    const mark = chart.value?.series[seriesIndex ?? -1]?.marks[dataIndex ?? -1]
    if (mark?.place && !props.waiting) emit('open', mark.place)
  })
  return made
}
/** What was drawn becomes a window when the pointer is let go, wherever that is. */
function letGo() {
  const [made, field] = [phrase.value, chart.value?.dates]
  drawn.value = undefined
  if (made && field) emit('window', made, field)
}
function keys(event: KeyboardEvent) {
  if (event.key === 'Escape' && drawn.value) drawn.value = undefined
}

const size = new ResizeObserver(([entry]) => (width.value = Math.floor(entry!.contentRect.width)))
const theme = new MutationObserver(() => (dark.value = document.documentElement.classList.contains('dark')))
onMounted(() => {
  size.observe(host.value!)
  theme.observe(document.documentElement, { attributeFilter: ['class'] })
  window.addEventListener('pointerup', letGo)
  window.addEventListener('keydown', keys)
})
onBeforeUnmount(() => {
  size.disconnect()
  theme.disconnect()
  window.removeEventListener('pointerup', letGo)
  window.removeEventListener('keydown', keys)
  drawing?.dispose()
})
watch([chart, width, dark], draw, { flush: 'post' })

/** Where the window lies that is being drawn, in pixels. */
const over = computed(() => {
  if (!phrase.value || !drawn.value || !drawing) return undefined
  const [first, last] = [drawn.value.from, drawn.value.to].sort((a, b) => a - b) as [number, number]
  const at = (index: number) => Number(drawing!.convertToPixel({ xAxisIndex: drawn.value!.grid }, index))
  const band = Math.abs(at(1) - at(0))
  return { left: `${at(first) - band / 2}px`, width: `${at(last) - at(first) + band}px` }
})
</script>

<template>
  <figure class="chart" :class="{ waiting }" aria-label="Chart">
    <p class="controls">
      <select
        class="field"
        aria-label="Chart"
        :value="kind"
        @change="choose({ kind: ($event.target as HTMLSelectElement).value as ChartKind })"
      >
        <option v-for="(name, k) in CHART_WORDS" :key="k" :value="k">{{ name }}</option>
      </select>
      <template v-if="figures.length > 1">
        of
        <select
          class="field"
          aria-label="Figure that is drawn"
          :value="chart?.figure.name"
          @change="choose({ figure: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="f in figures" :key="f.name" :value="f.name">{{ f.label }}</option>
        </select>
      </template>
      <button type="button" class="word" @click="emit('choose', undefined)">Table alone</button>
      <span v-if="chart" class="small hint" aria-live="polite">{{
        phrase ??
        (chart.dates
          ? 'A click opens the records of a mark; drag over several to make a window.'
          : 'A click opens the records of a mark.')
      }}</span>
    </p>
    <div v-show="chart" class="drawing">
      <span v-if="over" class="over" :style="over" />
      <div
        ref="host"
        class="host"
        role="img"
        :aria-label="words"
        :style="{ height: panels.height + 'px' }"
        :inert="waiting || undefined"
      />
    </div>
    <figcaption v-if="!chart || chart.notes.length">
      <p v-if="!chart" class="small">There is no number here that could be drawn.</p>
      <p v-for="note in chart?.notes" :key="note" class="small">{{ note }}</p>
    </figcaption>
  </figure>
</template>

<style scoped>
.chart {
  margin: 4px 0 12px;
}

.controls {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: baseline;
  margin-bottom: 6px;
}

.controls .field {
  width: auto;
  min-height: var(--control-small);
  padding-block: 2px;
}

.waiting {
  opacity: 0.55;
}

.controls .hint {
  margin-left: auto;
}

.drawing {
  position: relative;
}

.over {
  position: absolute;
  top: 30px;
  bottom: 20px;
  background: var(--time-bg);
  opacity: 0.55;
  pointer-events: none;
}

.host {
  width: 100%;
  touch-action: pan-y;
}

figcaption p {
  margin: 2px 0;
}
</style>
