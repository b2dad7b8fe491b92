import { computed, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, data, sentence } from '@/api/client'
import { written } from '@/rows/shape'
import { fileForm } from './fileForm'
import { READERS_ZONE, type useQuestion } from './useQuestion'

/** The longest address, in characters, that every server between here and there takes. */
const LONGEST_ADDRESS = 4000

/**
 * Carrying the question of a page elsewhere: as a link, as words, as a file of its answer.
 *
 * @param q the question
 * @param zone the zone whose days count
 * @param said what is announced once it is done
 * @param write opens the statement for writing, where the clipboard cannot be reached
 */
export function useCarrying(
  q: ReturnType<typeof useQuestion>,
  zone: Ref<string>,
  said: Ref<string>,
  write: () => void,
) {
  const { register, view, where, order, columns, shape, asOf, recordsAt, chosenZone, answers, changed } = q
  const route = useRoute()
  const router = useRouter()

  /** The answers as a link carries them. */
  const filledIn = computed(() =>
    Object.fromEntries(Object.entries(answers.value).map(([label, value]) => ['ask.' + label, value])),
  )

  /** Where the answer is written as CSV: of the view as it is kept, or of what the page asks now. */
  const exportUrl = computed(() => {
    if (!register.value) return ''
    if (view.value && !changed.value) {
      return (
        `/api/views/${view.value.id}/export.csv?` +
        new URLSearchParams({
          ...(asOf.value ? { asOf: asOf.value } : {}),
          ...(recordsAt.value ? { recordsAt: recordsAt.value } : {}),
          ...(chosenZone.value === READERS_ZONE ? { readerZone: zone.value } : {}),
          ...filledIn.value,
          times: fileForm.times,
          bom: String(fileForm.mark),
        })
      )
    }
    const query = new URLSearchParams({
      ...filledIn.value,
      statement: where.value,
      order: order.value.join(),
      columns: columns.value.join(),
      shape: written(shape.value),
      times: fileForm.times,
      bom: String(fileForm.mark),
    })
    if (asOf.value) query.set('asOf', asOf.value)
    if (recordsAt.value) query.set('recordsAt', recordsAt.value)
    if (q.zone.value) query.set('zone', q.zone.value)
    if (view.value) query.set('name', view.value.name)
    return `/api/registers/${register.value.key}/export.csv?${query}`
  })

  /** Fetches the file of a question that is too long for an address: it is sent first. */
  async function exportLong(event: Event) {
    if (exportUrl.value.length <= LONGEST_ADDRESS || !register.value) return
    event.preventDefault()
    try {
      const { file } = await data(
        api.POST('/api/registers/{key}/export', {
          params: { path: { key: register.value.key } },
          body: {
            statement: where.value,
            asOf: asOf.value,
            recordsAt: recordsAt.value,
            zone: q.zone.value,
            answers: answers.value,
            order: order.value,
            columns: columns.value,
            shape: shape.value,
            name: view.value?.name,
            times: fileForm.times,
            bom: fileForm.mark,
          },
        }),
      )
      location.assign(file)
    } catch (e) {
      said.value = sentence(e)
    }
  }

  /** Copies a link to the question as it stands, with or without what this reader filled in. */
  async function copyLink(withAnswers: boolean) {
    const { query: parameters } = router.resolve(route.fullPath)
    const own = Object.fromEntries(Object.entries(parameters).filter(([name]) => !name.startsWith('ask.')))
    const { href } = router.resolve({
      path: route.path,
      query: withAnswers ? { ...own, ...filledIn.value } : own,
      hash: route.hash,
    })
    try {
      await navigator.clipboard.writeText(new URL(href, location.origin).href)
      said.value = withAnswers
        ? 'The link is copied, with what you filled in.'
        : 'The link is copied. It carries the question as it stands.'
    } catch {
      said.value = 'Copy the address from the address bar: it carries the question as it stands.'
    }
  }

  async function copyWords() {
    try {
      await navigator.clipboard.writeText(where.value)
      said.value = 'The statement is copied.'
    } catch {
      write()
    }
  }

  return { exportUrl, exportLong, copyLink, copyWords }
}
