import { afterEach, expect, it, vi } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { useSession } from '@/people/session'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import SinceDialog from './SinceDialog.vue'
import { byKind, daysCounted } from './since'

vi.mock('./NumberLine.vue', async () => {
  const { defineComponent, h } = await import('vue')
  const line = defineComponent({
    props: { points: { type: Array, default: () => [] }, label: { type: String, default: '' } },
    setup: (props) => () => h('figure', `${props.label} ${props.points.length}`),
  })
  return { __esModule: true, __isTeleport: false, __isKeepAlive: false, default: line }
})

const server = standIn()
const AT = '/api/registers/defects'
let page: VueWrapper

const of = (key: string, type: string) => field(key, type, { origin: 'COLUMN' }) as never
const register = {
  ...DEFECTS,
  titleField: 'title',
  pastSince: '2026-09-01T08:00:00Z',
  fields: [of('title', 'text'), of('site', 'text')],
}
const change = (who: string, before: object | null, after: object | null, reason = '') => ({
  at: '2026-11-20T10:00:00Z',
  who,
  action: before ? 'changed' : 'made',
  reason,
  before,
  after,
})
const SINCE = {
  since: '2026-11-16T00:00:00Z',
  now: 214,
  entered: 2,
  left: 1,
  changed: 101,
  records: [
    {
      id: '1',
      became: 'CHANGED',
      title: 'Pump',
      changes: [change('Dora', { site: 'A' }, { site: 'B' }, 'Moved.')],
    },
    { id: '2', became: 'ENTERED', title: 'Sluice', changes: [] },
    { id: '3', became: 'ENTERED', title: 'Gate', changes: [change('Dan', null, null)] },
    { id: '4', became: 'LEFT', title: 'Light', changes: [] },
  ],
}
const NUMBERS = [16, 17, 18, 19, 20, 21, 22, 23].map((d) => ({
  at: `2026-11-${d}T00:00:00Z`,
  records: 200 + d,
}))

afterEach(() => page.unmount())

async function open(question: object = {}) {
  ;({ page } = await drawn(SinceDialog, {
    modelValue: false,
    register,
    question: { register: 'defects', statement: 'severity = 3', answers: {}, ...question },
    zone: 'Europe/London',
    today: '2026-11-23',
  }))
  useSession().current = { zone: 'Europe/London' } as never
  await page.setProps({ modelValue: true })
  await settled()
}
const dialog = () => document.querySelector<HTMLElement>('[role=dialog]')!
const asked = (path: string) => (server.to('POST', AT + path).at(-1) as Call).body as Record<string, unknown>

it('tells what entered, left and changed, by whom and why, and how many there were', async () => {
  server.on('POST', AT + '/changed-since', SINCE)
  server.on('POST', AT + '/numbers-at', NUMBERS)
  await open()
  await settled()
  expect(asked('/changed-since')).toMatchObject({ statement: 'severity = 3', since: '2026-11-16' })
  expect(asked('/numbers-at').moments).toHaveLength(8)
  const words = dialog().textContent!.replace(/\s+/g, ' ')
  expect(words).toContain('214 defects now, 213 then: 2 entered, 1 left, 101 changed.')
  expect(words).toContain('Changed 1 of 101')
  expect(words).toContain('Dora changed, 20 Nov 2026, 10:00: “Moved.”Site: A → B')
  expect(words).toContain('SluiceNobody changed it; time went by.')
  expect(words).toContain('216 at first, 214 now, between 214 and 223. 9')
  const buttons = [...dialog().querySelectorAll('li button')].map((b) => b.textContent!.trim())
  expect(buttons).toEqual(['Sluice', 'Gate', 'Pump'])
  ;(dialog().querySelector('li button') as HTMLElement).click()
  await settled()
  expect(page.emitted('record')).toEqual([['2']])
})

it('says where nothing is otherwise, and draws no line of days where windows stand at another one', async () => {
  server.on('POST', AT + '/changed-since', { ...SINCE, entered: 0, left: 0, changed: 0, records: [] })
  await open({ asOf: '2026-11-20' })
  expect(dialog().textContent).toContain('Nothing of it is otherwise than on 16 Nov 2026.')
  expect(server.to('POST', AT + '/numbers-at')).toHaveLength(0)
})

it('says why it cannot be told, and asks again for another day', async () => {
  server.on('POST', AT + '/changed-since', () => refusal(422, 'no-past', 'Choose a later moment.'))
  await open()
  expect(dialog().querySelector('[role=alert]')!.textContent).toBe('Choose a later moment.')
  server.on('POST', AT + '/changed-since', SINCE)
  server.on('POST', AT + '/numbers-at', NUMBERS)
  const input = dialog().querySelector<HTMLInputElement>('input[type=date]')!
  expect([input.min, input.max]).toEqual(['2026-09-02', '2026-11-23'])
  input.value = '2026-11-01'
  input.dispatchEvent(new Event('input'))
  input.dispatchEvent(new Event('change'))
  await settled()
  expect(asked('/changed-since').since).toBe('2026-11-01')
  expect(dialog().querySelector('[role=alert]')).toBeNull()
})

it('counts at no more days than a line needs', () => {
  expect(daysCounted('2026-11-21', '2026-11-23')).toEqual(['2026-11-21', '2026-11-22', '2026-11-23'])
  expect(daysCounted('2026-11-23', '2026-11-23')).toEqual(['2026-11-23'])
  const year = daysCounted('2025-11-23', '2026-11-23')
  expect(year.length).toBeLessThanOrEqual(31)
  expect(year[0]).toBe('2025-11-23')
  expect(byKind([])).toEqual([])
})
