import { describe, expect, it } from 'vitest'
import { nextTick, ref } from 'vue'
import { useTold } from './useTold'

describe('what is told of a change', () => {
  it('is what was done and the number, once for each change, and nothing when the page is opened', async () => {
    const said = ref('')
    const question = ref('')
    const step = ref<string>()
    const matching = ref<string>()
    useTold(said, {
      question: () => question.value,
      step: () => step.value,
      matching: () => matching.value,
    })
    const becomes = async (asked: string, words: string | undefined, number: string | undefined) => {
      question.value = asked
      step.value = words
      matching.value = number
      await nextTick()
      return said.value
    }
    expect(await becomes('all', undefined, undefined)).toBe('')
    expect(await becomes('all', undefined, '24,000 of 24,000')).toBe('')
    expect(await becomes('some', 'severity added', undefined)).toBe('')
    expect(await becomes('some', 'severity added', '210 of 24,000')).toBe('severity added: 210 of 24,000')
    // Others change records meanwhile: that is told by what says so, not here.
    expect(await becomes('some', 'severity added', '211 of 24,000')).toBe('severity added: 210 of 24,000')
    expect(await becomes('all', undefined, '24,000 of 24,000')).toBe('24,000 of 24,000')
  })
})
