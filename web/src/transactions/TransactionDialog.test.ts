import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { useSession } from '@/people/session'
import { JOURNAL, NOW, RULES } from '@/testing/journal'
import { drawn } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import TransactionDialog from './TransactionDialog.vue'

const server = standIn()
const AT = '/api/registers/journal/transactions'
const TEMPLATES = '/api/registers/journal/transaction-templates'
const STAMPS = {
  id: '4',
  name: 'Stamps',
  values: { reference: 'Post' },
  lines: [{ account: 'Office', amount: '3.20' }, { account: 'Bank' }],
  who: 'Ines',
  mayChange: true,
  version: 2,
}

let page: VueWrapper
beforeEach(() => {
  server.on('GET', TEMPLATES, [STAMPS])
  document.body.innerHTML = ''
})
afterEach(() => page.unmount())

async function open() {
  ;({ page } = await drawn(TransactionDialog, {
    modelValue: false,
    register: JOURNAL,
    rules: RULES,
    zone: 'Europe/London',
    'onUpdate:modelValue': (modelValue: boolean) => page.setProps({ modelValue }),
  }))
  useSession().current = { person: { role: 'MEMBER' }, zone: 'Europe/London', now: NOW } as never
  await show()
}
async function show() {
  await page.setProps({ modelValue: true })
  await settled()
}
const found = <T extends HTMLElement>(label: string) =>
  document.querySelector<T>(`[role=dialog] [aria-label="${label}"]`)!
const button = (words: string) =>
  [...document.querySelectorAll('button')].find(
    (b) => b.textContent!.trim() === words || b.getAttribute('aria-label') === words,
  )
async function type(label: string, text: string) {
  const box = found<HTMLInputElement | HTMLSelectElement>(label)
  box.value = text
  box.dispatchEvent(new Event(box.tagName === 'SELECT' ? 'change' : 'input', { bubbles: true }))
  await settled()
}
async function press(words: string) {
  button(words)!.click()
  await settled()
}
const words = () => document.querySelector('[role=dialog]')!.textContent!.replace(/\s+/g, ' ')
async function line(n: number, account: string, amount: string) {
  await type(`Account of line ${n}`, account)
  await type(`Amount of line ${n}`, amount)
}

describe('a transaction', () => {
  it('cannot be posted until nothing is left over', async () => {
    server.on('POST', AT, { number: 'T-8', records: ['1', '2'] })
    await open()
    expect(words()).toContain('Nothing is written yet.')
    await line(1, 'Office', '12.50')
    expect(words()).toContain('12.50 £ is left over.')
    expect((button('Post') as HTMLButtonElement).disabled).toBe(true)
    expect(button('Post')!.title).toBe('A transaction has at least two lines')
    await type('Account of line 2', 'Bank')
    expect(button('Post')!.title).toBe('12.50 is left over')
    await press('Put it on line 2')
    expect(found<HTMLInputElement>('Amount of line 2').value).toBe('-12.50')
    expect(words()).toContain('The lines add up to zero.')
    await press('Post')
    const call = server.to('POST', AT).at(-1)!
    expect(call.body).toEqual({
      values: { posted: '2026-11-23T09:30:00.000Z', value_date: '2026-11-23' },
      lines: [
        { account: 'Office', amount: '12.50' },
        { account: 'Bank', amount: '-12.50' },
      ],
      reason: null,
    })
    expect(call.headers.get('Idempotency-Key')).toBeTruthy()
    expect(page.emitted('posted')).toEqual([['T-8 is posted, with 2 lines.', 'T-8']])
  })

  it('that was refused says why at its line, and is sent again under the same key', async () => {
    server.on(
      'POST',
      AT,
      refusal(422, 'lines-refused', 'Line 2: No.', { refused: [{ line: 2, reason: 'No.' }] }),
    )
    await open()
    await line(1, 'Office', '1')
    await line(2, 'Bank', '-1')
    await press('Post')
    expect(document.querySelectorAll('tr.refused')).toHaveLength(1)
    expect(document.querySelector('tr.why')!.textContent).toContain('No.')
    await press('Post')
    const keys = server.to('POST', AT).map((c) => c.headers.get('Idempotency-Key'))
    expect(keys[1]).toBe(keys[0])
    await type('Memo of line 2', 'as agreed')
    expect(document.querySelectorAll('tr.refused')).toHaveLength(0)
    await press('Post')
    expect(server.to('POST', AT).at(-1)!.headers.get('Idempotency-Key')).not.toBe(keys[0])
  })

  it('that is not posted stays written when it is closed', async () => {
    await open()
    await line(1, 'Office', '7')
    await press('Close')
    await show()
    expect(found<HTMLInputElement>('Amount of line 1').value).toBe('7')
    await press('Clear it')
    expect(found<HTMLInputElement>('Amount of line 1').value).toBe('')
  })

  it('has lines added and removed, and never none', async () => {
    await open()
    await press('Another line')
    expect(found('Amount of line 3')).toBeTruthy()
    for (let i = 0; i < 3; i++) await press('Remove line 1')
    expect(found('Amount of line 1')).toBeTruthy()
    expect(found('Amount of line 2')).toBeNull()
  })

  it('comes from a template and is kept as one', async () => {
    server.on('POST', TEMPLATES, { ...STAMPS, id: '5', name: 'Coffee' })
    server.on('PUT', `${TEMPLATES}/4`, STAMPS)
    await open()
    const list = document.querySelector<HTMLSelectElement>('.template select')!
    list.value = '4'
    list.dispatchEvent(new Event('change', { bubbles: true }))
    await settled()
    expect(found<HTMLInputElement>('Reference').value).toBe('Post')
    expect(found<HTMLInputElement>('Amount of line 1').value).toBe('3.20')
    await press('Save it in “Stamps”')
    expect(server.to('PUT', `${TEMPLATES}/4`).at(-1)!.query.get('version')).toBe('2')
    await press('Save as a template')
    const name = document.querySelector<HTMLInputElement>('.naming input')!
    name.value = 'Coffee'
    name.dispatchEvent(new Event('input', { bubbles: true }))
    await settled()
    document.querySelector('.naming')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await settled()
    // Without its dates, and the second line without an amount, as it stands there.
    expect(server.to('POST', TEMPLATES).at(-1)!.body).toEqual({
      name: 'Coffee',
      values: { reference: 'Post' },
      lines: [
        { account: 'Office', amount: '3.20' },
        { account: 'Bank', amount: null },
      ],
    })
  })
})
