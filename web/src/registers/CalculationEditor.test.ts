import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import CalculationEditor from './CalculationEditor.vue'

const server = standIn()
const TRY = '/api/registers/defects/calculations/try'
const REGISTER = {
  ...DEFECTS,
  titleField: 'number',
  fields: [field('number'), field('due', 'date'), field('days_overdue', 'number')],
}
const tried = (type: string) => ({
  calculation: 'days_between(due, today)',
  type,
  changes: true,
  fields: ['due'],
  column: 'calculation_on_trial',
  empty: false,
  samples: [
    { id: '1', values: { number: 'D-1', due: '2026-11-20', calculation_on_trial: 3 } },
    { id: '2', values: { number: 'D-2', due: null, calculation_on_trial: null } },
  ],
})

let page: VueWrapper
beforeEach(() => server.on('POST', TRY, tried('number')))
afterEach(() => page.unmount())

async function open(modelValue: string, more: Record<string, unknown> = {}) {
  ;({ page } = await drawn(
    CalculationEditor,
    { register: REGISTER, modelValue, ...more },
    '/catalogue/defects',
  ))
  await settled()
}
const cells = () => page.findAll('tbody tr').map((tr) => tr.findAll('td').map((td) => td.text()))

describe('the calculation of a field', () => {
  it('shows what comes out beside what it came from', async () => {
    await open('days_between(due, today)', { field: REGISTER.fields[2] })
    expect(page.text()).toContain('Gives: number.')
    expect(page.text()).toContain('Its value changes as time goes by')
    expect(page.findAll('th').map((th) => th.text())).toEqual(['Number', 'Due', 'Comes out'])
    expect(cells()).toEqual([
      ['D-1', '20 Nov 2026', '3'],
      ['D-2', '—', '—'],
    ])
    expect(server.to('POST', TRY)[0]!.body).toEqual({
      calculation: 'days_between(due, today)',
      field: 'days_overdue',
    })
    expect(page.find('[role=alert]').exists()).toBe(false)
  })

  it('says that a field keeps its type', async () => {
    server.on('POST', TRY, tried('text'))
    await open('join(number, due)', { field: REGISTER.fields[2] })
    expect(page.find('[role=alert]').text()).toContain('is text')
    expect(page.find('[role=alert]').text()).toContain('It cannot be saved so')
  })

  it('says why one cannot be tried, and shows nothing of the one before', async () => {
    await open('days_between(due, today)')
    server.on('POST', TRY, refusal(422, 'unreadable', 'The text ends too early.'))
    await page.setProps({ modelValue: 'due +' })
    await settled()
    expect(page.find('[role=alert]').text()).toBe('The text ends too early.')
    expect(page.find('table').exists()).toBe(false)
  })

  it('is written at once where there is none, and only read where nobody may change it', async () => {
    await open('')
    expect(page.text()).not.toContain('Change the calculation')
    expect(server.to('POST', TRY)).toEqual([])
    page.unmount()
    await open('days_between(due, today)', { disabled: true })
    expect(page.find('code').text()).toBe('days_between(due, today)')
    expect(page.text()).not.toContain('Change the calculation')
  })
})
