import { ref, type Ref } from 'vue'
import { api, data, type Register, type Schemas } from '@/api/client'

/** Where the values of a field can be looked for. */
export type Place = Schemas['ValuePlace']

const known = new Map<string, { register: Register; places: Promise<Place[]> }>()

/**
 * Where the values of a register's fields can be looked for; nothing until it is known, and where it cannot be known now. It is asked for
 * once for each description of the register.
 */
export function usePlaces(register: Register): Readonly<Ref<Place[]>> {
  const places = ref<Place[]>([])
  let asked = known.get(register.key)
  if (asked?.register !== register) {
    asked = {
      register,
      places: data(api.GET('/api/registers/{key}/places', { params: { path: { key: register.key } } })),
    }
    known.set(register.key, asked)
  }
  asked.places.then(
    (found) => (places.value = found),
    () => known.delete(register.key),
  )
  return places
}
