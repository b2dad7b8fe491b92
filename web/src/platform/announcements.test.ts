import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'
import { announce, announceEach, announceRested, announcement } from './announcements'

beforeEach(() => {
  vi.useFakeTimers()
  announcement.value = ''
})
afterEach(() => vi.useRealTimers())

describe('the one live region', () => {
  it('says what one act brings about as one message, and nothing twice', () => {
    announce('Saved.')
    announce('Saved.')
    announce('3 records are left.')
    expect(announcement.value).toBe('')
    vi.runAllTimers()
    expect(announcement.value).toBe('Saved. 3 records are left.')
  })

  it('says the same again when it happens again', () => {
    const heard: string[] = []
    announce('Saved.')
    vi.runAllTimers()
    heard.push(announcement.value)
    announce('Saved.')
    heard.push(announcement.value)
    vi.runAllTimers()
    heard.push(announcement.value)
    expect(heard).toEqual(['Saved.', '', 'Saved.'])
  })

  it('says a text once it is another one, not what was there from the start', async () => {
    const said = ref<string | undefined>('There before')
    announceEach(() => said.value)
    vi.runAllTimers()
    expect(announcement.value).toBe('')
    said.value = 'Done.'
    await nextTick()
    vi.runAllTimers()
    expect(announcement.value).toBe('Done.')
    said.value = undefined
    await nextTick()
    vi.runAllTimers()
    expect(announcement.value).toBe('Done.')
  })

  it('waits for a number that follows what is typed', async () => {
    const found = ref('7 of 9')
    announceRested(() => found.value)
    for (const words of ['5 of 9', '3 of 9']) {
      found.value = words
      await nextTick()
      vi.advanceTimersByTime(300)
      expect(announcement.value).toBe('')
    }
    vi.runAllTimers()
    expect(announcement.value).toBe('3 of 9')
  })

  it('says nothing of a page that was left before the number rested', async () => {
    const found = ref('7 of 9')
    const page = effectScope()
    page.run(() => announceRested(() => found.value))
    found.value = '5 of 9'
    await nextTick()
    page.stop()
    vi.runAllTimers()
    expect(announcement.value).toBe('')
  })
})
