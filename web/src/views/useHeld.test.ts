import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref, type EffectScope } from 'vue'
import { HELD, useHeld } from './useHeld'

const live = ref<string | undefined>()
const gone = ref(false)
let arrivals = 0
let scope: EffectScope
let shown: ReturnType<typeof useHeld<string>>

beforeEach(() => {
  vi.useFakeTimers()
  live.value = undefined
  gone.value = false
  arrivals = 0
  scope = effectScope()
  shown = scope.run(() =>
    useHeld(
      () => live.value,
      () => gone.value,
      () => arrivals++,
    ),
  )!
})
afterEach(() => {
  scope.stop()
  vi.useRealTimers()
})
async function becomes(answer: string | undefined) {
  live.value = answer
  await nextTick()
}

describe('an answer', () => {
  it('is shown when it is there', async () => {
    expect(shown.value).toBeUndefined()
    await becomes('one')
    expect(shown.value).toEqual({ answer: 'one', held: false })
    expect(arrivals).toBe(0)
  })

  it('is held for a moment until the next one takes its place', async () => {
    await becomes('one')
    await becomes(undefined)
    expect(shown.value).toEqual({ answer: 'one', held: true })
    await becomes('two')
    expect(shown.value).toEqual({ answer: 'two', held: false })
    expect(arrivals).toBe(1)
    vi.advanceTimersByTime(HELD * 2)
    expect(shown.value?.answer).toBe('two')
  })

  it('never stands beside a question that takes long', async () => {
    await becomes('one')
    await becomes(undefined)
    vi.advanceTimersByTime(HELD - 1)
    expect(shown.value?.held).toBe(true)
    vi.advanceTimersByTime(1)
    expect(shown.value).toBeUndefined()
  })

  it('goes at once when the page is about something else, or there is nothing to come', async () => {
    await becomes('one')
    gone.value = true
    await becomes(undefined)
    expect(shown.value).toBeUndefined()
  })

  it('that goes while it is held is not brought back', async () => {
    await becomes('one')
    await becomes(undefined)
    gone.value = true
    await nextTick()
    expect(shown.value).toBeUndefined()
    gone.value = false
    await nextTick()
    expect(shown.value).toBeUndefined()
  })
})
