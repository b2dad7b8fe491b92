import { describe, expect, it } from 'vitest'
import { nextTick, ref } from 'vue'
import type { Row } from '@/api/client'
import { useChosen } from './useChosen'

const row = (id: number) => ({ id: String(id), values: {} }) as unknown as Row
const SHOWN = Array.from({ length: 10 }, (_, i) => row(i))
const chosenOf = (chosen: ReturnType<typeof useChosen>) =>
  SHOWN.filter((r) => chosen.has(r.id)).map((r) => +r.id)

describe('records that are chosen', () => {
  it('are chosen by one, and from one to another, in both directions', () => {
    const chosen = useChosen(
      () => 'q',
      () => 214,
    )
    expect(chosen.some.value).toBe(false)
    chosen.toggle(row(3))
    chosen.rangeTo(row(5), SHOWN)
    expect(chosenOf(chosen)).toEqual([3, 4, 5])
    chosen.rangeTo(row(1), SHOWN)
    expect(chosenOf(chosen)).toEqual([1, 2, 3, 4, 5])
    chosen.toggle(row(4))
    expect(chosenOf(chosen)).toEqual([1, 2, 3, 5])
    expect(chosen.number.value).toBe(4)
    expect(chosen.meant.value).toEqual({ all: false, ids: ['3', '5', '1', '2'] })
  })

  it('are all that match but some, and the others', () => {
    const chosen = useChosen(
      () => 'q',
      () => 214,
    )
    chosen.everything()
    expect(chosen.number.value).toBe(214)
    chosen.toggle(row(2))
    chosen.toggle(row(7))
    expect(chosen.number.value).toBe(212)
    expect(chosenOf(chosen)).toEqual([0, 1, 3, 4, 5, 6, 8, 9])
    chosen.rangeTo(row(6), SHOWN)
    expect(chosen.number.value).toBe(213)
    chosen.invert()
    expect(chosenOf(chosen)).toEqual([2])
    expect(chosen.meant.value).toEqual({ all: false, ids: ['2'] })
    chosen.invert()
    expect(chosen.meant.value).toEqual({ all: true, ids: ['2'] })
  })

  it('are let go where another question is asked, and begin a range anew where its beginning is not shown', async () => {
    const question = ref('a')
    const chosen = useChosen(
      () => question.value,
      () => undefined,
    )
    chosen.toggle(row(99))
    chosen.rangeTo(row(4), SHOWN)
    expect(chosenOf(chosen)).toEqual([4])
    chosen.rangeTo(row(6), SHOWN)
    expect(chosenOf(chosen)).toEqual([4, 5, 6])
    question.value = 'b'
    await nextTick()
    expect(chosen.some.value).toBe(false)
    expect(chosen.number.value).toBe(0)
  })
})
