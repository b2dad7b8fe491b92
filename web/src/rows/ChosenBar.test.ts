import { afterEach, expect, it, vi } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import type { Row } from '@/api/client'
import { DEFECTS, drawn, field } from '@/testing/page'
import { settled } from '@/testing/server'
import ChosenBar from './ChosenBar.vue'
import { useChosen } from './useChosen'

const FIELDS = [field('title', 'text'), field('severity', 'number')] as never[]
const row = (id: number, title: string) =>
  ({ id: String(id), values: { title, severity: id } }) as unknown as Row
let page: VueWrapper
afterEach(() => page.unmount())

async function bar(choose: (chosen: ReturnType<typeof useChosen>) => void, more: object = {}) {
  const chosen = useChosen(
    () => '',
    () => 214,
  )
  choose(chosen)
  ;({ page } = await drawn(ChosenBar, {
    register: DEFECTS,
    chosen,
    fields: FIELDS,
    zone: 'UTC',
    mayChange: true,
    ...more,
  }))
  return chosen
}
const button = (words: string) => page.findAll('button').find((b) => b.text() === words)

it('says how many, and offers what can be done with them', async () => {
  const chosen = await bar((c) => c.toggle(row(1, 'Pump')))
  expect(page.get('[role=status]').text()).toBe('1 defect chosen')
  expect(button('Where they differ')).toBeUndefined()
  chosen.toggle(row(2, 'Gate'))
  await settled()
  await button('Where they differ')!.trigger('click')
  await button('Change these…')!.trigger('click')
  expect(Object.keys(page.emitted())).toEqual(expect.arrayContaining(['compare', 'change']))
  await button('All that match')!.trigger('click')
  expect(page.get('[role=status]').text()).toBe('214 defects chosen, all that match')
  expect(button('Copy as a table')).toBeUndefined()
  await button('Let go')!.trigger('click')
  expect(chosen.some.value).toBe(false)
})

it('copies them as cells and as a table', async () => {
  const write = vi.fn<(items: { parts: Record<string, Blob> }[]) => Promise<void>>(() => Promise.resolve())
  vi.stubGlobal('navigator', { ...navigator, clipboard: { write } })
  vi.stubGlobal(
    'ClipboardItem',
    class {
      constructor(readonly parts: Record<string, Blob>) {}
    },
  )
  await bar((c) => [row(1, 'Pump\t<b>'), row(2, 'Gate')].forEach((r) => c.toggle(r)), { mayChange: false })
  expect(button('Change these…')).toBeUndefined()
  await button('Copy as a table')!.trigger('click')
  await settled()
  const { parts } = write.mock.calls[0]![0][0]!
  expect(await parts['text/plain']!.text()).toBe('Title\tSeverity\nPump <b>\t1\nGate\t2')
  expect(await parts['text/html']!.text()).toContain('<td>Pump\t&lt;b&gt;</td><td>1</td>')
  expect(page.emitted('said')).toEqual([['2 defects copied.']])
  vi.unstubAllGlobals()
})
