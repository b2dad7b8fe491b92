import { api, data } from '@/api/client'
import type { components } from '@/api/schema'

/** What a statement can be written over: the fields of a register, the figures of totals. */
export interface Language {
  /** what may stand at a place of it */
  complete: (text: string, position: number) => Promise<components['schemas']['Answer']>
  /** the statement as it is printed; fails where it cannot be read */
  read: (text: string, signal: AbortSignal) => Promise<string>
  /** what stands in the place of an empty one */
  example: string
}

/** Statements over the records of a register. */
export const overRecords = (key: string): Language => ({
  complete: (text, position) =>
    data(api.POST('/api/registers/{key}/complete', { params: { path: { key } }, body: { text, position } })),
  read: async (text, signal) =>
    (
      await data(
        api.POST('/api/registers/{key}/statement', {
          params: { path: { key } },
          body: { statement: text },
          signal,
        }),
      )
    ).statement,
  example: 'due before today and status is not "Done"',
})
