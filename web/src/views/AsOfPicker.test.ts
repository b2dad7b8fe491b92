import { DOMWrapper, mount, type VueWrapper } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import AsOfPicker from './AsOfPicker.vue'

let picker: VueWrapper
afterEach(() => picker.unmount())

async function opened(props: Partial<InstanceType<typeof AsOfPicker>['$props']> = {}) {
  picker = mount(AsOfPicker, {
    props: {
      chosenZone: '',
      organisationsZone: 'Europe/London',
      readersZone: 'Europe/London',
      pastSince: '2026-09-01T08:00:00Z',
      ...props,
    },
    attachTo: document.body,
  })
  await picker.get('button').trigger('click')
  for (let i = 0; i < 6; i++) await nextTick()
}
const panel = () => new DOMWrapper(document.querySelector<HTMLElement>('[role=dialog]')!)
const field = (label: string) =>
  panel()
    .findAll('label')
    .find((l) => l.text().startsWith(label))!
    .get('input')
async function change(label: string, value: string) {
  const input = field(label)
  ;(input.element as HTMLInputElement).value = value
  await input.trigger('change')
}

describe('the moment that a page is read at', () => {
  it('moves windows and records apart', async () => {
    await opened()
    await change('Read it as of another day', '2026-11-01')
    await change('Records as they were kept on', '2026-09-30')
    expect(picker.emitted()).toMatchObject({ asOf: [['2026-11-01']], recordsAt: [['2026-09-30']] })
  })

  it('says both in its button, and takes a time of the day of each', async () => {
    await opened({ asOf: '2026-11-01', recordsAt: '2026-09-30' })
    expect(picker.get('button').text()).toBe('As of 1 Nov 2026, records of 30 Sep 2026')
    await change('at a time of that day', '09:30')
    await change('kept at a time of that day', '17:00')
    expect(picker.emitted()).toMatchObject({
      asOf: [['2026-11-01T09:30']],
      recordsAt: [['2026-09-30T17:00']],
    })
    await panel()
      .findAll('button')
      .find((b) => b.text() === 'Records as they are now')!
      .trigger('click')
    expect(picker.emitted('recordsAt')!.at(-1)).toEqual([null])
  })

  it('says the one that is not of now', async () => {
    await opened()
    expect(picker.get('button').text()).toBe('As of now')
    await picker.setProps({ recordsAt: '2026-09-30' })
    expect(picker.get('button').text()).toBe('Records of 30 Sep 2026')
  })

  it('offers no past where none is known, and none from before', async () => {
    await opened()
    expect(field('Records as they were kept on').attributes('min')).toBe('2026-09-01')
    picker.unmount()
    await opened({ pastSince: undefined })
    expect(panel().text()).not.toContain('Records as they were kept')
  })
})
