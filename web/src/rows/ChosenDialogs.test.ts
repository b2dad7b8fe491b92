import { afterEach, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import CommonDialog from './CommonDialog.vue'
import CompareDialog from './CompareDialog.vue'

const server = standIn()
const AT = '/api/registers/defects'
const of = (key: string, type: string, more = {}) => field(key, type, { origin: 'COLUMN', ...more }) as never
const register = {
  ...DEFECTS,
  titleField: 'number',
  fields: [
    of('number', 'text', { identifying: true }),
    of('site', 'choice'),
    of('cost', 'money'),
    of('paid', 'yes/no'),
  ],
}
const RECORDS = [
  { number: 'D-1', site: 'North', cost: 5, paid: true },
  { number: 'D-2', site: 'North', cost: 25, paid: true },
]
let page: VueWrapper
afterEach(() => page.unmount())

async function open(dialog: object) {
  RECORDS.forEach((values, i) => server.on('GET', `${AT}/records/${i + 1}`, { id: String(i + 1), values }))
  ;({ page } = await drawn(dialog as never, {
    modelValue: false,
    register,
    question: { register: 'defects', statement: 'paid is yes', asOf: '2026-11-20', answers: {} },
    ids: ['1', '2'],
    zone: 'UTC',
  }))
  await page.setProps({ modelValue: true })
  await settled()
  await settled()
}
const dialog = () => document.querySelector<HTMLElement>('[role=dialog]')!
const texts = (what: string) =>
  [...dialog().querySelectorAll(what)].map((e) => e.textContent!.replace(/\s+/g, ' ').trim())

it('shows records beside each other, and where they differ', async () => {
  await open(CompareDialog)
  expect(texts('thead th')).toEqual(['Field', 'D-1', 'D-2'])
  expect(texts('tbody tr')).toEqual(['Cost5.0025.00'])
  dialog().querySelector<HTMLInputElement>('input')!.click()
  await settled()
  expect(texts('tbody th')).toEqual(['Site', 'Cost', 'Paid'])
})

it('says which criteria hold for all of them, those with the fewest others first', async () => {
  server.on('POST', AT + '/parts', {
    later: false,
    parts: [
      { path: '', alone: 900, aloneMore: false },
      { path: '/any/0', alone: 700, aloneMore: false },
      { path: '/any/1', alone: 40, aloneMore: false },
      { path: '/any/2', alone: 800, aloneMore: true },
    ],
  })
  await open(CommonDialog)
  const asked = (server.to('POST', AT + '/parts')[0] as Call).body as Record<string, unknown>
  // Of all records, read as the page is.
  expect(asked).toMatchObject({ asOf: '2026-11-20' })
  expect(asked.statement).toBeUndefined()
  expect(texts('li')).toEqual([
    'Cost from 5.00 to 25.00 40 of all defects',
    'Site is North 700 of all defects',
    'Paid is yes 800+ of all defects',
  ])
  dialog().querySelectorAll<HTMLElement>('li button')[1]!.click()
  await settled()
  expect(page.emitted('narrow')).toEqual([[{ field: 'site', test: 'is', value: 'North' }]])
})

it('says so where a record cannot be read any more', async () => {
  await open(CompareDialog)
  await page.setProps({ modelValue: false })
  server.on('GET', AT + '/records/2', () => refusal(404, 'not-found', 'This defect is not there.'))
  await page.setProps({ modelValue: true })
  await settled()
  expect(texts('[role=alert]')).toEqual(['This defect is not there.'])
})
