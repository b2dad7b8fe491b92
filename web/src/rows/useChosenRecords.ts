import { ref, watch, type Ref } from 'vue'
import { api, data, isAborted, latest, type Register, type Row } from '@/api/client'
import { useRefusal } from '@/platform/useRefusal'

/**
 * Records with all their fields, read when a dialog about them opens.
 *
 * @param open whether it is open
 * @param of which records, and as they were kept when
 */
export function useChosenRecords(
  open: Ref<boolean>,
  of: Readonly<{ register: Register; ids: string[]; zone: string; recordsAt?: string }>,
) {
  const rows = ref<Row[]>([])
  const asking = latest()
  const { trouble, refused } = useRefusal()
  watch(open, async (now) => {
    rows.value = []
    trouble.value = ''
    if (!now) return
    const { key } = of.register
    const query = of.recordsAt ? { recordsAt: of.recordsAt, zone: of.zone } : {}
    try {
      rows.value = await asking.ask((signal) =>
        Promise.all(
          of.ids.map((id) =>
            data(
              api.GET('/api/registers/{key}/records/{id}', { params: { path: { key, id }, query }, signal }),
            ),
          ),
        ),
      )
    } catch (e) {
      if (!isAborted(e)) refused(e)
    }
  })
  return { rows, trouble }
}
