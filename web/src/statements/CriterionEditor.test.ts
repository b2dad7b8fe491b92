import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { computed, ref } from 'vue'
import { DESK, type Desk } from './desk'
import CriterionEditor from './CriterionEditor.vue'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import type { Node } from './tree'

const server = standIn()
const REGISTER = {
  ...DEFECTS,
  viewerValues: ['me', 'site'],
  fields: [
    field('title'),
    field('severity', 'number'),
    field('due', 'date', {}, ['closed']),
    field('closed', 'date', {}, ['due']),
    field('site', 'choice', {
      viewerValues: ['site'],
      options: [
        { value: 'North Quay', label: 'North Quay' },
        { value: 'Lantern Pier', label: 'Lantern Pier' },
      ],
    }),
    field('urgent', 'yes/no'),
  ],
}

let page: VueWrapper
beforeEach(() => {
  server.on('POST', '/api/registers/defects/values', {
    values: [{ value: 'North Quay', count: 1204 }],
    more: false,
  })
  server.on('POST', '/api/windows/resolve', {
    phrase: 'today',
    kind: 'days',
    firstDay: '2026-11-23',
    dayAfterLast: '2026-11-24',
    start: '2026-11-23T00:00:00Z',
    end: '2026-11-24T00:00:00Z',
    rolling: true,
    oneDay: true,
  })
  server.on('POST', '/api/windows/fix', { fixed: '2026-11-23', rolling: [] })
  server.on('POST', '/api/registers/defects/count', { matching: 3, total: 24000, exact: true })
})
afterEach(() => page.unmount())

async function at(node?: Node, about?: string) {
  const desk = {
    register: computed(() => REGISTER),
    asOf: ref(undefined),
    zone: ref('UTC'),
  } as unknown as Desk
  ;({ page } = await drawn(CriterionEditor, { node, about }, '/', { [DESK as symbol]: desk }))
}
const input = (label: string) => page.get<HTMLInputElement>(`[aria-label="${label}"]`)
const button = (words: string) => page.findAll('button').find((b) => b.text() === words)!
const applied = () => page.emitted('apply')?.at(-1)?.[0]
async function apply() {
  await button('Apply').trigger('click')
  await settled()
  return applied()
}

describe('the editor of a criterion', () => {
  it('offers the tests of the field, with the one in use marked', async () => {
    await at({ field: 'severity', test: '>=', value: 4 })
    const radios = page.findAll('[role="radiogroup"][aria-label="Test"] [role="radio"]')
    expect(radios.map((r) => r.text())).toEqual([
      'is one of',
      'is none of',
      'is',
      'is not',
      'is at least',
      'is more than',
      'is at most',
      'is less than',
      'between',
      'is empty',
      'is not empty',
    ])
    const chosen = radios.filter((r) => r.attributes('aria-checked') === 'true')
    expect(chosen.map((r) => r.text())).toEqual(['is at least'])
    expect(document.activeElement).toBe(input('Number').element)
  })

  it('changes what it was opened with', async () => {
    await at({ field: 'severity', test: '>=', value: 4 })
    await input('Number').setValue('5')
    expect(await apply()).toEqual({ field: 'severity', test: '>=', value: 5 })
  })

  it('goes on with what was written when the test changes', async () => {
    await at({ field: 'severity', test: '>=', value: 4 })
    await button('between').trigger('click')
    await input('To').setValue('5')
    expect(await apply()).toEqual({ field: 'severity', test: 'between', low: 4, high: 5 })
  })

  it('keeps a blank that whoever reads fills in, and its default', async () => {
    await at({ field: 'severity', test: '>=', value: { ask: 'at least', default: 3 } })
    expect(input('Ask whoever reads').element.value).toBe('at least')
    expect(input('Number').element.value).toBe('3')
    expect(await apply()).toEqual({ field: 'severity', test: '>=', value: { ask: 'at least', default: 3 } })
  })

  it('says what is missing and keeps what was written', async () => {
    await at({ field: 'severity', test: '>=', value: 4 })
    await input('Number').setValue('many')
    expect(await apply()).toBeUndefined()
    expect(page.get('[role="alert"]').text()).toBe('Write a number, such as 3 or 12.50.')
    expect(input('Number').element.value).toBe('many')
    await input('Number').setValue('4')
    expect(await apply()).toMatchObject({ value: 4 })
    expect(page.find('[role="alert"]').exists()).toBe(false)
  })

  it('is applied by Enter and left by Escape; Enter in a list is a line', async () => {
    await at({ field: 'severity', test: 'is in', values: [1, 2] })
    await input('Values').trigger('keydown', { key: 'Enter' })
    await settled()
    expect(applied()).toBeUndefined()
    await input('Values').trigger('keydown', { key: 'Enter', ctrlKey: true })
    await settled()
    expect(applied()).toEqual({ field: 'severity', test: 'is in', values: [1, 2] })
    await input('Values').trigger('keydown', { key: 'Escape' })
    expect(page.emitted('cancel')).toHaveLength(1)
  })

  it('chooses weekdays', async () => {
    await at({ field: 'due', test: 'weekday in', values: ['Sat'] })
    await button('Sun').trigger('click')
    await button('Sat').trigger('click')
    expect(await apply()).toEqual({ field: 'due', test: 'weekday in', values: ['Sun'] })
  })

  it('asks about half a day instead of rounding it', async () => {
    await at({ field: 'due', test: 'more than', count: 30, unit: 'day', side: 'ago' })
    await input('How many').setValue('2.5')
    expect(await apply()).toBeUndefined()
    expect(page.get('[role="alert"]').text()).toContain('a whole number')
  })

  it('begins a new criterion about a field with its usual window', async () => {
    await at(undefined, 'due')
    expect(page.get<HTMLInputElement>('[aria-label="Window"]').element.value).toBe('today')
    expect(await apply()).toEqual({ field: 'due', test: 'before', period: 'today' })
  })

  it('means what lies in a span of days when the test was only the usual one', async () => {
    const week = {
      phrase: 'last 7 days',
      kind: 'days',
      firstDay: '2026-11-17',
      dayAfterLast: '2026-11-24',
      start: '2026-11-17T00:00:00Z',
      end: '2026-11-24T00:00:00Z',
      rolling: true,
      oneDay: false,
    }
    const pick = async () => {
      server.on('POST', '/api/windows/resolve', week)
      await page
        .findAll('button')
        .find((b) => b.text() === 'last 7 days')!
        .trigger('click')
      await new Promise((done) => setTimeout(done, 140))
      await settled()
    }
    await at(undefined, 'due')
    await pick()
    expect(await apply()).toEqual({ field: 'due', test: 'in', period: 'last 7 days' })
    page.unmount()
    await at({ field: 'due', test: 'before', period: 'today' })
    await pick()
    expect(await apply()).toEqual({ field: 'due', test: 'before', period: 'last 7 days' })
  })

  it('holds a date against another one', async () => {
    await at({ field: 'due', test: 'before', period: 'today' })
    await input('Compare it with another field').setValue('closed')
    await input('Plus how much').setValue('-3')
    expect(await apply()).toEqual({
      field: 'due',
      test: 'before',
      other: 'closed',
      plus: { count: -3, unit: 'day' },
    })
  })

  it('chooses from a list with its counts, the reader’s own site among it', async () => {
    await at({ field: 'site', test: 'is', value: 'North Quay' })
    expect(page.text()).toContain('1,204')
    const boxes = page.findAll<HTMLInputElement>('.value input[type="checkbox"]')
    expect(boxes.map((b) => b.element.checked)).toEqual([false, true, false])
    await boxes[0]!.setValue(true)
    expect(await apply()).toEqual({
      field: 'site',
      test: 'is in',
      values: ['North Quay', { viewer: 'site' }],
    })
  })

  it('says yes or no', async () => {
    await at({ field: 'urgent', test: 'is', value: true })
    await button('no').trigger('click')
    expect(await apply()).toEqual({ field: 'urgent', test: 'is', value: false })
  })
})

describe('several values pasted into a box for one', () => {
  const PASTED = '/api/registers/defects/pasted'
  async function paste(into: string, text: string) {
    const event = new Event('paste', { bubbles: true }) as ClipboardEvent
    Object.defineProperty(event, 'clipboardData', { value: { getData: () => text } })
    input(into).element.dispatchEvent(event)
    await settled()
  }
  const rested = async () => {
    await new Promise((done) => setTimeout(done, 400))
    await settled()
  }
  const offer = () => page.find('[aria-label="Several values were pasted"]')

  it('are offered as a list, with what is repeated and what no record has', async () => {
    server.on('POST', PASTED, { values: ['1', '2', '9'], repeated: 1, missing: ['9'] })
    await at({ field: 'severity', test: '>=', value: 4 })
    await paste('Number', '1\n2\n2\n9')
    await rested()
    expect(offer().text()).toContain('3 values, 1 repetition left out; in no record: 9.')
    await button('Leave it out').trigger('click')
    expect(offer().text()).toContain('is one of these 2')
    await button('is one of these 2').trigger('click')
    await settled()
    expect(offer().exists()).toBe(false)
    expect(document.activeElement).toBe(input('Values').element)
    expect(await apply()).toEqual({ field: 'severity', test: 'is in', values: [1, 2] })
  })

  it('are told how many stand there twice', async () => {
    server.on('POST', PASTED, { values: ['1', '2'], repeated: 2, missing: [] })
    await at({ field: 'severity', test: 'is in', values: [1, 2] })
    await input('Values').setValue('1\n2\n2\n1')
    await rested()
    expect(page.text()).toContain('2 values, 2 repetitions left out, all of them in some record.')
  })

  it('are none where one value, or a window, was pasted', async () => {
    await at({ field: 'severity', test: '>=', value: 4 })
    await paste('Number', '17')
    expect(offer().exists()).toBe(false)
    page.unmount()
    await at({ field: 'due', test: 'before', period: 'today' })
    await paste('Window', '2026-11-01, 2026-11-03')
    expect(offer().exists()).toBe(false)
  })
})

describe('a test', () => {
  it('that is chosen puts the keys into its value', async () => {
    await at({ field: 'severity', test: '>=', value: 4 })
    await button('between').trigger('click')
    await settled()
    expect(document.activeElement).toBe(input('From').element)
  })

  it('takes the place of a window that repeats in the calendar', async () => {
    server.on('POST', '/api/windows/resolve', refusal(400, 'no-phrase', 'That is no date phrase.'))
    server.on('POST', '/api/windows/read', {
      text: 'every monday',
      readings: [],
      repeating: { test: 'weekday in', number: 1 },
    })
    await at({ field: 'due', test: 'before', period: 'every monday' })
    await settled()
    expect(page.text()).toContain('comes again each week')
    await button('falls on a Monday').trigger('click')
    await settled()
    expect(await apply()).toEqual({ field: 'due', test: 'weekday in', values: ['Mon'] })
  })
})
