import { defaultRangeExtractor, useVirtualizer } from '@tanstack/vue-virtual'
import { computed, onMounted, onUpdated, ref, watch, type Ref } from 'vue'
import type { Line } from './lines'
import type { Shape } from './shape'
import { HEADS } from './useGrid'

/** How high a line is, in CSS pixels. */
const HEIGHTS = { close: 25, usual: 31, open: 41 }
/** So many lines before the last one more are wanted. */
const AHEAD = 40

/**
 * Of thousands of lines, those that are drawn: what is in sight, and a few more.
 *
 * @param root what the table stands in
 * @param of the lines, and what they are scrolled in
 * @param stop the line with the Tab stop, or the heads
 * @param more is told when the last lines come near
 */
export function useDrawnLines(
  root: Ref<HTMLElement | undefined>,
  of: { lines: Line[]; shape: Shape; done: boolean; scroller?: HTMLElement },
  stop: () => number,
  more: () => void,
) {
  const height = computed(() => HEIGHTS[of.shape.density ?? 'usual'])
  /** where the lines begin in what is scrolled, in CSS pixels */
  const offset = ref(0)
  const virtualizer = useVirtualizer(
    computed(() => ({
      count: of.lines.length,
      getScrollElement: () => of.scroller ?? null,
      estimateSize: () => height.value,
      getItemKey: (index: number) => of.lines[index]?.key ?? index,
      overscan: 14,
      scrollMargin: offset.value,
      // The line with the Tab stop is drawn however far away it is, so that the keys are never lost.
      rangeExtractor: (range: Parameters<typeof defaultRangeExtractor>[0]) => {
        const drawn = defaultRangeExtractor(range)
        const kept = stop()
        return kept === HEADS || drawn.includes(kept) || kept >= range.count
          ? drawn
          : [...drawn, kept].sort((a, b) => a - b)
      },
    })),
  )

  /** Whether the lines of groups are as high as their words and figures take. */
  const tall = computed(() => of.shape.wrap || (of.shape.measures?.length ?? 0) > 0)
  watch([height, tall], () => virtualizer.value.measure())
  /** Lines of several lines of text have heights of their own. */
  const sized = (el: unknown) => {
    if (of.shape.wrap && el instanceof HTMLElement) virtualizer.value.measureElement(el)
  }
  const sizedLine = (line: unknown) => {
    const el = (line as { $el?: unknown } | null)?.$el
    if (tall.value && el instanceof HTMLElement) virtualizer.value.measureElement(el)
  }

  const items = computed(() =>
    virtualizer.value
      .getVirtualItems()
      .filter((item) => of.lines[item.index])
      .map((item, i, all) => ({
        ...item,
        line: of.lines[item.index]!,
        /** what is left free before it for lines that are not drawn, in CSS pixels */
        gap: item.start - (all[i - 1]?.end ?? offset.value),
      })),
  )
  /** what is left free after the last one, in CSS pixels */
  const after = computed(() => {
    const last = items.value.at(-1)
    return last ? virtualizer.value.getTotalSize() - (last.end - offset.value) : 0
  })

  function measure() {
    if (!root.value || !of.scroller) return
    const top =
      root.value.getBoundingClientRect().top - of.scroller.getBoundingClientRect().top + of.scroller.scrollTop
    if (Math.abs(top - offset.value) > 1) offset.value = top
  }
  onMounted(measure)
  onUpdated(measure)

  watch(
    () => items.value.at(-1)?.index ?? 0,
    (last) => {
      if (!of.done && last > of.lines.length - AHEAD) more()
    },
  )

  return {
    height,
    items,
    after,
    sized,
    sizedLine,
    scrollTo: (index: number) => virtualizer.value.scrollToIndex(index),
  }
}
