import { onBeforeUnmount, onMounted } from 'vue'
import { useSession } from '@/people/session'
import { offerActions, type Action } from '@/platform/actions'

/**
 * What can be done on a page: offered in the palette, and by its key while nobody types and no dialog is open, unless the person
 * has switched keys of one letter off.
 *
 * @param acts what can be done now; those without words are reached by their key only
 * @param steps undo and redo, by the keys that every program has for them
 * @param escape puts away what is open
 */
export function useActs(
  acts: () => Action[],
  steps: { back: () => void; forward: () => void },
  escape: () => void,
) {
  const session = useSession()
  function keys(event: KeyboardEvent) {
    const target = event.target as HTMLElement
    const typing = target.closest('input, textarea, select, [contenteditable="true"]')
    if ((event.ctrlKey || event.metaKey) && !typing && ['z', 'y'].includes(event.key.toLowerCase())) {
      event.preventDefault()
      if (event.key.toLowerCase() === 'y' || event.shiftKey) steps.forward()
      else steps.back()
      return
    }
    if (
      typing ||
      target.closest('.el-dialog, .panel, .editor') ||
      event.ctrlKey ||
      event.metaKey ||
      event.altKey
    )
      return
    if (event.key === 'Escape') escape()
    else if (session.letterKeys) {
      const act = acts().find((a) => a.key === event.key)
      if (!act) return
      act.run()
    } else return
    event.preventDefault()
  }
  onMounted(() => window.addEventListener('keydown', keys))
  onBeforeUnmount(() => window.removeEventListener('keydown', keys))
  offerActions(acts)
}
