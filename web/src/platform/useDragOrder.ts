import { ref } from 'vue'

/**
 * Lines that are put in another order by dragging one onto another.
 *
 * @param put puts the first line where the second one stands; both by their keys
 * @returns what a line is bound to, by its key: `<li v-bind="line(key)">`
 */
export function useDragOrder(put: (key: string, on: string) => void) {
  const dragged = ref<string>()
  const over = ref<string>()
  const end = () => (dragged.value = over.value = undefined)
  const line = (key: string) => ({
    draggable: true,
    class: { over: over.value === key && dragged.value !== key },
    onDragstart: () => (dragged.value = key),
    onDragend: end,
    onDragover: (event: DragEvent) => {
      event.preventDefault()
      over.value = key
    },
    onDrop: (event: DragEvent) => {
      event.preventDefault()
      const from = dragged.value
      end()
      if (from !== undefined && from !== key) put(from, key)
    },
  })
  return { line }
}
