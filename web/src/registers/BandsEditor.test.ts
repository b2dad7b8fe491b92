import { afterEach, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import type { Band } from '@/api/client'
import { drawn, field } from '@/testing/page'
import { settled, standIn, type Call } from '@/testing/server'
import BandsEditor from './BandsEditor.vue'

const server = standIn()
let page: VueWrapper
afterEach(() => page.unmount())

it('up to a day has that day in it, as everywhere', async () => {
  server.on('POST', '/api/registers/defects/histogram', {
    field: 'due',
    label: 'Due',
    step: 'month',
    zone: 'UTC',
    buckets: [],
  })
  const bands = [
    { name: 'First quarter', extents: [{ firstDay: '2026-01-01', dayAfterLast: '2026-04-01' }], bands: [] },
  ] as unknown as Band[]
  ;({ page } = await drawn(BandsEditor, {
    registerKey: 'defects',
    field: field('due', 'date'),
    disabled: false,
    modelValue: bands,
  }))
  await settled()
  const end = page.get<HTMLInputElement>('[aria-label="First quarter up to"]')
  expect(end.element.value).toBe('2026-03-31')
  expect(page.text()).toContain('up to and including')
  await end.setValue('2026-06-30')
  expect(bands[0]!.extents[0]!.dayAfterLast).toBe('2026-07-01')
  expect(end.element.value).toBe('2026-06-30')
  await end.setValue('')
  expect(bands[0]!.extents[0]!.dayAfterLast).toBeNull()
})

it('leaves what is being typed alone, whatever is drawn anew meanwhile', async () => {
  server.on('POST', '/api/registers/defects/distribution', { stretches: [], values: [], empty: 0 })
  const bands = [{ name: 'Ship', extents: [{ low: 60, high: null }], bands: [] }] as unknown as Band[]
  ;({ page } = await drawn(BandsEditor, {
    registerKey: 'defects',
    field: field('length', 'number'),
    disabled: false,
    modelValue: bands,
  }))
  await settled()
  const low = page.get<HTMLInputElement>('[aria-label="Ship from"]')
  low.element.value = '70'
  await low.trigger('input')
  await page.setProps({ disabled: true })
  await page.setProps({ disabled: false })
  expect(low.element.value).toBe('70')
  await low.trigger('change')
  expect(bands[0]!.extents[0]!.low).toBe(70)
})

it('finds values beyond the most frequent ones, and keeps those that were chosen in sight', async () => {
  const all = Array.from({ length: 70 }, (_, i) => ({ value: `Crane ${i + 1}`, count: 70 - i }))
  server.on('POST', '/api/registers/defects/values', (call: Call) => {
    const { search, limit } = call.body as { search: string | null; limit: number }
    const found = all.filter((v) => v.value.includes(search ?? ''))
    return { values: found.slice(0, limit), more: found.length > limit }
  })
  server.on('POST', '/api/registers/defects/count', { matching: 12, exact: true, total: 100 })
  const bands = [{ name: 'Last', extents: [{ values: ['Crane 2'] }], bands: [] }] as unknown as Band[]
  ;({ page } = await drawn(BandsEditor, {
    registerKey: 'defects',
    field: field('crane', 'text'),
    disabled: false,
    modelValue: bands,
  }))
  await settled()
  expect(page.text()).toContain('12 records without a value')
  expect(page.text()).not.toContain('Crane 70')
  await page.get('[aria-label="Find a value of Crane"]').setValue('Crane 70')
  await new Promise((done) => setTimeout(done, 300))
  await settled()
  const ticks = page.findAll('.set label')
  expect(ticks.map((t) => t.text().replace(/\s+/g, ' '))).toEqual(['Crane 2 69', 'Crane 70 1'])
  await ticks[1]!.get('input').setValue(true)
  expect(bands[0]!.extents[0]!.values).toEqual(['Crane 2', 'Crane 70'])
  expect(page.get('.holds').text()).toBe('70')
})

it('takes several stretches for one band', async () => {
  const bands = [{ name: 'Night', extents: [{ from: '22:00', to: '24:00' }], bands: [] }] as unknown as Band[]
  ;({ page } = await drawn(BandsEditor, {
    registerKey: 'defects',
    field: field('at', 'time of day'),
    disabled: false,
    modelValue: bands,
  }))
  await settled()
  await page.get('[aria-label="and from: add a stretch to Night"]').trigger('click')
  await page.get('[aria-label="Night from, 2"]').setValue('00:00')
  await page.get('[aria-label="Night up to, 2"]').setValue('06:00')
  expect(bands[0]!.extents).toEqual([
    { from: '22:00', to: '24:00' },
    { from: '00:00', to: '06:00' },
  ])
  await page.get('[aria-label="Remove stretch 1 of Night"]').trigger('click')
  expect(bands[0]!.extents).toEqual([{ from: '00:00', to: '06:00' }])
})
