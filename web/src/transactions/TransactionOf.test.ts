import { afterEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { useSession } from '@/people/session'
import { JOURNAL, NOW, RULES } from '@/testing/journal'
import { drawn } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import TransactionOf from './TransactionOf.vue'

const server = standIn()
const AT = '/api/registers/journal/transactions/1'
const ROWS = [
  { id: '1', values: { account: 'Bank', site: 'North', amount: 12.5 } },
  { id: '2', values: { account: 'Office', site: 'South', amount: -12.5 } },
]
const SHOWN = { number: 'T-7', records: ROWS, difference: 0, reverses: null, reversedBy: null, mayPost: true }

let page: VueWrapper
afterEach(() => page.unmount())

async function open(shown: unknown, role = 'MEMBER') {
  server.on('GET', AT, shown)
  document.body.innerHTML = ''
  ;({ page } = await drawn(TransactionOf, { register: JOURNAL, rules: RULES, record: ROWS[0], zone: 'UTC' }))
  useSession().current = { person: { role }, zone: 'UTC', now: NOW } as never
  await settled()
}
const press = async (words: string) => {
  ;[...document.querySelectorAll('button')].find((b) => b.textContent!.trim() === words)!.click()
  await settled()
}

describe('the transaction of a record', () => {
  it('has its lines, the one that is looked at among them', async () => {
    await open(SHOWN)
    expect(page.findAll('tr').map((r) => r.text())).toEqual(['BankNorth12.50', 'OfficeSouth-12.50'])
    expect(page.get('tr.here').text()).toContain('Bank')
    expect(page.get('h3 a').attributes('href')).toContain('where=transaction+is+%22T-7%22')
  })

  it('is taken back by its opposite, with a reason', async () => {
    server.on('POST', `${AT}/reverse`, { number: 'T-9', records: ['3', '4'] })
    await open(SHOWN)
    await press('Take it all back')
    const rows = [...document.querySelectorAll('[role=dialog] tbody tr')].map((r) => r.textContent)
    expect(rows).toEqual(['BankNorth-12.50', 'OfficeSouth12.50'])
    const why = document.querySelector<HTMLInputElement>('[name=reason]')!
    why.value = 'Twice.'
    why.dispatchEvent(new Event('input', { bubbles: true }))
    await settled()
    await press('Post the opposite')
    expect(server.to('POST', `${AT}/reverse`).at(-1)!.body).toEqual({
      values: { posted: '2026-11-23T09:30:00.000Z', value_date: '2026-11-23' },
      reason: 'Twice.',
    })
    expect(page.emitted('posted')).toEqual([['T-9 takes T-7 back.']])
  })

  it('that was taken back says so and is not offered again', async () => {
    await open({ ...SHOWN, reversedBy: 'T-9' })
    expect(page.text()).toContain('It was taken back by T-9')
    expect(page.text()).not.toContain('Take it all back')
  })

  it('offers nothing to who may not post, and is not there where there is none', async () => {
    await open({ ...SHOWN, mayPost: false, difference: 3 })
    expect(page.findAll('button')).toHaveLength(0)
    expect(page.text()).toContain('adds up to 3.00')
    page.unmount()
    await open(refusal(422, 'no-transactions', 'None.'))
    expect(page.find('section').exists()).toBe(false)
  })
})
