import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { DEFECTS, drawn } from '@/testing/page'
import { settled } from '@/testing/server'
import { ANSWER, SHAPE } from './sheet.fixture'
import TotalsChart from './TotalsChart.vue'

let page: VueWrapper
beforeEach(() => {
  vi.stubGlobal(
    'ResizeObserver',
    class {
      constructor(private readonly told: (entries: { contentRect: { width: number } }[]) => void) {}
      observe() {
        this.told([{ contentRect: { width: 800 } }])
      }
      disconnect() {}
    },
  )
})
afterEach(() => {
  page.unmount()
  vi.unstubAllGlobals()
})

async function open(chart: object, more: Record<string, unknown> = {}) {
  const shape = { ...SHAPE, totals: { ...SHAPE.totals, chart } }
  ;({ page } = await drawn(
    TotalsChart,
    { register: DEFECTS, answer: ANSWER, shape, zone: 'UTC', waiting: false, ...more },
    '/registers/defects',
  ))
  await settled()
}
const select = (name: string) => page.find(`select[aria-label="${name}"]`)

it('says what it shows to those who do not see it', async () => {
  await open({ kind: 'bars' })
  expect(page.find('[role=img]').attributes('aria-label')).toBe(
    'Chart of number of records. The table below has the same figures.',
  )
  expect(page.find('svg').exists()).toBe(true)
})

it('is of another kind, of another figure, or none', async () => {
  await open({ kind: 'bars' })
  await select('Chart').setValue('stacked')
  await select('Figure that is drawn').setValue('sum_of_severity')
  await page.find('button').trigger('click')
  expect(page.emitted('choose')).toEqual([
    [{ kind: 'stacked' }],
    [{ kind: 'bars', figure: 'sum_of_severity' }],
    [undefined],
  ])
})

it('says where there is no number to draw', async () => {
  await open({ kind: 'bars' }, { answer: { ...ANSWER, figures: [], rows: [] } })
  expect(page.text()).toContain('There is no number here that could be drawn.')
})
