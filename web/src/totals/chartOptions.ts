import type { EChartsCoreOption } from 'echarts/core'
import type { Chart, Series } from './chart'

/** The colours and letters of the page, which a drawing cannot have by itself. */
export interface Look {
  ink: string
  quiet: string
  rule: string
  card: string
  series: string[]
  font: string
}

const HEIGHT = 230
const SMALL = 130
/** The least width of a small chart, in pixels. */
const NARROW = 240

/** How a chart is laid out in a width: small charts stand in columns. */
export function panelsOf(chart: Chart, width: number): { columns: number; height: number } {
  if (chart.kind !== 'multiples') return { columns: 1, height: HEIGHT }
  const columns = Math.max(1, Math.min(chart.series.length, Math.floor(width / NARROW), 4))
  return { columns, height: Math.ceil(chart.series.length / columns) * SMALL + 8 }
}

/** A number along the axis: whole as long as it is short, and then with as few figures as say it. */
const whole = new Intl.NumberFormat('en-GB', { maximumFractionDigits: 2 })
const few = new Intl.NumberFormat('en-GB', { notation: 'compact', maximumFractionDigits: 1 })
const compact = { format: (value: number) => (Math.abs(value) < 100_000 ? whole : few).format(value) }

/** The units that durations are read in along an axis, in seconds, the longest first. */
const UNITS = [
  { seconds: 86_400, words: 'd' },
  { seconds: 3_600, words: 'h' },
  { seconds: 60, words: 'min' },
  { seconds: 1, words: 's' },
]

/** How an axis is divided: in some `parts` of 1, 2 or 5 times a power of ten; durations in whole units of time. */
export function divided(
  type: string,
  most: number,
  parts = 4,
): { interval: number; words: (value: number) => string } {
  const unit =
    type === 'duration'
      ? (UNITS.find((u) => most / u.seconds >= 2) ?? UNITS.at(-1)!)
      : { seconds: 1, words: '' }
  const about = (most || 1) / unit.seconds / parts
  const power = 10 ** Math.floor(Math.log10(about))
  const step = [1, 2, 5, 10].map((n) => n * power).find((n) => n >= about) ?? about
  return {
    interval: Math.max(step, unit.words ? 1 : 0) * unit.seconds,
    words: (value) => `${compact.format(value / unit.seconds)} ${unit.words}`.trim(),
  }
}

/** Patterns that tell colours apart for whoever does not see them, quiet enough not to be looked at. */
const decals = (paper: string, thin = /^#[0-9a-f]{6}$/i.test(paper) ? paper + '99' : paper) =>
  [undefined, 0.8, -0.8, 0, 1.57, 0.4, -0.4, 1.2].map((rotation) =>
    rotation === undefined
      ? { symbol: 'none' }
      : { color: thin, symbol: 'rect', symbolSize: 1, dashArrayX: [1, 0], dashArrayY: [1.5, 6], rotation },
  )

/** Points that tell lines apart; the second four lines are dashed besides. */
const SYMBOLS = ['circle', 'rect', 'triangle', 'diamond']

/** The chart as ECharts takes it. */
export function optionsOf(chart: Chart, look: Look, width: number): EChartsCoreOption {
  const small = chart.kind === 'multiples'
  const { columns, height } = panelsOf(chart, width)
  const several = chart.series.length > 1
  const letters = { fontFamily: look.font, fontSize: 12, color: look.quiet }
  const values = chart.series.flatMap((s) => s.marks.map((m) => Math.abs(m.value ?? 0)))
  const most =
    chart.kind === 'stacked'
      ? Math.max(
          0,
          ...chart.places.map((_, i) => chart.series.reduce((sum, s) => sum + (s.marks[i]!.value ?? 0), 0)),
        )
      : Math.max(0, ...values)
  const { interval, words: axisWords } = divided(chart.figure.type, most, small ? 2 : 4)
  const extent = small ? extentOf(chart.series, interval) : {}

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
          outerBoundsMode: 'same',
          outerBoundsContain: 'axisLabel',
        },
      ]

  return {
    animation: false,
    textStyle: { fontFamily: look.font, color: look.ink },
    // Told apart by more than their colours.
    aria: {
      enabled: true,
      label: { enabled: false },
      decal: { show: several && !small && chart.kind !== 'line', decals: decals(look.card) },
    },
    color: look.series,
    ...(several && !small
      ? {
          legend: {
            type: 'scroll',
            top: 0,
            left: 0,
            ...(chart.kind === 'line' ? { itemWidth: 30 } : { icon: 'roundRect' }),
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
      interval,
      splitLine: { lineStyle: { color: look.rule } },
      axisLabel: {
        ...letters,
        ...(small ? { fontSize: 11 } : {}),
        formatter: axisWords,
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
      symbol: SYMBOLS[i % SYMBOLS.length],
      symbolSize: 8,
      ...(i >= SYMBOLS.length ? { lineStyle: { type: 'dashed' } } : {}),
      connectNulls: false,
      cursor: 'pointer',
      data: series.marks.map((m) => ({ value: m.value ?? null, cursor: m.place ? 'pointer' : 'default' })),
    })),
  }
}

/** One measure for all small charts, in whole parts of the axis. */
function extentOf(series: Series[], interval: number): { min: number; max: number } {
  const values = series.flatMap((s) => s.marks.flatMap((m) => m.value ?? []))
  return {
    min: Math.floor(Math.min(0, ...values) / interval) * interval,
    max: Math.ceil(Math.max(0, ...values) / interval) * interval,
  }
}
