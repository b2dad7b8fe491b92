import { ref } from 'vue'
import { Problem, sentence } from '@/api/client'
import { useFieldError } from './useFieldError'

/**
 * What was refused in a form, in words above it; where the server says which property of the request it is about (`at` of its
 * problem), the field of that `name` is invalid and described by the words.
 *
 * The words stand in `<p v-if="trouble" :id="troubleId" role="alert">`; the field is looked for in the part of the page around them.
 */
export function useRefusal() {
  const trouble = ref('')
  const at = ref('')
  const troubleId = useFieldError(
    () =>
      document
        .getElementById(troubleId)
        ?.closest('[role=dialog], main, section')
        ?.querySelectorAll(`[name="${CSS.escape(at.value)}"]`) ?? [],
    () => (at.value && trouble.value ? trouble.value : ''),
  )
  /** Says what was thrown. */
  function refused(e: unknown) {
    at.value = e instanceof Problem && typeof e.details.at === 'string' ? e.details.at : ''
    trouble.value = sentence(e)
  }
  return { trouble, troubleId, at, refused }
}
