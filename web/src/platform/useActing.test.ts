import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { Problem } from '@/api/client'
import { useActing } from './useActing'

function acting() {
  let made!: ReturnType<typeof useActing>
  mount({ setup: () => ((made = useActing()), () => undefined) })
  return made
}

describe('what is set going', () => {
  it('is busy until it is over, and says what was done', async () => {
    const { busy, said, trouble, act } = acting()
    trouble.value = 'Of before.'
    let finish!: (words: string) => void
    const under = act(() => new Promise<string>((done) => (finish = done)))
    expect(busy.value).toBe(true)
    expect(trouble.value).toBe('')
    finish('Saved.')
    expect(await under).toBe(true)
    expect(busy.value).toBe(false)
    expect(said.value).toBe('Saved.')
  })

  it('keeps what is said while it is under way', async () => {
    const { said, act } = acting()
    await act(async () => {
      said.value = 'Half of it.'
    })
    expect(said.value).toBe('Half of it.')
    await act(async () => {})
    expect(said.value).toBe('')
  })

  it('says why it was refused, and about which field', async () => {
    const { busy, said, trouble, at, act } = acting()
    said.value = 'Saved.'
    const seen: unknown[] = []
    const no = new Problem(422, 'bad-hours', 'Hours are written like 08:00–12:00.', { at: 'weekly/1' })
    const done = await act(
      () => Promise.reject(no),
      (e) => {
        seen.push(e)
        trouble.value += ' Try again.'
      },
    )
    expect(done).toBe(false)
    expect(busy.value).toBe(false)
    expect(said.value).toBe('')
    expect(seen).toEqual([no])
    expect(trouble.value).toBe('Hours are written like 08:00–12:00. Try again.')
    expect(at.value).toBe('weekly/1')
    await act(() => Promise.reject(new Error('Away.')))
    expect(at.value).toBe('')
  })
})
