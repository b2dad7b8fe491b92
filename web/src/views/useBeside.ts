import { computed, nextTick, ref, watch, type Ref } from 'vue'

/** What the panel beside the records is about: one record, why it is in the answer or is not, or the edges. */
export type Side = 'record' | 'why' | 'edges'

/**
 * The panel beside the records, and where the keys are as it comes and goes.
 *
 * @param selected the record that is looked at
 * @param select looks at another one, or at none
 * @param toRecords gives the keys to the records
 */
export function useBeside(
  selected: Ref<string | undefined>,
  select: (id?: string) => void,
  toRecords: () => void,
) {
  const side = ref<Side>('record')
  const beside = computed(() => selected.value !== undefined || side.value !== 'record')
  /** what had the keys before they went into the panel */
  let before: Element | null = null

  /** Shows something in it. The keys go there, unless they are at a record: then the panel follows as they walk. */
  async function show(what: Side) {
    const at = document.activeElement
    side.value = what
    if (selected.value !== undefined && at?.closest('.table')) return
    if (!at?.closest('aside.side')) before = at
    await nextTick()
    const place = what === 'why' && selected.value === undefined ? 'why-named' : `side-${what}`
    document.getElementById(place)?.focus()
  }

  /** Puts it away; the keys that were in it go back to where they came from, or else on at the records. */
  function close() {
    const back = document.activeElement?.closest('aside.side') ? before : null
    before = null
    side.value = 'record'
    if (selected.value !== undefined) select()
    if (back?.isConnected && back.checkVisibility()) (back as HTMLElement).focus()
  }

  watch(
    beside,
    (now) => {
      if (!now && document.activeElement === document.body) toRecords()
    },
    { flush: 'post' },
  )

  return { side, beside, show, close }
}
