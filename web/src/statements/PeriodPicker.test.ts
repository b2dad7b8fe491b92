import { describe, expect, it, beforeEach, afterEach } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { drawn } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import PeriodPicker from './PeriodPicker.vue'

const server = standIn()
const READ = '/api/windows/resolve'
const FREELY = '/api/windows/read'
const COUNT = '/api/registers/defects/count'

const days = (phrase: string, firstDay: string, dayAfterLast: string, rolling = false) => ({
  phrase,
  kind: 'days',
  firstDay,
  dayAfterLast,
  start: firstDay + 'T00:00:00Z',
  end: dayAfterLast + 'T00:00:00Z',
  rolling,
  oneDay: false,
})
const KNOWN: Record<string, unknown> = {
  'last month': days('last month', '2026-10-01', '2026-11-01', true),
  today: days('today', '2026-11-23', '2026-11-24', true),
  '2026-10': days('2026-10', '2026-10-01', '2026-11-01'),
  '2026-11-05 to 2026-11-20': days('2026-11-05 to 2026-11-20', '2026-11-05', '2026-11-21'),
  'last 4 hours': {
    phrase: 'last 4 hours',
    kind: 'moments',
    start: '2026-11-23T05:30:00Z',
    end: '2026-11-23T09:30:00Z',
    rolling: true,
  },
}
const phraseOf = (call: Call) => (call.body as { phrase: string }).phrase

let page: VueWrapper
beforeEach(() => {
  server.on('POST', READ, (call: Call) => {
    const phrase = phraseOf(call)
    if (/^\d{4}-\d\d-\d\d$/.test(phrase)) return days(phrase, phrase, phrase.slice(0, 8) + '28')
    return (
      KNOWN[phrase] ??
      refusal(422, 'bad-window', `“${phrase}” is no date phrase.`, { suggestions: ['today'] })
    )
  })
  server.on('POST', FREELY, { readings: [] })
  server.on('POST', '/api/windows/fix', (call: Call) =>
    phraseOf(call) === 'last month'
      ? { fixed: '2026-10', rolling: [] }
      : { fixed: phraseOf(call), rolling: phraseOf(call) === '2026-10' ? ['last month'] : [] },
  )
  server.on('POST', COUNT, { matching: 1204, total: 24000, exact: true })
})
afterEach(() => page.unmount())

async function at(phrase: string, more: Record<string, unknown> = {}) {
  ;({ page } = await drawn(PeriodPicker, {
    modelValue: phrase,
    'onUpdate:modelValue': (now: string) => void page?.setProps({ modelValue: now }),
    clock: false,
    zone: 'UTC',
    asOf: '2026-11-23',
    ...more,
  }))
  return page
}
const box = () => page.get<HTMLInputElement>('input[aria-label="Window"]')
const chosen = () => page.emitted('update:modelValue')?.at(-1)?.[0]
const button = (words: string) => page.findAll('button').find((b) => b.text() === words)!
const dayOf = (iso: string) => page.get<HTMLButtonElement>(`[data-day="${iso}"]`)
/** Types, and waits as long as the box waits for the next letter. */
async function type(text: string) {
  await box().setValue(text)
  await new Promise((done) => setTimeout(done, 140))
  await settled()
}

describe('a window', () => {
  it('is said with its exact bounds, its zone, and whether it moves', async () => {
    await at('last month')
    expect(page.get('.account').text()).toContain(
      'from Thu 1 Oct 2026 up to and including Sat 31 Oct 2026 · 31 days',
    )
    expect(page.get('.account').text()).toContain('UTC')
    expect(page.get('.account').text()).toContain('rolling: it moves with the day.')
  })

  it('of one day, of none and of hours is said so', async () => {
    await at('today')
    expect(page.get('.account').text()).toContain('Mon 23 Nov 2026, the whole day')
    page.unmount()
    KNOWN['never'] = days('never', '2026-11-23', '2026-11-23')
    await at('never')
    expect(page.get('.account').text()).toContain('nothing: it ends before it begins')
    page.unmount()
    await at('last 4 hours', { clock: true })
    expect(page.get('.account').text()).toContain('up to, not including, 23 Nov 2026, 09:30')
  })

  it('is fixed with one click, and let roll with one', async () => {
    await at('last month')
    await button('fix these dates').trigger('click')
    await type(box().element.value)
    expect(chosen()).toBe('2026-10')
    expect(page.get('.account').text()).toContain('fixed: these dates stay.')
    await button('last month').trigger('click')
    await type(box().element.value)
    expect(chosen()).toBe('last month')
  })

  it('says how many records are in it, for the criterion it is for', async () => {
    await at('last month', { register: 'defects', criterion: { field: 'due', test: 'not in' } })
    expect(page.get('.account').text()).toContain('1,204 records by this alone')
    expect(server.to('POST', COUNT).at(-1)!.body).toMatchObject({
      condition: { field: 'due', test: 'not in', period: 'last month' },
      asOf: '2026-11-23',
      zone: 'UTC',
    })
    await page.setProps({ criterion: { field: 'due', test: 'in' } })
    await settled()
    expect(server.to('POST', COUNT).at(-1)!.body).toMatchObject({ condition: { test: 'in' } })
  })

  it('is fixed and counted as what was chosen last, not as what was chosen before', async () => {
    await at('today', { register: 'defects', criterion: { field: 'due', test: 'in' } })
    await button('last month').trigger('click')
    await type(box().element.value)
    expect(phraseOf(server.to('POST', '/api/windows/fix').at(-1)!)).toBe('last month')
    expect(server.to('POST', COUNT).at(-1)!.body).toMatchObject({ condition: { period: 'last month' } })
    expect(button('fix these dates').exists()).toBe(true)
    await type('2026-10')
    expect(phraseOf(server.to('POST', '/api/windows/fix').at(-1)!)).toBe('2026-10')
    expect(server.to('POST', COUNT).at(-1)!.body).toMatchObject({ condition: { period: '2026-10' } })
    expect(page.text()).not.toContain('fix these dates')
  })

  it('is said as what the criterion keeps', async () => {
    const said = async (test: string) => {
      await page.setProps({ criterion: { field: 'due', test } })
      await settled()
      return page.get('.account').text()
    }
    await at('last month', { register: 'defects', criterion: { field: 'due', test: 'in' } })
    expect(await said('before')).toContain('everything before Thu 1 Oct 2026')
    expect(await said('from')).toContain('everything from Thu 1 Oct 2026 on')
    expect(await said('after')).toContain('everything from Sun 1 Nov 2026 on')
    expect(await said('up to')).toContain('everything up to and including Sat 31 Oct 2026')
    expect(await said('not in')).toContain(
      'everything but from Thu 1 Oct 2026 up to and including Sat 31 Oct',
    )
    expect(await said('in')).not.toContain('everything')
  })

  it('stands without its number where that cannot be had', async () => {
    server.on('POST', COUNT, refusal(504, 'too-slow', 'That took too long.'))
    await at('last month', { register: 'defects', criterion: { field: 'due', test: 'in' } })
    expect(page.get('.account').text()).toContain('31 days')
    expect(page.text()).not.toContain('too long')
  })
})

describe('what is typed', () => {
  it('counts as the one thing it can mean', async () => {
    server.on('POST', FREELY, { readings: [KNOWN['last month']] })
    await at('today')
    await type('the month before')
    expect(chosen()).toBe('last month')
    expect(page.get('.account').text()).toContain('Read as last month')
  })

  it('that can mean two things is asked about, and is no window until it is answered', async () => {
    server.on('POST', FREELY, {
      readings: [
        days('2026-11-03', '2026-11-03', '2026-11-04'),
        days('2026-03-11', '2026-03-11', '2026-03-12'),
      ],
    })
    await at('today')
    await type('3/11')
    expect(page.get('.readings').text()).toContain('“3/11” can be read in 2 ways')
    expect(page.get('.readings').text()).toContain('Tue 3 Nov 2026, the whole day')
    expect(await (page.vm as unknown as { settle(): Promise<boolean> }).settle()).toBe(false)
    await page.findAll('.readings button')[1]!.trigger('click')
    await type(box().element.value)
    expect(chosen()).toBe('2026-03-11')
    expect(page.find('.readings').exists()).toBe(false)
  })

  it('that means nothing is kept, with what could be meant', async () => {
    await at('today')
    await type('todya')
    expect(page.get('[role="alert"]').text()).toContain('“todya” is no date phrase.')
    expect(box().element.value).toBe('todya')
    expect(box().attributes('aria-invalid')).toBe('true')
    await page.get('[role="alert"] button').trigger('click')
    await type(box().element.value)
    expect(chosen()).toBe('today')
  })

  it('a moment ago is read before it is applied', async () => {
    await at('today')
    await box().setValue('last month')
    expect(await (page.vm as unknown as { settle(): Promise<boolean> }).settle()).toBe(true)
    expect(chosen()).toBe('last month')
  })

  it('as a blank stays as it is written', async () => {
    server.on('POST', READ, KNOWN['last month'])
    await at('{which = last month}')
    expect(box().element.value).toBe('{which = last month}')
    expect(page.text()).not.toContain('Read as')
  })
})

describe('windows that are used often', () => {
  it('are one click or one key away', async () => {
    await at('today')
    await page.get('.picker').trigger('keydown', { altKey: true, code: 'Digit7' })
    await type(box().element.value)
    expect(chosen()).toBe('last month')
    expect(button('last month').attributes('aria-pressed')).toBe('true')
    expect(button('last month').attributes('aria-keyshortcuts')).toBe('Alt+7')
  })

  it('have hours only where the field has', async () => {
    await at('today')
    expect(button('last 4 hours')).toBeUndefined()
    page.unmount()
    await at('today', { clock: true })
    expect(button('last 4 hours').exists()).toBe(true)
  })
})

describe('the calendar', () => {
  it('shows two months with the window in them, and turns', async () => {
    await at('2026-11-05 to 2026-11-20')
    const titles = () => page.findAll('caption').map((c) => c.text())
    expect(titles()).toEqual(['November 2026', 'December 2026'])
    expect(page.findAll('td.inside')).toHaveLength(16)
    expect(dayOf('2026-11-20').attributes('aria-pressed')).toBe('true')
    expect(dayOf('2026-11-21').attributes('aria-pressed')).toBe('false')
    await page.get('[aria-label="Earlier months"]').trigger('click')
    expect(titles()).toEqual(['October 2026', 'November 2026'])
  })

  it('goes to a window elsewhere', async () => {
    await at('today')
    await type('2026-10')
    expect(page.findAll('caption')[0]!.text()).toBe('October 2026')
  })

  it('takes a day, and with Shift the last day of a range in either direction', async () => {
    await at('today')
    await dayOf('2026-11-20').trigger('click')
    expect(box().element.value).toBe('2026-11-20')
    await dayOf('2026-11-05').trigger('click', { shiftKey: true })
    expect(box().element.value).toBe('2026-11-05 to 2026-11-20')
    await dayOf('2026-11-20').trigger('click', { shiftKey: true })
    expect(box().element.value).toBe('2026-11-20')
  })

  it('is walked by arrows over the ends of months, and drawn on with Shift', async () => {
    await at('today')
    const reached = () => (document.activeElement as HTMLElement).dataset.day
    dayOf('2026-11-23').element.focus()
    await dayOf('2026-11-23').trigger('keydown', { key: 'ArrowDown' })
    await settled()
    expect(reached()).toBe('2026-11-30')
    await dayOf('2026-11-30').trigger('keydown', { key: 'ArrowRight' })
    await settled()
    expect(reached()).toBe('2026-12-01')
    await dayOf('2026-12-01').trigger('keydown', { key: 'PageDown' })
    await settled()
    expect(reached()).toBe('2027-01-01')
    expect(page.findAll('caption').map((c) => c.text())).toEqual(['December 2026', 'January 2027'])
    await dayOf('2027-01-01').trigger('keydown', { key: 'ArrowRight', shiftKey: true })
    await settled()
    expect(box().element.value).toBe('2027-01-01 to 2027-01-02')
    // Enter where a range was drawn to means the range; on another day it chooses that day first.
    await dayOf('2027-01-02').trigger('keydown', { key: 'Enter' })
    expect(box().element.value).toBe('2027-01-01 to 2027-01-02')
    expect(page.emitted('apply')).toHaveLength(1)
    await dayOf('2027-01-05').trigger('keydown', { key: 'Enter' })
    expect(box().element.value).toBe('2027-01-05')
    expect(page.emitted('apply')).toHaveLength(1)
    await dayOf('2027-01-05').trigger('keydown', { key: 'Enter' })
    expect(page.emitted('apply')).toHaveLength(2)
  })

  it('is come to by Tab at one day only', async () => {
    await at('today')
    expect(page.findAll('[data-day][tabindex="0"]').map((d) => d.attributes('data-day'))).toEqual([
      '2026-11-23',
    ])
  })
})
