<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { AriaComponent, GridComponent, TooltipComponent } from 'echarts/components'
import { init, use, type EChartsType } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { number } from '@/platform/format'

use([AriaComponent, GridComponent, LineChart, SVGRenderer, TooltipComponent])

/** A number as it was over time, as a line. */
const props = defineProps<{
  points: { words: string; value: number }[]
  /** what the line says, for those who do not see it */
  label: string
}>()

const HEIGHT = 120
const host = ref<HTMLElement>()
let drawing: EChartsType | undefined

function draw() {
  const width = host.value!.clientWidth
  if (!width) return
  const style = getComputedStyle(document.documentElement)
  const colour = (name: string) => style.getPropertyValue(name).trim()
  const letters = { fontFamily: colour('--sans'), fontSize: 12, color: colour('--ink-2') }
  drawing ??= init(host.value!, undefined, { renderer: 'svg', height: HEIGHT, width })
  drawing.resize({ width, height: HEIGHT })
  drawing.setOption(
    {
      animation: false,
      grid: { left: 8, right: 16, top: 10, bottom: 4, containLabel: true },
      tooltip: {
        trigger: 'axis',
        valueFormatter: (value: number) => number(value),
        backgroundColor: colour('--card'),
        textStyle: { ...letters, color: colour('--ink') },
      },
      xAxis: {
        type: 'category',
        boundaryGap: false,
        data: props.points.map((p) => p.words),
        axisLabel: {
          ...letters,
          hideOverlap: true,
          showMinLabel: true,
          showMaxLabel: true,
          alignMaxLabel: 'right',
          alignMinLabel: 'left',
        },
        axisLine: { lineStyle: { color: colour('--rule') } },
        axisTick: { show: false },
      },
      yAxis: {
        type: 'value',
        scale: true,
        minInterval: 1,
        splitNumber: 2,
        axisLabel: { ...letters, formatter: (value: number) => number(value) },
        splitLine: { lineStyle: { color: colour('--rule') } },
      },
      series: [
        {
          type: 'line',
          step: 'end',
          symbolSize: 5,
          data: props.points.map((p) => p.value),
          lineStyle: { color: colour('--chart-1'), width: 2 },
          itemStyle: { color: colour('--chart-1') },
        },
      ],
    },
    { notMerge: true },
  )
}

const size = new ResizeObserver(draw)
onMounted(() => size.observe(host.value!))
onBeforeUnmount(() => {
  size.disconnect()
  drawing?.dispose()
})
watch(() => props.points, draw, { flush: 'post' })
</script>

<template>
  <div ref="host" class="line" role="img" :aria-label="label" :style="{ height: HEIGHT + 'px' }" />
</template>

<style scoped>
.line {
  width: 100%;
}
</style>
