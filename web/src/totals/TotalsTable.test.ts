import { afterEach, describe, expect, it, vi } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { computed } from 'vue'
import { DEFECTS, drawn } from '@/testing/page'
import { settled } from '@/testing/server'
import BalanceNote from './BalanceNote.vue'
import ComparedNote from './ComparedNote.vue'
import { ANSWER, COMPARED, SHAPE } from './sheet.fixture'
import type { TotalsBalance, TotalsComparison } from './sheet'
import TotalsTable from './TotalsTable.vue'

let page: VueWrapper
// Nothing has a size here: every line is drawn.
vi.mock('@tanstack/vue-virtual', () => ({
  defaultRangeExtractor: () => [],
  useVirtualizer: (options: { value: { count: number } }) =>
    computed(() => ({
      getVirtualItems: () =>
        Array.from({ length: options.value.count }, (_, index) => ({
          index,
          start: index * 31,
          end: index * 31 + 31,
        })),
      getTotalSize: () => options.value.count * 31,
      scrollToIndex: () => {},
    })),
}))

afterEach(() => page.unmount())

async function at(more: Record<string, unknown> = {}) {
  ;({ page } = await drawn(TotalsTable, {
    register: DEFECTS,
    answer: ANSWER,
    shape: SHAPE,
    zone: 'UTC',
    waiting: false,
    ...more,
  }))
  await settled()
}
const cells = (line: number) => page.findAll(`[data-line="${line}"] td`).map((c) => c.text())
const cell = (line: number, column: number) =>
  page.get<HTMLElement>(`[data-line="${line}"] [data-column="${column}"]`)
const press = (key: string, more: Record<string, unknown> = {}) =>
  document.activeElement!.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, ...more }))

describe('the table of totals', () => {
  it('says that only the first rows are there, and shows all', async () => {
    await at()
    expect(page.find('.first-rows').exists()).toBe(false)
    page.unmount()
    await at({ answer: { ...ANSWER, outermost: { shown: 2, all: 1057 } } })
    expect(page.get('.first-rows').text()).toContain('The first 2 of 1,057 rows by Severity.')
    await page.get('.first-rows button').trigger('click')
    expect(page.emitted('all')).toHaveLength(1)
  })

  it('has a line for each row, the figures of each column and of all, and the total', async () => {
    await at()
    expect(page.findAll('tbody th').map((h) => h.text())).toEqual(['4', 'A-1', 'no Number', '5'])
    expect(page.findAll('thead .second th').map((h) => h.text())).toEqual([
      'Severity, then Number',
      'number of records',
      'share',
      'sum of Severity',
      'number of records',
      'share',
      'sum of Severity',
    ])
    expect(page.get('thead .across').text()).toContain('November 2026')
    expect(cells(0)).toEqual(['5', '100.0%', '20', '1,207', '87.5%', '28'])
    expect(cells(3)).toEqual(['0', '', '', '1', '12.5%', '5'])
    expect(page.get('tfoot').text()).toContain('Total')
  })

  it('opens the records behind a figure, and nothing where there are none', async () => {
    await at()
    await cell(1, 2).trigger('click')
    await cell(3, 0).trigger('click')
    expect(page.emitted('open')).toEqual([[{ keys: ['4', 'A-1'], across: { value: '2026-11-01' } }]])
  })

  it('is gone through by the keys, and Enter opens', async () => {
    await at()
    cell(0, 0).element.focus()
    for (const key of ['ArrowDown', 'ArrowRight', 'ArrowRight', 'ArrowRight']) {
      press(key)
      await settled()
    }
    expect(document.activeElement).toBe(cell(1, 3).element)
    press('Enter')
    press('End', { ctrlKey: true })
    await settled()
    expect(document.activeElement).toBe(cell(4, 5).element)
    press('Enter')
    expect(page.emitted('open')).toEqual([[{ keys: ['4', 'A-1'] }], [{ keys: [], whole: true }]])
    expect(page.findAll('[tabindex="0"]')).toHaveLength(1)
  })

  it('orders its rows by a figure: the greatest first, the least first, as they were', async () => {
    await at()
    const head = () => page.findAll('thead button').at(-1)!
    await head().trigger('click')
    await page.setProps({ shape: { ...SHAPE, totals: { ...SHAPE.totals, order: '-sum_of_severity' } } })
    expect(head().text()).toBe('sum of Severity↓')
    await head().trigger('click')
    await page.setProps({ shape: { ...SHAPE, totals: { ...SHAPE.totals, order: 'sum_of_severity' } } })
    await head().trigger('click')
    expect(page.emitted('order')).toEqual([['-sum_of_severity'], ['sum_of_severity'], [undefined]])
  })

  it('names its one figure where the heads are taken, and says what is left out', async () => {
    await at({
      answer: { ...ANSWER, figures: [ANSWER.figures[2]], leftOut: { severity: 2 } },
    })
    expect(page.findAll('thead tr')).toHaveLength(1)
    expect(page.get('thead th').text()).toContain('sum of Severity')
    expect(page.text()).toContain('2 values of Severity are no numbers and are left out.')
  })

  it('opens the records of the earlier time behind its own figures', async () => {
    await at({ answer: COMPARED, shape: { groups: [{ field: 'severity' }], totals: { compare: 'before' } } })
    expect(page.findAll('thead th').map((h) => h.text())).toEqual([
      'Severity',
      'number of records',
      'before',
      'difference',
      'growth',
    ])
    expect(cells(1)).toEqual(['0', '5', '-5', '-100.0%'])
    // No record of now, but three of then; a difference is of both and opens neither.
    for (const column of [0, 1, 2, 3]) await cell(1, column).trigger('click')
    expect(page.emitted('open')).toEqual([[{ keys: ['5'], figure: 'earlier_of_number' }]])
    expect(cell(1, 0).classes()).toContain('none')
    expect(cell(1, 2).classes()).toContain('made')
    const heads = page.findAll('thead button')
    await heads[2]!.trigger('click')
    expect(page.emitted('order')).toEqual([['-difference_of_number']])
  })
})

describe('what is compared', () => {
  it('is said with what is to be known about it, or why it is not', async () => {
    const note = async (compared: TotalsComparison) => {
      ;({ page } = await drawn(ComparedNote, { register: DEFECTS, compared, zone: 'UTC' }))
      return page.text()
    }
    expect(await note(COMPARED.compared!)).toBe(
      'Due 1 Nov 2026 to 30 Nov 2026, beside 1 Oct 2026 to 31 Oct 2026. This window is not over: it ends on 30 Nov 2026.',
    )
    page.unmount()
    expect(await note({ with: 'year', notes: ['Nothing is compared.'] })).toBe('Nothing is compared.')
  })
})

describe('a balance', () => {
  it('says what each of its figures is of', async () => {
    const note = async (balance: TotalsBalance) => {
      ;({ page } = await drawn(BalanceNote, {
        register: DEFECTS,
        balance,
        zone: 'UTC',
        now: '2026-10-31T12:00:00Z',
      }))
      const text = page.text()
      page.unmount()
      return text
    }
    const window = { field: 'due', from: '2026-10-01', to: '2026-10-31' }
    expect(await note({ field: 'severity', window, opening: 'beginning' })).toBe(
      'Severity by Due. Opening: everything before 1 Oct 2026. Closing: at the end of 31 Oct 2026, which has not come yet.',
    )
    expect(
      await note({ field: 'severity', window: { ...window, to: '2026-10-30' }, opening: 'zero' }),
    ).toContain('Closing: at the end of 30 Oct 2026.')
    expect(await note({ field: 'severity', window, opening: 'zero' })).toContain(
      'Opening: zero at 1 Oct 2026.',
    )
    expect(await note({ field: 'severity', window: { field: 'due' }, opening: 'beginning' })).toBe(
      'Severity by Due. Opening: zero, since the question has no beginning. Closing: with all that there is.',
    )
    ;({ page } = await drawn(BalanceNote, {
      register: DEFECTS,
      balance: { field: 'severity', window, opening: 'zero' },
      zone: 'UTC',
      now: '2026-11-30T12:00:00Z',
    }))
  })
})
