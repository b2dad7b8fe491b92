import { computed, nextTick, ref, watch, type Ref } from 'vue'
import type { Line } from './lines'

/** The line above all others: the heads of the columns. */
export const HEADS = -1
/** How many lines a page key goes. */
const PAGE = 15
/** How long a line that was scrolled to is waited for, in frames. */
const FRAMES = 30

/**
 * Where the keys are in the table: in a line and a column, or in the heads. One place has the table's one Tab stop; the arrows go
 * from there (WAI-ARIA's grid, and its tree grid where there are groups). Records are gone through by cells, groups and what else
 * stands between them by lines.
 *
 * @param root what the table stands in; its lines carry `data-index`, their cells `data-field`, the heads' buttons `data-stop`
 * @param lines the lines there are, drawn or not
 * @param columns how many columns there are
 * @param scrollTo draws a line that is far away
 * @param arrived is told of a line that somebody went to
 */
export function useGrid(
  root: Ref<HTMLElement | undefined>,
  lines: () => Line[],
  columns: () => number,
  scrollTo: (line: number) => void,
  arrived: (line: number) => void,
) {
  const line = ref(0)
  const column = ref(0)
  /** the button of the heads that the keys were at last */
  const stop = ref('')
  /** whether somebody has gone to a line of these */
  let begun = false

  watch(columns, (now) => {
    if (column.value >= now) column.value = Math.max(0, now - 1)
  })
  watch(lines, (now, old) => {
    // What is opened or closed below leaves the place where it is.
    if (line.value !== HEADS && (now[0]?.key !== old[0]?.key || line.value >= now.length)) {
      line.value = 0
      begun = false
    }
  })

  /** The line whose cell, or which itself, has the Tab stop; the heads have it where there are no lines. */
  const stopLine = computed(() => (lines().length ? line.value : HEADS))
  const isByCells = (index: number) => lines()[index]?.kind === 'record'
  /** What Tab comes to among the heads. */
  const headStop = computed(() => (stopLine.value === HEADS ? stop.value || headStops()[0] : undefined))
  const headStops = () =>
    [...(root.value?.querySelectorAll<HTMLElement>('thead [data-stop]') ?? [])].map((e) => e.dataset.stop!)

  function element(index: number): HTMLElement | null | undefined {
    const row = root.value?.querySelector<HTMLElement>(`tr[data-index="${index}"]`)
    return isByCells(index) ? row?.querySelectorAll<HTMLElement>('[data-field]')[column.value] : row
  }

  /**
   * Puts the keys where they are to be, once that is drawn: a line that is far away is scrolled to first.
   *
   * @param head the button of the heads that they go to instead
   */
  async function focus(head?: string) {
    if (head) return focusHead(head)
    const wanted = line.value
    if (wanted === HEADS || !lines().length) return focusHead(headStop.value)
    for (let frames = 0; frames < FRAMES && line.value === wanted; frames++) {
      await nextTick()
      const found = element(wanted)
      if (found) return found.focus()
      await new Promise(requestAnimationFrame)
    }
  }
  async function focusHead(wanted: string | undefined) {
    if (!wanted) return
    line.value = HEADS
    stop.value = wanted
    await nextTick()
    root.value?.querySelector<HTMLElement>(`thead [data-stop="${wanted}"]`)?.focus()
  }

  /** Goes to a line, with the keys. */
  function goTo(index: number) {
    line.value = Math.max(0, Math.min(lines().length - 1, index))
    begun = true
    scrollTo(line.value)
    void focus()
    arrived(line.value)
  }
  /** Makes a place the one where the keys are, without moving them. */
  function take(index: number, at = column.value) {
    line.value = index
    column.value = Math.max(0, at)
    begun = true
  }
  function goToColumn(to: number) {
    column.value = Math.max(0, Math.min(columns() - 1, to))
    void focus()
  }

  /** Notes where the keys have come to by themselves. */
  function came(event: FocusEvent) {
    const target = event.target as HTMLElement
    const head = target.closest<HTMLElement>('thead [data-stop]')
    if (head) {
      line.value = HEADS
      stop.value = head.dataset.stop!
      return
    }
    const row = target.closest<HTMLElement>('tr[data-index]')
    if (!row) return
    line.value = Number(row.dataset.index)
    const cells = [...row.querySelectorAll('[data-field]')]
    const at = cells.indexOf(target.closest('[data-field]')!)
    if (at >= 0) column.value = at
  }

  /** The group that a line lies in. */
  function parent(index: number): number {
    const depth = lines()[index]?.depth ?? 0
    for (let i = index - 1; i >= 0; i--) {
      const other = lines()[i]!
      if (other.kind === 'group' && other.depth < depth) return i
    }
    return -1
  }

  /**
   * Moves by a key, in the heads or among the lines.
   *
   * @returns whether it was one that moves
   */
  function move(event: KeyboardEvent): boolean {
    if (event.altKey || event.metaKey) return false
    const inHeads = (event.target as HTMLElement).closest('thead') !== null
    const moved = inHeads ? moveInHeads(event) : moveInLines(event)
    if (moved) event.preventDefault()
    return moved
  }
  function moveInHeads(event: KeyboardEvent): boolean {
    const all = headStops()
    const at = all.indexOf(stop.value)
    const to: Record<string, number> = {
      ArrowRight: at + 1,
      ArrowLeft: at - 1,
      Home: 0,
      End: all.length - 1,
    }
    if (event.key === 'ArrowDown') {
      const heads = [...(root.value?.querySelectorAll('thead th[data-column]') ?? [])]
      const head = (event.target as HTMLElement).closest('th[data-column]')
      column.value = Math.max(0, heads.indexOf(head!))
      if (lines().length) goTo(0)
      return true
    }
    if (!(event.key in to)) return false
    void focusHead(all[Math.max(0, Math.min(all.length - 1, to[event.key]!))])
    return true
  }
  function moveInLines(event: KeyboardEvent): boolean {
    const at = line.value
    const here = lines()[at]
    const last = lines().length - 1
    switch (event.key) {
      case 'ArrowUp':
        if (at > 0) goTo(at - 1)
        else
          void focusHead(
            root.value
              ?.querySelectorAll<HTMLElement>('thead th[data-column]')
              [column.value]?.querySelector<HTMLElement>('[data-stop]')?.dataset.stop,
          )
        return true
      case 'ArrowDown':
        goTo(at + 1)
        return true
      case 'PageUp':
        goTo(at - PAGE)
        return true
      case 'PageDown':
        goTo(at + PAGE)
        return true
      case 'Home':
      case 'End':
        if (event.ctrlKey || here?.kind !== 'record') goTo(event.key === 'Home' ? 0 : last)
        else goToColumn(event.key === 'Home' ? 0 : columns() - 1)
        return true
      case 'ArrowRight':
      case 'ArrowLeft': {
        const right = event.key === 'ArrowRight'
        if (here?.kind === 'group' && here.open !== right) here.toggle()
        else if (right && here?.kind === 'group') goTo(at + 1)
        else if (!right && (here?.kind !== 'record' || column.value === 0) && parent(at) >= 0)
          goTo(parent(at))
        else if (here?.kind === 'record') goToColumn(column.value + (right ? 1 : -1))
        return true
      }
      default:
        return false
    }
  }

  return { line, column, stopLine, headStop, hasBegun: () => begun, focus, goTo, take, came, move }
}
