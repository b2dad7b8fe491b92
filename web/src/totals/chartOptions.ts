import type { EChartsCoreOption } from 'echarts/core'
import { durationWords } from '@/platform/duration'
import type { Chart, Series } from './chart'

/** The colours and letters of the page, which a drawing cannot have by itself. */
export interface Look {
  ink: string
  quiet: string
  rule: string
  card: string
  /** what lies behind a window that is being drawn */
  time: string
  series: string[]
  font: string
}

const HEIGHT = 260
const SMALL = 130
/** The least width of a small chart, in pixels. */
const NARROW = 240

/** How a chart is laid out in a width: small charts stand in columns. */
export function panelsOf(chart: Chart, width: number): { columns: number; height: number } {
  if (chart.kind !== 'multiples') return { columns: 1, height: HEIGHT }
  const columns = Math.max(1, Math.min(chart.series.length, Math.floor(width / NARROW), 4))
  return { columns, height: Math.ceil(chart.series.length / columns) * SMALL + 8 }
}

/** A number along the axis, with as few figures as say it. */
export function axisWords(value: number, type: string): string {
  if (type === 'duration') return durationWords(String(value))
  return compact.format(value)
}
const compact = new Intl.NumberFormat('en-GB', { notation: 'compact', maximumFractionDigits: 1 })

/**
 * The chart as ECharts takes it.
 *
 * @param drawn the places of a window that is being drawn
 */
export function optionsOf(
  chart: Chart,
  look: Look,
  width: number,
  drawn?: { from: number; to: number },
): EChartsCoreOption {
  const small = chart.kind === 'multiples'
  const { columns, height } = panelsOf(chart, width)
  const several = chart.series.length > 1
  const letters = { fontFamily: look.font, fontSize: 12, color: look.quiet }
  const extent = small ? extentOf(chart.series) : {}

  const grids = small
    ? chart.series.map((_, i) => ({
        left: (i % columns) * (width / columns) + 46,
        width: width / columns - 58,
        top: Math.floor(i / columns) * SMALL + 24,
        height: SMALL - 52,
      }))
    : [
        {
          left: 8,
          right: 8,
          top: several ? 34 : 12,
          bottom: 6,
          height: height - (several ? 40 : 18),
          containLabel: true,
        },
      ]

  return {
    animation: false,
    textStyle: { fontFamily: look.font, color: look.ink },
    // Told apart by more than their colours.
    aria: {
      enabled: true,
      label: { enabled: false },
      decal: { show: several && !small && chart.kind !== 'line' },
    },
    color: look.series,
    ...(several && !small
      ? {
          legend: {
            type: 'scroll',
            top: 0,
            left: 0,
            icon: 'roundRect',
            selectedMode: false,
            textStyle: { ...letters, color: look.ink },
          },
        }
      : {}),
    tooltip: {
      trigger: 'item',
      renderMode: 'richText',
      confine: true,
      backgroundColor: look.card,
      borderColor: look.rule,
      textStyle: { ...letters, color: look.ink },
      formatter: (at: { seriesIndex: number; dataIndex: number }) => {
        const series = chart.series[at.seriesIndex]!
        const place = chart.places[at.dataIndex]!.words
        return `${several ? series.name + '\n' : ''}${place}: ${series.marks[at.dataIndex]!.text}`
      },
    },
    grid: grids,
    xAxis: grids.map((_, i) => ({
      type: 'category',
      gridIndex: i,
      data: chart.places.map((p) => p.words),
      axisTick: { show: false },
      axisLine: { lineStyle: { color: look.rule } },
      axisLabel: { ...letters, hideOverlap: true, ...(small ? { fontSize: 11 } : {}) },
    })),
    yAxis: grids.map((_, i) => ({
      type: 'value',
      gridIndex: i,
      ...extent,
      splitNumber: small ? 2 : 4,
      splitLine: { lineStyle: { color: look.rule } },
      axisLabel: {
        ...letters,
        ...(small ? { fontSize: 11 } : {}),
        formatter: (value: number) => axisWords(value, chart.figure.type),
      },
    })),
    ...(small
      ? {
          title: chart.series.map((s, i) => ({
            text: s.name,
            left: (i % columns) * (width / columns) + 46,
            top: Math.floor(i / columns) * SMALL,
            textStyle: { ...letters, color: look.ink, fontWeight: 600 },
          })),
        }
      : {}),
    series: chart.series.map((series, i) => ({
      name: series.name,
      type: chart.kind === 'line' ? 'line' : 'bar',
      xAxisIndex: small ? i : 0,
      yAxisIndex: small ? i : 0,
      ...(chart.kind === 'stacked' ? { stack: 'all' } : {}),
      ...(small ? { itemStyle: { color: look.series[0] } } : {}),
      barMaxWidth: 46,
      symbolSize: 7,
      connectNulls: false,
      cursor: 'pointer',
      data: series.marks.map((m) => ({ value: m.value ?? null, cursor: m.place ? 'pointer' : 'default' })),
      ...(drawn && i === 0
        ? {
            markArea: {
              silent: true,
              itemStyle: { color: look.time, opacity: 0.6 },
              data: [[{ xAxis: Math.min(drawn.from, drawn.to) }, { xAxis: Math.max(drawn.from, drawn.to) }]],
            },
          }
        : {}),
    })),
  }
}

/** One measure for all small charts. */
function extentOf(series: Series[]): { min: number; max: number } {
  const values = series.flatMap((s) => s.marks.flatMap((m) => m.value ?? []))
  return { min: Math.min(0, ...values), max: Math.max(0, ...values) }
}
