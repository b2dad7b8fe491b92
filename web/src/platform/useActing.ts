import { ref } from 'vue'
import { useRefusal } from './useRefusal'

/**
 * The frame of what somebody sets going: busy until it is over, then what was done, or why it was not. Words of before go when
 * something new begins.
 *
 * What is refused stands in `<p v-if="trouble" :id="troubleId" class="notice" role="alert">`, what was done in `<SaidLine :words="said" />`;
 * where the server says which field of the form it is about, that field is invalid (see useRefusal).
 */
export function useActing() {
  const busy = ref(false)
  const said = ref('')
  const { trouble, troubleId, at, refused } = useRefusal()

  /**
   * Does something.
   *
   * @param what may give what is to be said once it is done
   * @param also what else happens when it is refused; may put other words in the place of those that stand there
   * @returns whether it was done
   */
  async function act(what: () => Promise<string | void>, also?: (e: unknown) => unknown): Promise<boolean> {
    busy.value = true
    trouble.value = said.value = ''
    try {
      const words = await what()
      if (words) said.value = words
      return true
    } catch (e) {
      refused(e)
      await also?.(e)
      return false
    } finally {
      busy.value = false
    }
  }

  return { busy, trouble, troubleId, at, said, refused, act }
}
