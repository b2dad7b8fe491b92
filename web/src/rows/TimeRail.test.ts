import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import type { Outline, Register } from '@/api/client'
import { DEFECTS, drawn } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import TimeRail from './TimeRail.vue'

const server = standIn()
const HISTOGRAM = '/api/registers/defects/histogram'
const REGISTER = { ...DEFECTS, mainField: 'raised' } as unknown as Register
const MONTHS = ['2026-08', '2026-09', '2026-10', '2026-11', '2026-12']
const buckets = MONTHS.slice(0, 4).map((m, i) => ({
  start: m + '-01T00:00:00',
  end: MONTHS[i + 1] + '-01T00:00:00',
  records: (i + 1) * 10,
  matching: i,
}))
const window = (from: string | null, to: string | null, more: Record<string, unknown> = {}) =>
  ({
    kind: 'criterion',
    path: '/all/0',
    field: 'due',
    node: { field: 'due', test: 'in' },
    window: { path: '/all/0', from, to, outside: false, words: 'in October', rolling: false, ...more },
    parts: [],
  }) as unknown as Outline
const OCTOBER = window('2026-10-01T00:00:00Z', '2026-11-01T00:00:00Z')

let page: VueWrapper
beforeEach(() => server.on('POST', HISTOGRAM, { field: 'due', label: 'Due', step: 'month', buckets }))
afterEach(() => {
  page.unmount()
  vi.useRealTimers()
})

async function at(outline?: Outline, more: Record<string, unknown> = {}) {
  ;({ page } = await drawn(TimeRail, {
    register: REGISTER,
    question: { register: 'defects', statement: '', order: [], columns: [] },
    outline,
    zone: 'UTC',
    now: '2026-11-23T09:30:00Z',
    ready: true,
    ...more,
  }))
  const svg = page.get('svg')
  svg.element.getBoundingClientRect = () => ({ left: 0, width: 1220 }) as DOMRect
  ;(svg.element as unknown as { setPointerCapture(): void }).setPointerCapture = () => {}
}
/** August to November have 122 days; a day is 10 pixels wide. */
const day = (month: number, date: number) =>
  ((Date.UTC(2026, month - 1, date) - Date.UTC(2026, 7, 1)) / 864e5) * 10
const asked = () => server.to('POST', HISTOGRAM).at(-1)!.body as Record<string, unknown>
const made = () => page.emitted('window')?.at(-1)
const bounds = () => page.get('.bounds').text().replace(/\s+/g, ' ')
async function draw(from: number, to: number, on = page.get('svg') as { trigger: VueWrapper['trigger'] }) {
  await on.trigger('pointerdown', { clientX: from, button: 0, pointerId: 1 })
  await page.get('svg').trigger('pointermove', { clientX: to })
  await page.get('svg').trigger('pointerup')
}

describe('the time rail', () => {
  it('goes by the field of the first window, or else by the register’s main date', async () => {
    await at()
    expect(asked().field).toBe('raised')
    page.unmount()
    await at(OCTOBER)
    expect(asked()).toMatchObject({ field: 'due', from: '2026-08-31', to: '2026-12-02' })
  })

  it('waits for the records', async () => {
    await at(undefined, { ready: false })
    expect(server.to('POST', HISTOGRAM)).toHaveLength(0)
    await page.setProps({ ready: true })
    await settled()
    expect(server.to('POST', HISTOGRAM)).toHaveLength(1)
  })

  it('says the exact bounds of a window, open ends, and what lies outside', async () => {
    await at(OCTOBER)
    expect(bounds()).toBe('from 1 Oct 2026 up to, not including, 1 Nov 2026')
    await page.setProps({ outline: window(null, '2026-11-01T00:00:00Z', { outside: true }) })
    await settled()
    expect(bounds()).toBe('outside: no start up to, not including, 1 Nov 2026')
  })

  it('says how many there are of each, and where now is', async () => {
    await at(OCTOBER)
    expect(page.get('g title').text()).toBe('1 Aug 2026 up to 31 Aug 2026: 10, 0 shown')
    expect(page.get('.drawing').attributes('aria-label')).toBe(
      'Due by month, 1 Aug 2026 to 30 Nov 2026, 100 records',
    )
    expect(page.get('.now').attributes('style')).toContain(
      `${((day(11, 23) + 9.5 / 2.4) / 1220) * 100}`.slice(0, 4),
    )
  })

  it('says so where nothing has a date', async () => {
    server.on('POST', HISTOGRAM, { field: 'due', label: 'Due', step: 'month', buckets: [] })
    await at()
    expect(bounds()).toBe('No record that fits has a date here.')
    // Nothing to look closer at.
    await page.get('[aria-label="Zoom in"]').trigger('click')
    await settled()
    expect(server.to('POST', HISTOGRAM)).toHaveLength(1)
  })
})

describe('a window that is drawn', () => {
  it('goes from bucket to bucket, in either direction', async () => {
    await at()
    await draw(day(10, 28), day(9, 3))
    expect(made()).toEqual(['2026-09-01 to 2026-10-31', 'raised', undefined])
  })

  it('of one month is said by its name, and of no width is none', async () => {
    await at()
    await draw(day(9, 2), day(9, 29))
    expect(made()).toEqual(['2026-09', 'raised', undefined])
    await draw(day(9, 2), day(9, 5))
    expect(page.emitted('window')).toHaveLength(1)
  })

  it('takes the place of the one window there is', async () => {
    await at(OCTOBER)
    await draw(day(8, 1), day(9, 1))
    expect(made()).toEqual(['2026-08', 'due', '/all/0'])
  })

  it('is changed at one end, with the other where it was', async () => {
    await at(OCTOBER)
    const [begins] = page.findAll('.handle')
    await draw(day(10, 1), day(8, 30), begins)
    expect(made()).toEqual(['2026-09-01 to 2026-10-31', 'due', '/all/0'])
  })

  it('is also made by a click at each end; the same place twice is none', async () => {
    await at()
    await draw(day(9, 1), day(9, 1))
    expect(bounds()).toContain('click, to the other end')
    await draw(day(10, 28), day(10, 28))
    expect(made()).toEqual(['2026-09-01 to 2026-10-31', 'raised', undefined])
    await draw(day(9, 1), day(9, 1))
    await draw(day(9, 1), day(9, 1))
    await draw(day(9, 1), day(9, 1))
    await page.get('.drawing').trigger('keydown', { key: 'Escape' })
    await draw(day(10, 1), day(10, 1))
    expect(page.emitted('window')).toHaveLength(1)
  })

  it('is changed at one end by a click there and another where it is to be', async () => {
    await at(OCTOBER)
    const [begins] = page.findAll('.handle')
    await draw(day(10, 1), day(10, 1), begins)
    await draw(day(8, 30), day(8, 30))
    expect(made()).toEqual(['2026-09-01 to 2026-10-31', 'due', '/all/0'])
  })

  it('is drawn with the first button only', async () => {
    await at()
    await page.get('svg').trigger('pointerdown', { clientX: 100, button: 2, pointerId: 1 })
    await page.get('svg').trigger('pointermove', { clientX: 800 })
    await page.get('svg').trigger('pointerup')
    expect(made()).toBeUndefined()
  })
})

describe('looking closer', () => {
  it('stays around the middle of the window, and further shows all in the end', async () => {
    await at(OCTOBER)
    const key = (name: string) => page.get('.drawing').trigger('keydown', { key: name }).then(settled)
    await key('+')
    expect(asked()).toMatchObject({ from: '2026-09-16', to: '2026-11-16' })
    await key('0')
    expect(asked().from).toBeUndefined()
  })

  it('is left when the window moves', async () => {
    await at(OCTOBER)
    await page.get('[aria-label="Zoom in"]').trigger('click')
    await settled()
    await page.setProps({ outline: window('2026-09-01T00:00:00Z', '2026-10-01T00:00:00Z') })
    await settled()
    expect(asked()).toMatchObject({ from: '2026-08-02' })
  })

  it('steps from window to window by the arrows', async () => {
    await at(OCTOBER)
    await page.get('.drawing').trigger('keydown', { key: 'ArrowLeft' })
    await page.get('.drawing').trigger('keydown', { key: 'ArrowRight' })
    expect(page.emitted('step')).toEqual([
      [false, 'due'],
      [true, 'due'],
    ])
  })
})

describe('a rail that takes long', () => {
  it('can be stopped, and leaves nothing of the question before', async () => {
    await at(OCTOBER)
    expect(page.findAll('g')).toHaveLength(4)
    server.hold(HISTOGRAM)
    server.on('DELETE', '/api/questions/*', undefined)
    await page.setProps({ question: { register: 'defects', statement: 'severity >= 4' } })
    await new Promise((done) => setTimeout(done, 330))
    expect(page.text()).toContain('counting…')
    const stop = page.findAll('button').find((b) => b.text() === 'Stop')!
    await stop.trigger('click')
    await settled()
    expect(page.findAll('g')).toHaveLength(0)
    expect(page.get('[role="alert"]').text()).toContain('Stopped.')
    server.letGo()
    await page.get('[role="alert"] button').trigger('click')
    await settled()
    expect(page.findAll('g')).toHaveLength(4)
    expect(page.find('[role="alert"]').exists()).toBe(false)
  })

  it('and fails, says so and draws nothing', async () => {
    await at(OCTOBER)
    server.on('POST', HISTOGRAM, refusal(504, 'too-slow', 'That took too long.'))
    await page.setProps({ question: { register: 'defects', statement: 'severity >= 4' } })
    await settled()
    expect(page.get('[role="alert"]').text()).toContain('That took too long.')
    expect(page.findAll('g')).toHaveLength(0)
  })
})
