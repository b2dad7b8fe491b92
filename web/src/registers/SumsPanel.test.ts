import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { useSession } from '@/people/session'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import SumsPanel from './SumsPanel.vue'

const server = standIn()
const AT = '/api/registers/defects/sums'
const NONE = {
  kept: false,
  rows: 0,
  records: 24_000,
  keys: [] as string[],
  amounts: [] as string[],
  possibleKeys: ['number', 'site'],
  possibleAmounts: ['severity', 'cost'],
}
const KEPT = { ...NONE, kept: true, rows: 900, keys: ['site'], amounts: ['cost'] }

let page: VueWrapper
afterEach(() => page.unmount())

const REGISTER = {
  ...DEFECTS,
  mainField: 'due',
  fields: [...DEFECTS.fields, field('site', 'choice'), field('cost', 'money')],
}
async function open(sums: typeof NONE, register: Record<string, unknown> = {}) {
  server.on('GET', AT, sums)
  ;({ page } = await drawn(SumsPanel, { register: { ...REGISTER, ...register } }, '/catalogue/defects'))
  useSession().current = { person: { role: 'ADMINISTRATOR' } } as never
  await settled()
}
const box = (label: string) =>
  page
    .findAll('label')
    .find((l) => l.text() === label)!
    .find('input')
const button = (name: string) => page.findAll('button').find((b) => b.text() === name)

describe('kept sums', () => {
  beforeEach(() => server.on('PUT', AT, KEPT))

  it('say when there are nearly as many as records', async () => {
    await open(KEPT)
    expect(page.text()).toContain('About 900 sums are kept of 24,000 defects.')
    expect(page.text()).not.toContain('gain more')
    page.unmount()
    await open({ ...KEPT, rows: 15_000 } as typeof NONE)
    expect(page.text().replace(/\s+/g, ' ')).toContain('24,000 defects. That is much to add up')
  })

  it('are chosen and kept', async () => {
    await open(NONE)
    expect(page.text()).toContain('years of Due')
    await box('Site').setValue(true)
    await box('Cost').setValue(true)
    await button('Keep these sums')!.trigger('click')
    await settled()
    expect(server.to('PUT', AT)[0]!.body).toEqual({ keys: ['site'], amounts: ['cost'] })
    expect(page.text()).toContain('The sums are kept from now on.')
    // Nothing is to be saved until something is chosen otherwise.
    expect(button('Save')!.attributes('disabled')).toBeDefined()
    await box('Severity').setValue(true)
    expect(button('Save')!.attributes('disabled')).toBeUndefined()
  })

  it('are kept no longer', async () => {
    await open(KEPT)
    server.on('DELETE', AT, undefined)
    server.on('GET', AT, NONE)
    await button('Keep none')!.trigger('click')
    await settled()
    expect(page.text()).toContain('No sums are kept.')
    expect(button('Keep none')).toBeUndefined()
  })

  it('say what stands against them, and keep what was chosen', async () => {
    await open(NONE)
    server.on('PUT', AT, refusal(422, 'bad-sums', 'Site cannot tell sums apart.'))
    await box('Site').setValue(true)
    await button('Keep these sums')!.trigger('click')
    await settled()
    expect(page.find('[role=alert]').text()).toContain('Site cannot tell sums apart.')
    expect((box('Site').element as HTMLInputElement).checked).toBe(true)
  })

  it('need a main date', async () => {
    await open(NONE, { mainField: undefined })
    expect(page.text()).toContain('Choose a main date')
    expect(page.findAll('input')).toHaveLength(0)
  })
})
