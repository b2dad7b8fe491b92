import { ref, type Ref } from 'vue'
import type { FieldDescription, Row } from '@/api/client'
import { isNumeric } from '@/platform/format'
import { offers, textOffers, type Offer } from '@/statements/narrowing'

/** A value that something is to be done with. */
interface Pointed {
  /** where its menu opens, in CSS pixels from the corner of the window */
  x: number
  y: number
  field: FieldDescription
  row: Row
  index: number
  offers: Offer[]
}

/** What of the cell's text is selected, if anything is. */
export function selection(event: MouseEvent): string {
  const selected = window.getSelection()
  const cell = (event.target as HTMLElement).closest('td')
  return selected && !selected.isCollapsed && cell?.contains(selected.anchorNode) ? selected.toString() : ''
}

/**
 * Narrowing by pointing: the value that has a menu open, and the cell under the pointer that shows how to get it.
 *
 * @param root what the table stands in
 * @param on the record of a line, what can be done with a value besides opening it, and who is told which cell it is
 */
export function usePointing(
  root: Ref<HTMLElement | undefined>,
  on: {
    rowAt: (index: number) => Row | undefined
    zone: () => string
    weekStarts: () => Parameters<typeof offers>[3]
    took: (index: number, field: FieldDescription) => void
  },
) {
  const pointed = ref<Pointed>()
  /** the cell under the pointer, which shows how to narrow by it */
  const over = ref<{ field: FieldDescription; index: number; left: number; top: number }>()

  /** Opens the menu of a value, or of what is selected of it. */
  function pointAt(field: FieldDescription, index: number, x: number, y: number, selected = '') {
    const row = on.rowAt(index)
    if (!row) return
    const value = row.values[field.key]
    const found = selected ? textOffers(field, String(value ?? ''), selected) : []
    pointed.value = {
      x,
      y,
      field,
      row,
      index,
      offers: found.length ? found : offers(field, value, on.zone(), on.weekStarts()),
    }
    on.took(index, field)
  }
  function context(event: MouseEvent, field: FieldDescription, index: number) {
    event.preventDefault()
    pointAt(field, index, event.clientX, event.clientY, selection(event))
  }
  function hover(event: MouseEvent, field: FieldDescription, index: number) {
    const cell = (event.target as HTMLElement).closest('td')!
    const box = root.value!.getBoundingClientRect()
    const place = cell.getBoundingClientRect()
    // Where the value is not: the last digits of a number must not be covered.
    const left = isNumeric(field) ? place.left + 2 : place.right - 26
    over.value = { field, index, left: left - box.left, top: place.top - box.top + 3 }
  }
  function byButton(event: MouseEvent) {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
    if (over.value) pointAt(over.value.field, over.value.index, box.left, box.bottom + 2)
  }
  /** Closes the menu; gives what it was about. */
  function close(): Pointed | undefined {
    const was = pointed.value
    pointed.value = undefined
    return was
  }

  return { pointed, over, pointAt, context, hover, byButton, close }
}
