import { afterEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import type { Pin } from '@/api/client'
import { drawn } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import { ANSWER } from '@/totals/sheet.fixture'
import BesideDialog from './BesideDialog.vue'
import { useViews } from './store'

const server = standIn()
const AT = '/api/pins/7/figure'
let page: VueWrapper
afterEach(() => page.unmount())

async function open(figure?: string) {
  ;({ page } = await drawn(BesideDialog, {
    modelValue: false,
    view: { id: '7', name: 'Levels' },
    figures: ANSWER.figures,
    changed: false,
  }))
  useViews().pins = [{ id: '7', name: 'Levels', figure } as unknown as Pin]
  await page.setProps({ modelValue: true })
  await settled()
}
const choice = (label: string) =>
  [...document.querySelectorAll('label')]
    .find((l) => l.textContent!.trim() === label)!
    .querySelector('input')!
const save = async () => {
  document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
  await settled()
}

describe('what stands beside a pinned view', () => {
  it('is chosen among the number of records and the figures of its totals', async () => {
    server.on('PUT', AT, [])
    await open()
    expect(choice('the number of records').checked).toBe(true)
    choice('sum of Severity').click()
    await save()
    expect(server.to('PUT', AT)[0]!.body).toEqual({ figure: 'sum_of_severity' })
    expect(page.emitted('update:modelValue')).toEqual([[false]])
    expect(page.emitted('told')).toEqual([['Beside it on your list: the sum of Severity.']])
  })

  it('says why it cannot be, and stays open', async () => {
    server.on('PUT', AT, refusal(422, 'unknown-figure', 'There is no figure “sum_of_severity”.'))
    await open('sum_of_severity')
    expect(choice('sum of Severity').checked).toBe(true)
    await save()
    expect(document.querySelector('[role=alert]')!.textContent).toContain('There is no figure')
    expect(page.emitted('update:modelValue')).toBeUndefined()
  })
})
