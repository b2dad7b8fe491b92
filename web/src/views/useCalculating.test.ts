import { describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import { DEFECTS } from '@/testing/page'
import type { Shape } from '@/rows/shape'
import type { Node } from '@/statements/tree'
import { useCalculating } from './useCalculating'
import type { useQuestion } from './useQuestion'

function page(tree: Node, shape: Shape = {}) {
  const step = vi.fn<(parts: Record<string, unknown>) => Promise<void>>(() => Promise.resolve())
  const q = {
    step,
    columns: ref(['number', '_worse']),
    order: ref(['-_worse', 'due']),
    shape: ref(shape),
  } as unknown as ReturnType<typeof useQuestion>
  return { step, calculating: useCalculating(q, ref(tree)) }
}
const REGISTER = { ...DEFECTS, titleField: 'number' } as typeof DEFECTS

describe('fields that are calculated for one question', () => {
  it('are shown once they are added, and stay where they are when they are changed', () => {
    const { step, calculating } = page({ all: [] })
    calculating.start()
    expect(calculating.open.value).toBe(true)
    calculating.take(REGISTER, '_new')
    expect(step).toHaveBeenLastCalledWith({ added: REGISTER, columns: ['number', '_new', '_worse'] })
    calculating.start('_worse')
    calculating.take(REGISTER, '_worse')
    expect(step).toHaveBeenLastCalledWith({ added: REGISTER, columns: undefined })
  })

  it('are nowhere any more once they are taken away', () => {
    const { step, calculating } = page({ all: [] }, {
      columns: { _worse: { pinned: true }, due: { pinned: true } },
      groups: [{ field: '_worse' }, { field: 'due' }],
      measures: [{ function: 'sum', field: '_worse' }, { function: 'count' }],
      totals: { across: { field: '_worse' }, order: '-sum_of__worse', shares: true },
    } as Shape)
    calculating.start('_worse')
    calculating.drop(REGISTER)
    expect(step).toHaveBeenCalledWith({
      added: REGISTER,
      columns: ['number'],
      order: ['due'],
      shape: {
        columns: { due: { pinned: true } },
        groups: [{ field: 'due' }],
        measures: [{ function: 'count' }],
        totals: { across: undefined, order: undefined, chart: undefined, shares: true },
      },
    })
  })

  it('know the criteria on them, wherever these stand', () => {
    const { calculating } = page(
      {
        all: [
          { field: '_worse', test: '>', value: 3 },
          {
            any: [
              { off: { field: '_worse', test: 'is empty' } },
              { field: 'severity', test: '<', other: '_worse' },
            ],
          },
          { field: '_worse_than', test: '>', value: 3 },
        ],
      },
      { totals: { keep: 'sum_of__worse > 4 and number > 2' } },
    )
    expect(calculating.criteria.value).toBe(0)
    calculating.start('_worse')
    expect(calculating.criteria.value).toBe(4)
    calculating.start('_worse_than')
    expect(calculating.criteria.value).toBe(1)
  })
})
