import { computed, ref, watch } from 'vue'
import type { FieldDescription, Register } from '@/api/client'
import { placeIn } from './orders'
import type { Column, Shape } from './shape'

/** The width of the column that marks matches, in pixels. */
export const MARK = 30
/** The width of the column of a running total, in pixels. */
export const RUNNING = 110
const LEAST_TITLE = 180
const NARROWEST = 40
const WIDEST = 1200
/** The width of a figure, in pixels; all have the same. */
const FIGURE = 7.8
/** How far one key press takes the edge of a column, in pixels. */
const STEP = 16

/**
 * The columns of the table as they stand: in which order, how wide, which of them stay in sight.
 *
 * @param props what the table shows
 * @param reshape takes a shape with a column changed
 * @param traced whether records say whether they match, without the shape that has them marked: the others share a value with these
 * @param longest how many characters the longest number of a column has, among the records that are there
 */
export function useColumns(
  props: Readonly<{
    register: Register
    columns: string[]
    order: string[]
    shape: Shape
    /** whether a column of boxes comes before all others */
    choosing?: boolean
  }>,
  reshape: (shape: Shape) => void,
  longest: (key: string) => number = () => 0,
  traced: () => boolean = () => false,
) {
  /** What is particular about a column. */
  const own = (key: string): Column => props.shape.columns?.[key] ?? {}
  const head = (field: FieldDescription) => own(field.key).title || field.label

  /** Those that are pinned come first. */
  const fields = computed(() => {
    const all = props.columns
      .map((key) => props.register.fields.find((f) => f.key === key))
      .filter((f): f is FieldDescription => f !== undefined)
    return [...all.filter((f) => own(f.key).pinned), ...all.filter((f) => !own(f.key).pinned)]
  })
  /** The field of the running total, and the column that it stands behind. */
  const running = computed(() => {
    if (!props.shape.running) return undefined
    const of = props.register.fields.find((f) => f.key === props.register.running)
    if (!of) return undefined
    const at = fields.value.findIndex((f) => f.key === of.key)
    return { field: of, after: at < 0 ? fields.value.length - 1 : at }
  })
  const marked = computed(() => props.shape.marked === true || traced())
  /** How many narrow columns come before those of fields: boxes to choose by, marks of matches. */
  const lead = computed(() => (props.choosing ? 1 : 0) + (marked.value ? 1 : 0))
  /** How many cells a line has. */
  const cells = computed(() => fields.value.length + (running.value ? 1 : 0) + lead.value)

  /** The width that is being drawn, until it is let go. */
  const drawn = ref<{ key: string; width: number }>()

  /** The width of a column in pixels; none for the one that takes what is left. */
  function width(field: FieldDescription): number | undefined {
    if (drawn.value?.key === field.key) return drawn.value.width
    const { width: chosen, pinned, title } = own(field.key)
    if (chosen) return chosen
    if (field.identifying && !title) return 84
    if (field.key === props.register.titleField) return pinned ? LEAST_TITLE : undefined
    const letters = head(field).length * 7.4
    switch (field.type) {
      case 'moment':
        return Math.max(140, figures(field))
      case 'date':
        return Math.max(92, figures(field))
      case 'number':
      case 'duration':
        return Math.max(56, (placeIn(props.order, field.key) < 0 ? 24 : 46) + letters, figures(field))
      case 'money':
        return Math.max(92, figures(field))
      case 'yes/no':
        return Math.max(64, 24 + letters)
      case 'choice':
        return 124
      case 'person':
        return 100
      default:
        return 150
    }
  }
  /** The width that the numbers of a column need: one that is cut would be taken for another. */
  const figures = (field: FieldDescription) => Math.ceil(longest(field.key) * FIGURE) + 14
  const least = (field: FieldDescription) => width(field) ?? LEAST_TITLE

  /** The least width of the whole table, in pixels. */
  const wholeWidth = computed(
    () =>
      fields.value.reduce((sum, f) => sum + least(f), 0) + (running.value ? RUNNING : 0) + lead.value * MARK,
  )

  /** How many columns stay in sight: those that are pinned, or the one that names a record when it comes first. */
  const held = computed(() => {
    const first = fields.value[0]
    const pins = fields.value.filter((f) => own(f.key).pinned).length
    return pins || (first && (first.identifying || first.key === props.register.titleField) ? 1 : 0)
  })
  /** How far from the left a column that stays in sight stands. */
  const left = (index: number) =>
    fields.value.slice(0, index).reduce((sum, f) => sum + least(f), lead.value * MARK) + 'px'

  function setWidth(key: string, to?: number) {
    reshape({ ...props.shape, columns: { ...props.shape.columns, [key]: { ...own(key), width: to } } })
  }
  const within = (to: number) => Math.max(NARROWEST, Math.min(WIDEST, Math.round(to)))

  let pulled: { key: string; from: number; x: number } | undefined
  function pull(event: PointerEvent, field: FieldDescription) {
    const cell = (event.target as HTMLElement).closest('th')!
    pulled = { key: field.key, from: cell.getBoundingClientRect().width, x: event.clientX }
    ;(event.target as HTMLElement).setPointerCapture(event.pointerId)
  }
  function pulling(event: PointerEvent) {
    if (pulled) drawn.value = { key: pulled.key, width: within(pulled.from + event.clientX - pulled.x) }
  }
  function letGo() {
    pulled = undefined
    if (drawn.value) setWidth(drawn.value.key, drawn.value.width)
  }
  // The drawn width stands until the shape has it.
  watch(
    () => props.shape,
    () => (drawn.value = undefined),
  )
  function resizeByKey(event: KeyboardEvent, field: FieldDescription) {
    const step = event.key === 'ArrowRight' ? STEP : event.key === 'ArrowLeft' ? -STEP : 0
    if (!event.altKey || !step) return
    event.preventDefault()
    event.stopPropagation()
    resizeBy(field, step, (event.target as HTMLElement).closest('th')!)
  }
  /** Makes a column wider by so many pixels, or narrower; its head says how wide it is where nothing else does. */
  function resizeBy(field: FieldDescription, by: number, th: Element) {
    setWidth(field.key, within((width(field) ?? th.getBoundingClientRect().width) + by))
  }

  return {
    fields,
    head,
    running,
    marked,
    lead,
    cells,
    width,
    wholeWidth,
    held,
    left,
    setWidth,
    pull,
    pulling,
    letGo,
    resizeByKey,
    resizeBy,
  }
}
