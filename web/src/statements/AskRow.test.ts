import { afterEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { drawn } from '@/testing/page'
import AskRow from './AskRow.vue'

const ASKS = [
  { label: 'which week', kind: 'DATE', preset: 'this week' },
  { label: 'at least', kind: 'COUNT', preset: null },
]
let page: VueWrapper
afterEach(() => page.unmount())

async function at(answers: Record<string, string>) {
  ;({ page } = await drawn(AskRow, { asks: ASKS, answers }))
}
const blanks = () => page.findAll('input')
const written = () => blanks().map((b) => b.element.value)

describe('the blanks of a view', () => {
  it('say what counts when they are left empty, and what is missing', async () => {
    await at({})
    expect(blanks().map((b) => b.attributes('placeholder'))).toEqual(['this week', 'a number'])
    expect(blanks().map((b) => b.attributes('aria-invalid'))).toEqual(['false', 'true'])
    expect(page.text()).toContain('Fill in what has no default')
    await page.setProps({ answers: { 'at least': '3' } })
    expect(page.text()).toContain('Left empty, the default counts.')
  })

  it('offer what their field has', async () => {
    await at({})
    const fields = [
      { key: 'site', type: 'choice', options: [{ value: 'lp', label: 'Lantern Pier' }] },
      {
        key: 'age',
        type: 'number',
        options: [],
        bands: [{ name: 'Old', bands: [{ name: 'Very old', bands: [] }] }],
      },
    ]
    await page.setProps({
      fields,
      asks: [
        { label: 'where', kind: 'VALUE', field: 'site', preset: null },
        { label: 'how old', kind: 'BAND', field: 'age', preset: null },
        { label: 'from when', kind: 'TIME', field: 'age', preset: null },
      ],
    })
    const lists = page.findAll('datalist').map((l) => l.findAll('option').map((o) => o.attributes('value')))
    expect(lists).toEqual([['Lantern Pier'], ['Old', 'Very old']])
    expect(blanks()[2]!.attributes('list')).toBeUndefined()
  })

  it('are answered together', async () => {
    await at({ 'at least': '3' })
    await blanks()[0]!.setValue('last week')
    await blanks()[0]!.trigger('change')
    expect(page.emitted('answer')!.at(-1)).toEqual([{ 'which week': 'last week', 'at least': '3' }])
  })

  it('follow the answers there are, so that a step back shows what was there before', async () => {
    await at({ 'which week': 'last week' })
    await page.setProps({ answers: {} })
    expect(written()).toEqual(['', ''])
  })

  it('keep what is being typed while an earlier answer arrives', async () => {
    await at({})
    await blanks()[0]!.setValue('last week')
    await blanks()[0]!.trigger('change')
    blanks()[0]!.element.value = 'last month'
    await blanks()[0]!.trigger('input')
    await page.setProps({ answers: { 'which week': 'last week' }, asks: structuredClone(ASKS) })
    expect(written()[0]).toBe('last month')
    await blanks()[0]!.trigger('change')
    expect(page.emitted('answer')!.at(-1)).toMatchObject([{ 'which week': 'last month' }])
  })
})
