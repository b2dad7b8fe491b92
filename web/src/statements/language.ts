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

/**
 * How a field is calculated from the others of a register.
 *
 * @param field the field that it is the calculation of, which it cannot name; absent for a new one
 */
export const overCalculations = (key: string, field?: string): Language => ({
  complete: (text, position) =>
    data(
      api.POST('/api/registers/{key}/calculations/complete', {
        params: { path: { key } },
        body: { text, position, field: field ?? null },
      }),
    ),
  read: async (text, signal) =>
    // Nothing is no mistake yet.
    text.trim() &&
    (
      await data(
        api.POST('/api/registers/{key}/calculations/read', {
          params: { path: { key } },
          body: { calculation: text, field: field ?? null },
          signal,
        }),
      )
    ).calculation,
  example: 'days_between(due, today), or amount * 2, or status is "Open"',
})

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
