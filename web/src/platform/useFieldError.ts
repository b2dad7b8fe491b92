import { useId, watch } from 'vue'

/**
 * Says of fields that a message is about them, as long as it stands there: they are invalid, and the message describes them
 * (WCAG 3.3.1).
 *
 * @param fields the fields, as they are drawn when the message comes
 * @param message what is wrong with them; empty where nothing is
 * @returns the id for the element with the message
 */
export function useFieldError(fields: () => Iterable<Element>, message: () => string): string {
  const id = useId()
  let marked: Element[] = []
  watch(
    message,
    (now) => {
      for (const field of marked) {
        field.removeAttribute('aria-invalid')
        field.removeAttribute('aria-describedby')
      }
      marked = now ? [...fields()] : []
      for (const field of marked) {
        field.setAttribute('aria-invalid', 'true')
        field.setAttribute('aria-describedby', id)
      }
    },
    { flush: 'post' },
  )
  return id
}
