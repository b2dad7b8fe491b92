import { afterEach, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { DEFECTS, drawn, field } from '@/testing/page'
import type { Register } from '@/api/client'
import FigureLine from './FigureLine.vue'
import type { Shape } from './shape'

const REGISTER = {
  ...DEFECTS,
  fields: [...DEFECTS.fields, { ...field('cost', 'money'), unit: 'EUR' }],
} as unknown as Register
const of = (...keys: string[]) => keys.map((key) => REGISTER.fields.find((f) => f.key === key)!)
let page: VueWrapper
afterEach(() => page.unmount())

async function at(measures: Shape['measures'], figures: unknown[], more: Record<string, unknown> = {}) {
  const line = {
    kind: 'whole',
    key: 'whole',
    depth: 0,
    words: 'All together',
    records: 24000,
    figures,
    ...more,
  }
  ;({ page } = await drawn(FigureLine, {
    line,
    register: REGISTER,
    fields: of('number', 'severity', 'due', 'cost'),
    shape: { measures },
    zone: 'UTC',
  }))
  return page.findAll('td').map((td) => td.text().replace(/\s+/g, ' '))
}

it('has each figure under its column, and the words up to the first', async () => {
  expect(
    await at(
      [
        { function: 'max', field: 'due' },
        { function: 'sum', field: 'cost' },
      ],
      ['2026-11-23', 1250.5],
    ),
  ).toEqual(['All together 24,000', 'latest 23 Nov 2026', '1,250.50'])
  expect(page.get('td').attributes('colspan')).toBe('2')
})

it('has what finds no column beside the words, with its unit', async () => {
  expect(
    await at(
      [
        { function: 'sum', field: 'cost' },
        { function: 'average', field: 'cost' },
        { function: 'distinct', field: 'number' },
      ],
      [1250.5, 12.346, 24000],
    ),
  ).toEqual(['All together 24,000 average of Cost 12.35 EUR different values of Number 24,000', '1,250.50'])
})

it('is a dash where no record has a value, and says what is left out', async () => {
  expect(await at([{ function: 'average', field: 'cost' }], [null], { leftOut: { cost: 2 } })).toEqual([
    'All together 24,000 2 values of Cost are no numbers and are left out',
    'average —',
  ])
})
