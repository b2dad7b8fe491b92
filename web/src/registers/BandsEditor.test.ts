import { afterEach, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import type { Band } from '@/api/client'
import { drawn, field } from '@/testing/page'
import { settled, standIn } from '@/testing/server'
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
