import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import type { Register } from '@/api/client'
import { useSession } from '@/people/session'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import RecordPanel from './RecordPanel.vue'

const server = standIn()
const at = (id: number) => `/api/registers/defects/records/${id}`
const REGISTER = {
  ...DEFECTS,
  origin: 'OWN',
  capabilities: ['records', 'fields', 'trail', 'counts', 'indexes', 'guarded'],
  titleField: 'number',
  fields: [
    field('number', 'text', { origin: 'COLUMN', relates: [], correctors: [] }),
    field('title', 'text', { origin: 'COLUMN', correctable: true, relates: [], correctors: [] }),
    field('due', 'date', { origin: 'COLUMN', correctable: true, relates: [], correctors: [] }),
    field('raised', 'moment', { origin: 'COLUMN', correctable: true, relates: [], correctors: [] }),
    field('cost', 'money', { origin: 'COLUMN', correctable: false, relates: [], correctors: [] }),
    field('tags', 'tags', { origin: 'TAGS', relates: [], correctors: [] }),
    field('seen', 'yes/no', { origin: 'SEEN', relates: [], correctors: [] }),
  ],
} as unknown as Register
const row = (id: number, values: Record<string, unknown> = {}) => ({
  id,
  values: {
    number: `D-${id}`,
    title: `Pump ${id}`,
    due: '2026-11-23',
    raised: '2026-07-01T12:30:15Z',
    cost: 12.5,
    tags: ['storm'],
    seen: false,
    ...values,
  },
})

let page: VueWrapper
beforeEach(() => {
  for (const id of [1, 2]) server.on('GET', at(id), row(id))
})
afterEach(() => page.unmount())

async function open(id = 1, mayWrite = true, register: object = {}) {
  server.on('GET', '/api/session', {
    person: { id: '2', name: 'ines', fullName: 'Ines', role: mayWrite ? 'MEMBER' : 'AUDITOR', teams: [] },
    zone: 'Europe/London',
    now: '2026-11-23T09:30:00Z',
    windows: [],
  })
  ;({ page } = await drawn(RecordPanel, {
    register: { ...REGISTER, ...register },
    id,
    zone: 'Europe/London',
  }))
  await useSession().load()
  await settled()
}
const button = (words: string) =>
  page.findAll('button').find((b) => b.text() === words || b.attributes('aria-label') === words)!
const input = (label: string) => page.get<HTMLInputElement>(`form [aria-label="${label}"]`)
async function correct(field: string, shown: string, to: string) {
  await button(`${shown}: correct ${field}`).trigger('click')
  await settled()
  await input(field).setValue(to)
  await page.get('form').trigger('submit')
  await settled()
}
const written = () => server.to('PATCH', at(1)).at(-1)?.body

describe('a record', () => {
  it('offers what may be corrected, and nothing to who changes nothing', async () => {
    await open()
    const offered = () => page.findAll('.correct').map((b) => b.attributes('aria-label'))
    expect(offered()).toEqual([
      'Pump 1: correct Title',
      '23 Nov 2026: correct Due',
      '1 Jul 2026, 13:30: correct Raised',
      'storm: correct Tags',
    ])
    page.unmount()
    await open(1, false)
    expect(offered()).toEqual([])
  })

  it('is only looked at where it lies in the closed period', async () => {
    // Tags beside the records are no part of them.
    const offered = () => page.findAll('.correct').filter((b) => b.attributes('data-field') !== 'tags')
    await open(1, true, { closedUpTo: '2026-11-23', mainField: 'due' })
    expect(offered()).toHaveLength(0)
    expect(page.text()).toContain('Closed up to 23 Nov 2026')
    page.unmount()
    await open(1, true, { closedUpTo: '2026-11-22', mainField: 'due' })
    expect(offered()).toHaveLength(3)
    expect(page.text()).not.toContain('Closed up to')
    page.unmount()
    // A moment is dated by the organisation’s clock.
    await open(1, true, { closedUpTo: '2026-07-01', mainField: 'raised' })
    expect(offered()).toHaveLength(0)
    page.unmount()
    await open(1, true, { closedUpTo: '2026-06-30', mainField: 'raised' })
    expect(offered()).toHaveLength(3)
  })

  it('is corrected with what it was, so that nobody’s work is overwritten', async () => {
    server.on('PATCH', at(1), row(1))
    await open()
    await correct('Due', '23 Nov 2026', '2026-12-01')
    expect(written()).toEqual({ values: { due: '2026-12-01' }, was: { due: '2026-11-23' } })
    expect(page.text()).toContain('Due is corrected.')
    expect(page.emitted('changed')).toHaveLength(1)
    await button('Take it back').trigger('click')
    await settled()
    expect(written()).toMatchObject({ values: { due: '2026-11-23' } })
    expect(page.text()).toContain('Due is as it was.')
  })

  it('says a moment by the clock of the zone, to the second, in and out', async () => {
    server.on('PATCH', at(1), row(1))
    await open()
    await button('1 Jul 2026, 13:30: correct Raised').trigger('click')
    await settled()
    expect(input('Raised').element.value).toBe('2026-07-01 13:30:15')
    await input('Raised').setValue('2026-12-01 13:30')
    await page.get('form').trigger('submit')
    await settled()
    expect(written()).toMatchObject({ values: { raised: '2026-12-01T13:30:00.000Z' } })
  })

  it('that was left as it was is not written', async () => {
    await open()
    await button('Pump 1: correct Title').trigger('click')
    await settled()
    await page.get('form').trigger('submit')
    expect(server.to('PATCH', at(1))).toHaveLength(0)
    expect(page.find('form').exists()).toBe(false)
  })

  it('asks about a moment that cannot be read, and keeps what was typed', async () => {
    await open()
    await correct('Raised', '1 Jul 2026, 13:30', 'yesterday')
    expect(page.get('[role="alert"]').text()).toContain('Raised is written like 2026-11-23 14:30')
    expect(input('Raised').element.value).toBe('yesterday')
  })

  it('takes only the tags that were put on or off', async () => {
    server.on('PUT', '/api/registers/defects/records/tags', undefined)
    await open()
    await correct('Tags', 'storm', 'night, paint')
    expect(server.to('PUT', '/api/registers/defects/records/tags')[0]!.body).toEqual({
      records: [1],
      add: ['night', 'paint'],
      remove: ['storm'],
    })
  })

  it('that somebody else changed meanwhile says so, and shows theirs', async () => {
    server.on(
      'PATCH',
      at(1),
      refusal(409, 'changed-meanwhile', 'Somebody changed it.', { current: row(1, { title: 'Crane' }) }),
    )
    await open()
    await correct('Title', 'Pump 1', 'Winch')
    expect(page.get('[role="alert"]').text()).toContain('Somebody made it “Crane” meanwhile')
    expect(input('Title').element.value).toBe('Winch')
  })
})

describe('a correction that arrives when the reader is at another record', () => {
  it('is not offered to be taken back there', async () => {
    server.on('PATCH', at(1), row(1))
    await open()
    server.hold(at(1))
    await correct('Due', '23 Nov 2026', '2026-12-01')
    await page.setProps({ id: '2' })
    await settled()
    server.letGo()
    await settled()
    expect(page.text()).toContain('Pump 2')
    expect(page.text()).not.toContain('Take it back')
    expect(page.text()).not.toContain('corrected')
    expect(page.emitted('changed')).toHaveLength(1)
  })

  it('and was refused, is said with the record it is about', async () => {
    server.on('PATCH', at(1), refusal(422, 'bad-value', 'Due comes after closed.'))
    await open()
    server.hold(at(1))
    await correct('Due', '23 Nov 2026', '2026-12-01')
    await page.setProps({ id: '2' })
    await settled()
    server.letGo()
    await settled()
    expect(page.get('[role="alert"]').text()).toBe('Due of D-1 is not corrected. Due comes after closed.')
  })

  it('nor is the history of the one before shown as its own', async () => {
    server.on('GET', at(1) + '/history', [{ at: '2026-11-01T09:00:00Z', action: 'made', after: {} }])
    await open()
    server.hold(at(1) + '/history')
    await button('Who changed it').trigger('click')
    await page.setProps({ id: '2' })
    await settled()
    server.letGo()
    await settled()
    expect(page.find('.steps').exists()).toBe(false)
  })
})

describe('what was done to a record', () => {
  const step = (number: number, before: object | null, after: object | null, reason = '') => ({
    at: `2026-11-0${number}T09:00:00Z`,
    who: 'Dora',
    action: 'changed',
    reason,
    before,
    after,
  })
  const STEPS = [
    step(4, { title: 'Pump' }, { title: 'Pump 1' }, 'Numbered.'),
    step(3, { due: '2026-11-01', cost: 10 }, { due: '2026-11-23', cost: 12.5 }),
    step(2, { title: 'Pomp' }, { title: 'Pump' }),
  ]
  const history = async (steps: object[]) => {
    server.on('GET', at(1) + '/history', steps)
    await open()
    await button('Who changed it').trigger('click')
    await settled()
  }
  const back = (nth: number) => page.findAll('button').filter((b) => b.text() === 'Back to this…')[nth]!

  it('is put back to what it was after any of it, as far as it may be corrected', async () => {
    await history(STEPS)
    expect(page.get('.steps').text()).toContain('“Numbered.”')
    await back(1).trigger('click')
    await settled()
    const asked = page.get('form').text()
    expect(asked).toContain('Title: Pump 1 → Pump')
    expect(asked).toContain('Due: 23 Nov 2026 → 1 Nov 2026')
    expect(asked).toContain('left as it is: Cost.')
    server.on('PATCH', at(1), { id: 1 })
    server.on('GET', at(1), row(1, { title: 'Pump', due: '2026-11-01' }))
    await page.get('form').trigger('submit')
    await settled()
    expect(written()).toEqual({
      values: { title: 'Pump', due: '2026-11-01' },
      was: { title: 'Pump 1', due: '2026-11-23' },
      reason: expect.stringMatching(/^As it was after .*2 Nov 2026/),
    })
    expect(page.get('.said').text()).toMatch(/^It is as it was after .*2 Nov 2026/)
    expect(page.find('.steps form').exists()).toBe(false)
  })

  it('nor is anything lost where somebody changes it meanwhile', async () => {
    await history(STEPS)
    await back(2).trigger('click')
    await settled()
    server.on('PATCH', at(1), () => refusal(409, 'changed-meanwhile', 'Somebody changed it.'))
    server.on('GET', at(1), row(1, { title: 'Pump one' }))
    server.on('GET', at(1) + '/history', [step(5, { title: 'Pump 1' }, { title: 'Pump one' }), ...STEPS])
    await page.get('form').trigger('submit')
    await settled()
    expect(page.get('[role="alert"]').text()).toContain('Nothing was written')
    expect(page.get('form').text()).toContain('Title: Pump one → Pomp')
  })

  it('offers no way back before it was made, nor to who may not write', async () => {
    await history([...STEPS, step(1, null, { title: 'Pomp' })])
    expect(page.findAll('button').filter((b) => b.text() === 'Back to this…')).toHaveLength(3)
    expect(page.text()).not.toContain('Before all that')
    page.unmount()
    await open(1, false)
    await button('Who changed it').trigger('click')
    await settled()
    expect(page.findAll('.steps li')).toHaveLength(4)
    expect(page.text()).not.toContain('Back to this…')
  })
})

it('is marked as seen, for the reader alone', async () => {
  server.on('PUT', '/api/registers/defects/records/seen', undefined)
  await open()
  server.on('GET', at(1), row(1, { seen: true }))
  await button('Mark as seen').trigger('click')
  await settled()
  expect((server.to('PUT', '/api/registers/defects/records/seen')[0] as Call).body).toEqual({
    records: [1],
    seen: true,
  })
  expect(button('Seen by you').attributes('aria-pressed')).toBe('true')
})
