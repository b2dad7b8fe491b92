import { afterEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { DEFECTS, drawn, field } from '@/testing/page'
import type { Register } from '@/api/client'
import ShownPanel from './ShownPanel.vue'
import type { Shape } from './shape'

const REGISTER = {
  ...DEFECTS,
  fields: [
    ...DEFECTS.fields,
    field('cost', 'money'),
    field('site', 'choice', { options: [{ value: 'North', label: 'North' }] }),
    field('tags', 'tags'),
  ],
} as Register
let page: VueWrapper
afterEach(() => page.unmount())

async function at(shape: Shape, register = REGISTER) {
  ;({ page } = await drawn(ShownPanel, { register, shape, order: [] }))
}
const box = (label: string) => page.find<HTMLSelectElement>(`select[aria-label="${label}"]`)
const options = (label: string) =>
  box(label)
    .findAll('option')
    .map((o) => o.text())
const shown = () => page.emitted('shape')?.at(-1)?.[0] as Shape
const press = (label: string) => page.get(`button[aria-label="${label}"]`).trigger('click')

describe('the figures of a shape', () => {
  it('are of fields that have some, numbers first, each the usual one first', async () => {
    await at({})
    expect(options('Figure of')).toEqual(['of…', 'Severity', 'Cost', 'Number', 'Due', 'Raised', 'Site'])
    await box('Figure of').setValue('cost')
    expect(shown().measures).toEqual([{ function: 'sum', field: 'cost' }])
  })

  it('are another one of the same field, and are taken away', async () => {
    const measures: Shape['measures'] = [
      { function: 'sum', field: 'cost' },
      { function: 'average', field: 'cost' },
      { function: 'min', field: 'due' },
    ]
    await at({ measures })
    // What is shown already is offered by neither.
    expect(options('What of Cost')).toEqual([
      'sum of',
      'median of',
      'percentile of',
      'least',
      'most',
      'different values of',
    ])
    expect(options('What of Due')).toEqual(['earliest', 'latest', 'different values of'])
    await box('What of Due').setValue('max')
    expect(shown().measures?.[2]).toEqual({ function: 'max', field: 'due' })
    await box('Figure of').setValue('cost')
    expect(shown().measures?.at(-1)).toEqual({ function: 'median', field: 'cost' })
    await press('remove average of Cost')
    expect(shown().measures).toEqual([measures[0], measures[2]])
  })

  it('are several percentiles of one field, each once', async () => {
    await at({ measures: [{ function: 'sum', field: 'cost' }] })
    await box('What of Cost').setValue('percentile')
    expect(shown().measures).toEqual([{ function: 'percentile', field: 'cost' }])
    const measures: Shape['measures'] = [
      { function: 'percentile', field: 'cost' },
      { function: 'percentile', field: 'cost', percent: 50 },
    ]
    await at({ measures })
    const boxes = () => page.findAll('input.percent').map((b) => b.element as HTMLInputElement)
    expect(boxes().map((b) => b.value)).toEqual(['90', '50'])
    await page.findAll('input.percent')[0]!.setValue('95')
    expect(shown().measures?.[0]).toEqual({ function: 'percentile', field: 'cost', percent: 95 })
    const before = page.emitted('shape')!.length
    for (const no of ['50', '100', '0', '1.5', '']) {
      await page.findAll('input.percent')[0]!.setValue(no)
      // It says again what is shown.
      expect(boxes()[0]!.value).toBe('90')
    }
    expect(page.emitted('shape')!.length).toBe(before)
    await press('remove 50th percentile of Cost')
    expect(shown().measures).toEqual([measures[0]])
  })

  it('are ten at the most', async () => {
    const measures = ['severity', 'cost'].flatMap((key) =>
      (['sum', 'average', 'median', 'min', 'max'] as const).map((does) => ({ function: does, field: key })),
    )
    await at({ measures })
    expect(box('Figure of').exists()).toBe(false)
  })
})

describe('the groups of a shape', () => {
  it('are of fields that make some, in the usual way, and leave the marks aside', async () => {
    await at({ marked: true })
    expect(options('Group by')).not.toContain('Tags')
    await box('Group by').setValue('due')
    expect(shown()).toEqual({ groups: [{ field: 'due', by: 'month' }], marked: undefined })
  })
})

describe('the shape of totals', () => {
  it('has rows and what lies across, without what belongs to lists of records', async () => {
    await at({ groups: [{ field: 'site' }], totals: {} })
    expect(page.findAll('legend').map((l) => l.text())).toEqual([
      'Rows',
      'Across',
      'Figures',
      'Chart',
      'Beside',
    ])
    // What is a row lies not across as well.
    expect(options('Columns by')).not.toContain('Site')
    await box('Columns by').setValue('due')
    expect(shown().totals).toEqual({ across: { field: 'due', by: 'month' } })
  })

  it('takes one date for rows and columns, by other periods', async () => {
    await at({ groups: [{ field: 'due', by: 'month' }], totals: {} })
    await box('Columns by').setValue('due')
    expect(shown().totals).toEqual({ across: { field: 'due', by: 'day' } })
    page.unmount()
    await at({ groups: [{ field: 'due', by: 'month' }], totals: { across: { field: 'due', by: 'day' } } })
    // Neither is left for a further row.
    expect(options('Rows by')).not.toContain('Due')
    expect(box('Groups of Due by').exists()).toBe(false)
  })

  it('counts records too, and forgets an order by a figure that may be gone', async () => {
    await at({ groups: [{ field: 'site' }], totals: { order: '-number' } })
    await box('Figure of').setValue('*')
    expect(shown()).toMatchObject({ measures: [{ function: 'count' }], totals: {} })
    expect(shown().totals?.order).toBeUndefined()
  })

  it('leaves no rows out where there are none any more', async () => {
    await at({ groups: [{ field: 'site' }], totals: { keep: 'number > 3', limit: 3 } })
    await press('remove the rows by Site')
    expect(shown().groups).toEqual([])
    expect(shown().totals?.keep).toBeUndefined()
    expect(shown().totals?.limit).toBeUndefined()
  })

  it('shows the first rows alone, so many as there can be, or all again', async () => {
    await at({ groups: [{ field: 'site' }], totals: {} })
    await page.get('[aria-label="How many of the first rows"]').setValue('10')
    expect(shown().totals?.limit).toBe(10)
    const emitted = page.emitted('shape')!.length
    for (const wrong of ['0', '1001', '2.5'])
      await page.get('[aria-label="How many of the first rows"]').setValue(wrong)
    expect(page.emitted('shape')).toHaveLength(emitted)
    await page.get('[aria-label="How many of the first rows"]').setValue('')
    expect(shown().totals?.limit).toBeUndefined()
  })

  it('says shares and empty periods by what is ticked', async () => {
    await at({ groups: [{ field: 'site' }], totals: {} })
    const [empties, shares] = page.findAll('input[type=checkbox]')
    await empties!.setValue(false)
    expect(shown().totals).toEqual({ empties: false })
    await shares!.setValue(true)
    expect(shown().totals).toEqual({ shares: true })
  })

  it('stands beside an earlier time, and forgets an order that is by its figures', async () => {
    await at({ groups: [{ field: 'site' }], totals: {} })
    expect(options('Compare with')).toEqual([
      'nothing earlier',
      'the window before',
      'the same window a year before',
    ])
    await box('Compare with').setValue('year')
    expect(shown().totals).toEqual({ compare: 'year' })
    page.unmount()
    await at({ groups: [{ field: 'site' }], totals: { compare: 'year', order: '-growth_of_number' } })
    await box('Compare with').setValue('before')
    expect(shown().totals).toEqual({ compare: 'before', order: '-growth_of_number' })
    await box('Compare with').setValue('')
    expect(shown().totals).toEqual({ compare: undefined, order: undefined })
  })

  it('says changes where there are columns to change between', async () => {
    await at({ groups: [{ field: 'site' }], totals: {} })
    expect(page.findAll('input[type=checkbox]')).toHaveLength(2)
    page.unmount()
    await at({ groups: [{ field: 'site' }], totals: { across: { field: 'due', by: 'month' } } })
    await page.findAll('input[type=checkbox]').at(-1)!.setValue(true)
    expect(shown().totals).toEqual({ across: { field: 'due', by: 'month' }, changes: true })
    page.unmount()
    await at({
      groups: [{ field: 'site' }],
      totals: { across: { field: 'due', by: 'month' }, changes: true },
    })
    await box('Columns by').setValue('')
    expect(shown().totals).toEqual({ across: undefined, changes: undefined })
  })

  it('has balances where the register adds a number up, and nothing earlier beside them', async () => {
    const ledger = { ...REGISTER, running: 'severity', mainField: 'due' }
    await at({ groups: [{ field: 'site' }], totals: { compare: 'year' } }, ledger)
    await box('Balances of Severity').setValue('beginning')
    expect(shown().totals).toEqual({ balances: 'beginning', compare: undefined })
    page.unmount()
    await at({ totals: { balances: 'zero', order: '-closing' } }, ledger)
    expect(box('Compare with').exists()).toBe(false)
    expect(page.text()).toContain('Periods of it come last among the rows, or across.')
    await box('Balances of Severity').setValue('')
    expect(shown().totals).toEqual({ balances: undefined, compare: undefined, order: undefined })
  })
})
