import { expect, it } from 'vitest'
import { DEFECTS, drawn } from '@/testing/page'
import { ANSWER, SHAPE } from './sheet.fixture'
import KeepLine from './KeepLine.vue'

it('says the criteria on figures by what people call the figures, and leaves values as they are', async () => {
  const keep = 'sum_of_severity > 20 or number = 3 or first is "number"'
  const { page } = await drawn(KeepLine, {
    register: DEFECTS,
    shape: { ...SHAPE, totals: { ...SHAPE.totals, keep } },
    figures: ANSWER.figures,
  })
  expect(page.get('.phrase').text()).toBe(
    'sum of Severity > 20 or number of records = 3 or first is "number"',
  )
  // While others are on their way the words stay.
  await page.setProps({ figures: [] })
  expect(page.get('.phrase').text()).toContain('sum of Severity')
  await page.findAll('button').at(-1)!.trigger('click')
  expect(page.emitted('keep')).toEqual([['']])
})

it('says what may belong here, and takes it over where no answers of a reader would go with it', async () => {
  const finding = {
    message: 'It leaves records out.',
    statement: 'site is not empty',
    keep: 'sum_of_severity > 4',
  }
  const { page } = await drawn(KeepLine, {
    register: DEFECTS,
    shape: SHAPE,
    figures: ANSWER.figures,
    findings: [finding],
    mendable: false,
  })
  expect(page.text()).toContain('It leaves records out.')
  expect(page.find('.mend').exists()).toBe(false)
  await page.setProps({ mendable: true })
  await page.get('.mend').trigger('click')
  expect(page.emitted('mend')).toEqual([[finding]])
})
