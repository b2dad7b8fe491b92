import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import { announcement } from '@/platform/announcements'
import { using } from '@/testing/page'
import { useAnnouncements } from './useAnnouncements'

let leave = () => {}
beforeEach(() => (announcement.value = ''))
afterEach(() => {
  leave()
  vi.useRealTimers()
})
async function page<T>(set: (own: ReturnType<typeof useAnnouncements>) => T) {
  let made: T
  const used = await using('/', () => (made = set(useAnnouncements())))
  leave = used.leave
  return made!
}

describe('what a page announces', () => {
  it('is what was done and the number, once for each change, and nothing when the page is opened', async () => {
    const question = ref('')
    const step = ref<string>()
    const matching = ref<string>()
    await page((own) => {
      own.announceChanges({
        question: () => question.value,
        step: () => step.value,
        matching: () => matching.value,
      })
      return own
    })
    vi.useFakeTimers()
    const becomes = async (asked: string, words: string | undefined, number: string | undefined) => {
      question.value = asked
      step.value = words
      matching.value = number
      await nextTick()
      vi.runAllTimers()
      return announcement.value
    }
    expect(await becomes('all', undefined, undefined)).toBe('')
    expect(await becomes('all', undefined, '24,000 of 24,000')).toBe('')
    expect(await becomes('some', 'severity added', undefined)).toBe('')
    expect(await becomes('some', 'severity added', '210 of 24,000')).toBe('severity added: 210 of 24,000')
    // Others change records meanwhile: that is told by what says so, not here.
    expect(await becomes('some', 'severity added', '211 of 24,000')).toBe('severity added: 210 of 24,000')
    expect(await becomes('all', undefined, '24,000 of 24,000')).toBe('24,000 of 24,000')
  })

  it('is also what is said, which is seen for a moment only', async () => {
    const own = await page((made) => made)
    vi.useFakeTimers()
    own.said.value = 'The link is copied.'
    await nextTick()
    vi.advanceTimersByTime(500)
    expect(announcement.value).toBe('The link is copied.')
    vi.advanceTimersByTime(10_000)
    expect(own.said.value).toBe('')
    expect(announcement.value).toBe('The link is copied.')
  })
})
