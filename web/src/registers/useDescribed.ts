import { reactive, watch } from 'vue'
import type { Register } from '@/api/client'
import { useCatalogue } from './catalogue'

/** The registers of some keys as they are described, each once it is known; one that cannot be read stays away. */
export function useDescribed(keys: () => string[]): ReadonlyMap<string, Register> {
  const catalogue = useCatalogue()
  const known = reactive(new Map<string, Register>())
  watch(
    keys,
    (wanted) => {
      for (const key of wanted.filter((k) => !known.has(k)))
        catalogue.describe(key).then(
          (register) => known.set(key, register),
          () => undefined,
        )
    },
    { immediate: true },
  )
  return known as ReadonlyMap<string, Register>
}
