import { afterEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { useSession } from '@/people/session'
import { DEFECTS, drawn } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import ClosedPeriodPanel from './ClosedPeriodPanel.vue'

const server = standIn()
const AT = '/api/registers/defects/closed-period'
const CLOSED = {
  upTo: '2026-09-30' as string | null,
  mayReopen: ['Ines Marlow'],
  history: [
    {
      upTo: '2026-09-30',
      who: 'Ines Marlow',
      at: '2026-10-02T09:00:00Z',
      reason: 'The quarter is reported.',
    },
  ],
}
const OPEN = { ...CLOSED, upTo: null, history: [] }

let page: VueWrapper
afterEach(() => page.unmount())

async function open(closed: object, role = 'ADMINISTRATOR', register: object = {}) {
  server.on('GET', AT, closed)
  ;({ page } = await drawn(
    ClosedPeriodPanel,
    { register: { ...DEFECTS, mainField: 'due', ...register } },
    '/catalogue/defects',
  ))
  useSession().current = { person: { role }, zone: 'UTC' } as never
  await settled()
}
const button = (name: string) => page.findAll('button').find((b) => b.text() === name)
const text = () => page.text().replace(/\s+/g, ' ')
async function write(upTo: string, reason: string) {
  await page.get('input[type=date]').setValue(upTo)
  await page.get('.reason').setValue(reason)
}

describe('the closed period of a register', () => {
  it('is closed with a day and a reason', async () => {
    server.on('PUT', AT, CLOSED)
    await open(OPEN)
    expect(text()).toContain('All defects are open.')
    expect(button('Reopen everything')).toBeUndefined()
    expect(button('Close')!.attributes('disabled')).toBeDefined()
    await write('2026-09-30', 'The quarter is reported.')
    await page.get('form').trigger('submit')
    await settled()
    expect(server.to('PUT', AT).at(-1)!.body).toEqual({
      upTo: '2026-09-30',
      was: null,
      reason: 'The quarter is reported.',
    })
    expect(text()).toContain('Nothing up to 30 Sep 2026 changes any more.')
    expect(text()).toContain('2 Oct 2026, 09:0030 Sep 2026Ines MarlowThe quarter is reported.')
    expect(page.emitted('changed')).toEqual([['2026-09-30']])
  })

  it('is reopened in part or as a whole, and says which before', async () => {
    server.on('PUT', AT, { ...CLOSED, upTo: '2026-08-31' })
    await open(CLOSED)
    await write('2026-08-31', 'A late invoice')
    await button('Reopen what comes after 31 Aug 2026')!.trigger('submit')
    await settled()
    expect(server.to('PUT', AT).at(-1)!.body).toMatchObject({ upTo: '2026-08-31', was: '2026-09-30' })
    expect(text()).toContain('What comes after 31 Aug 2026 is open again.')
    server.on('PUT', AT, OPEN)
    await page.get('.reason').setValue('A later one')
    await button('Reopen everything')!.trigger('click')
    await settled()
    expect(server.to('PUT', AT).at(-1)!.body).toMatchObject({ upTo: null, was: '2026-08-31' })
    expect(text()).toContain('All of it is open again.')
  })

  it('shows what somebody else did meanwhile, and keeps what was written', async () => {
    await open(OPEN)
    server.on('PUT', AT, () => refusal(409, 'changed-meanwhile', 'Somebody else closed it.'))
    server.on('GET', AT, CLOSED)
    await write('2026-10-31', 'October is reported')
    await page.get('form').trigger('submit')
    await settled()
    expect(text()).toContain('Somebody else closed it.')
    expect(text()).toContain('Closed up to 30 Sep 2026')
    expect((page.get('input[type=date]').element as HTMLInputElement).value).toBe('2026-10-31')
    expect((page.get('.reason').element as HTMLInputElement).value).toBe('October is reported')
  })

  it('is only looked at by others, and needs a main date', async () => {
    await open(CLOSED, 'AUDITOR')
    expect(page.find('form').exists()).toBe(false)
    expect(text()).toContain('Administrators close and reopen: Ines Marlow.')
    page.unmount()
    await open(OPEN, 'ADMINISTRATOR', { mainField: null })
    expect(text()).toContain('Choose a main date')
    expect(page.find('form').exists()).toBe(false)
  })
})
