import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { drawn, field } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import type { Change, Node } from '@/statements/tree'
import HeadPanel from './HeadPanel.vue'

const server = standIn()
const VALUES = '/api/registers/defects/values'
const SITE = field('site', 'choice', {
  orderable: true,
  options: ['North Quay', 'Lantern Pier', 'Outer Roads'].map((value) => ({ value, label: value })),
})
const SEVERITY = field('severity', 'number', {
  orderable: true,
  bands: [{ name: 'Any', bands: [{ name: 'Grave', bands: [] }] }],
})

let page: VueWrapper
beforeEach(() => {
  server.on('POST', VALUES, {
    values: [
      { value: 'Lantern Pier', count: 1204 },
      { value: 'North Quay', count: 30 },
      { value: null, count: 7 },
    ],
    more: false,
  })
  server.on('POST', '/api/registers/defects/distribution', {
    stretches: Array.from({ length: 4 }, (_, i) => ({ low: i, high: i + 1, records: i * 10 })),
    empty: 3,
  })
})
afterEach(() => page.unmount())

async function at(of: unknown, tree: Node = { all: [] }, more: Record<string, unknown> = {}) {
  const question = { register: 'defects', statement: 'severity >= 4', answers: {} }
  ;({ page } = await drawn(HeadPanel, {
    field: of,
    tree,
    question,
    zone: 'UTC',
    sorted: 'none',
    measured: [],
    full: false,
    added: false,
    ...more,
  }))
  /** The tree as the last change makes it. */
  return () => (page.emitted('narrow')?.at(-1)?.[0] as Change | undefined)?.(tree)
}
const lines = () => page.findAll('.lines .line')
const words = () => lines().map((l) => l.text().replace(/\s+/g, ' '))
const line = (text: string) =>
  lines()
    .find((l) => l.text().includes(text))!
    .get<HTMLInputElement>('input')
const button = (text: string) => page.findAll('button').find((b) => b.text() === text)!
const checked = () => lines().map((l) => l.get<HTMLInputElement>('input').element.checked)

describe('the values of a column', () => {
  it('stand in their declared order with their counts, those that no record has left out', async () => {
    await at(SITE)
    expect(words()).toEqual(['North Quay 30', 'Lantern Pier 1,204', 'without a value 7'])
    expect(server.to('POST', VALUES)[0]!.body).toMatchObject({ field: 'site', beside: true, limit: 200 })
  })

  it('are kept: one plainly, several as a list, those without a value beside them', async () => {
    const made = await at(SITE)
    await line('North Quay').setValue(true)
    await button('Keep only these').trigger('click')
    expect(made()).toEqual({ all: [{ field: 'site', test: 'is', value: 'North Quay' }] })
    await line('Lantern Pier').setValue(true)
    await button('Keep only these').trigger('click')
    expect(made()).toEqual({
      all: [{ field: 'site', test: 'is in', values: ['North Quay', 'Lantern Pier'] }],
    })
    await line('without a value').setValue(true)
    await button('Keep only these').trigger('click')
    expect(made()).toEqual({
      all: [
        {
          any: [
            { field: 'site', test: 'is in', values: ['North Quay', 'Lantern Pier'] },
            { field: 'site', test: 'is empty' },
          ],
        },
      ],
    })
  })

  it('are left out, those without a value among them', async () => {
    const other = { field: 'severity', test: '>=', value: 4 }
    const made = await at(SITE, { all: [other, { field: 'site', test: 'is', value: 'Outer Roads' }] })
    await line('Outer Roads').setValue(false)
    await line('North Quay').setValue(true)
    await line('without a value').setValue(true)
    await button('Leave these out').trigger('click')
    expect(made()).toEqual({
      all: [
        other,
        { field: 'site', test: 'is not in', values: ['North Quay'] },
        { field: 'site', test: 'is not empty' },
      ],
    })
  })

  it('show what is asked already, also of a value that no record has now', async () => {
    await at(SITE, { all: [{ field: 'site', test: 'is in', values: ['North Quay', 'Outer Roads'] }] })
    expect(words()).toEqual(['North Quay 30', 'Lantern Pier 1,204', 'Outer Roads 0', 'without a value 7'])
    expect(checked()).toEqual([true, false, true, false])
  })

  it('keep the reader’s own site among them, and let it be taken out', async () => {
    const made = await at(SITE, { all: [{ field: 'site', test: 'is', value: { viewer: 'site' } }] })
    expect(words()[0]).toBe('my site, whoever reads')
    expect(checked()).toEqual([true, false, false, false])
    await line('North Quay').setValue(true)
    await button('Keep only these').trigger('click')
    expect(made()).toEqual({
      all: [{ field: 'site', test: 'is in', values: ['North Quay', { viewer: 'site' }] }],
    })
    await line('my site').setValue(false)
    await button('Keep only these').trigger('click')
    expect(made()).toEqual({ all: [{ field: 'site', test: 'is', value: 'North Quay' }] })
  })

  it('are no longer asked for when nothing is chosen', async () => {
    const made = await at(SITE, { all: [{ field: 'site', test: 'is', value: 'North Quay' }] })
    await button('none').trigger('click')
    await button('Keep only these').trigger('click')
    expect(made()).toEqual({ all: [] })
  })

  it('are chosen all, none or the other way round; what is chosen stays in sight while others are searched', async () => {
    const made = await at(field('title'))
    await button('all').trigger('click')
    expect(page.text()).toContain('2 chosen')
    server.on('POST', VALUES, { values: [{ value: 'Outer Roads', count: 1 }], more: true })
    await page.get('[type="search"]').setValue('out')
    await new Promise((done) => setTimeout(done, 200))
    await settled()
    expect(server.to('POST', VALUES).at(-1)!.body).toMatchObject({ search: 'out' })
    expect(page.text()).toContain('most frequent; search for others')
    expect(words()).toEqual(['Outer Roads 1', 'Lantern Pier 1,204', 'North Quay 30'])
    await button('invert').trigger('click')
    await button('Keep only these').trigger('click')
    expect(made()).toEqual({ all: [{ field: 'title', test: 'is', value: 'Outer Roads' }] })
  })

  it('of tags, numbers and yes or no are said in their own way', async () => {
    server.on('POST', VALUES, { values: [{ value: 'storm', count: 2 }], more: false })
    let made = await at(field('tags', 'tags'))
    await line('storm').setValue(true)
    await button('Leave these out').trigger('click')
    expect(made()).toEqual({ all: [{ field: 'tags', test: 'has none of', values: ['storm'] }] })
    page.unmount()
    server.on('POST', VALUES, {
      values: [10, 9].map((value) => ({ value, count: 2 })),
      more: false,
    })
    made = await at(SEVERITY)
    expect(words()).toEqual(['9 2', '10 2', 'without a value 3'])
    await line('9').setValue(true)
    await button('Keep only these').trigger('click')
    expect(made()).toEqual({ all: [{ field: 'severity', test: '=', value: 9 }] })
    page.unmount()
    server.on('POST', VALUES, { values: [{ value: true, count: 2 }], more: false })
    made = await at(field('urgent', 'yes/no'))
    expect(words()).toEqual(['yes 2'])
    await line('yes').setValue(true)
    await button('Keep only these').trigger('click')
    expect(made()).toEqual({ all: [{ field: 'urgent', test: 'is', value: true }] })
  })

  it('cannot be chosen all at once before they are known', async () => {
    server.hold(VALUES)
    await at(SITE)
    expect(page.text()).toContain('Counting…')
    expect(['all', 'none', 'invert'].map((w) => button(w).attributes('disabled'))).toEqual(['', '', ''])
    server.letGo()
    await settled()
    expect(button('all').attributes('disabled')).toBeUndefined()
  })

  it('claim no count that was not made', async () => {
    server.on('POST', VALUES, { values: [{ value: 'Outer Roads', count: 1 }], more: true })
    await at(field('title'), { all: [{ field: 'title', test: 'is', value: 'Pump' }] })
    expect(words()).toEqual(['Outer Roads 1', 'Pump'])
  })

  it('that cannot be had say so', async () => {
    server.on('POST', VALUES, refusal(504, 'too-slow', 'That took too long. Narrow the view first.'))
    await at(SITE)
    expect(page.get('[role="alert"]').text()).toContain('Narrow the view first.')
  })
})

describe('the range of a column', () => {
  const svg = () => {
    const el = page.get('svg')
    el.element.getBoundingClientRect = () => ({ left: 0, width: 400 }) as DOMRect
    ;(el.element as unknown as { setPointerCapture(): void }).setPointerCapture = () => {}
    return el
  }

  it('is drawn over its distribution, in either direction, and kept', async () => {
    const made = await at(SEVERITY)
    await svg().trigger('pointerdown', { clientX: 350, pointerId: 1 })
    await svg().trigger('pointermove', { clientX: 150 })
    await svg().trigger('pointerup')
    await svg().trigger('pointermove', { clientX: 10 })
    await page.get('form').trigger('submit')
    expect(made()).toEqual({ all: [{ field: 'severity', test: 'between', low: 1, high: 4 }] })
    expect(page.findAll('.bar.in')).toHaveLength(3)
  })

  it('is typed, with one end open, and takes the place of the range there was', async () => {
    const made = await at(SEVERITY, {
      all: [
        { field: 'severity', test: 'between', low: 1, high: 4 },
        { field: 'severity', test: 'is in band', bands: ['Grave'] },
      ],
    })
    const [from, to] = page.findAll<HTMLInputElement>('.range input')
    expect([from!.element.value, to!.element.value]).toEqual(['1', '4'])
    await to!.setValue('')
    await page.get('form').trigger('submit')
    expect(made()).toEqual({
      all: [
        { field: 'severity', test: 'is in band', bands: ['Grave'] },
        { field: 'severity', test: '>=', value: 1 },
      ],
    })
  })

  it('that is no number is asked about', async () => {
    const made = await at(SEVERITY)
    await page.get('.range input').setValue('few')
    await page.get('form').trigger('submit')
    expect(page.get('[role="alert"]').text()).toContain('Write a number')
    expect(made()).toBeUndefined()
  })

  it('is taken by bands as well, which lie in each other', async () => {
    const made = await at(SEVERITY)
    const bands = page.findAll<HTMLInputElement>('fieldset label input').slice(0, 2)
    await bands[1]!.setValue(true)
    expect(made()).toEqual({ all: [{ field: 'severity', test: 'is in band', bands: ['Grave'] }] })
  })
})

describe('the order from a head', () => {
  it('says which end comes first, joins with Shift, and is left by a second click', async () => {
    await at(SEVERITY, { all: [] }, { sorted: 'ascending' })
    await button('highest first').trigger('click', { shiftKey: true })
    await button('lowest first').trigger('click')
    expect(page.emitted('order')).toEqual([
      ['descending', true],
      ['none', false],
    ])
  })
})

it('shows figures of the column, and shows which are shown', async () => {
  await at(SEVERITY, { all: [] }, { measured: ['sum'] })
  const figures = page
    .findAll('[role=group]')
    .find((g) => g.attributes('aria-label') === 'Figures of Severity')!
  const pressed = figures.findAll('button').map((b) => `${b.text()} ${b.attributes('aria-pressed')}`)
  expect(pressed).toEqual([
    'sum true',
    'average false',
    'median false',
    'percentile false',
    'least false',
    'most false',
    'different values false',
  ])
  await button('median').trigger('click')
  expect(page.emitted('figure')).toEqual([['median']])
})

it('offers no figure more than can be shown, and takes those away that are', async () => {
  await at(SEVERITY, { all: [] }, { measured: ['sum'], full: true })
  await button('median').trigger('click')
  expect(page.emitted('figure')).toBeUndefined()
  await button('sum').trigger('click')
  expect(page.emitted('figure')).toEqual([['sum']])
})

it('asks under what the page asks, as of the same time', async () => {
  await at(SITE)
  expect((server.to('POST', VALUES)[0] as Call).body).toMatchObject({ statement: 'severity >= 4' })
})

it('makes the column wider, narrower, and as wide as usual', async () => {
  await at(SITE)
  const press = (words: string) =>
    page
      .findAll('button')
      .find((b) => b.text() === words)!
      .trigger('click')
  await press('wider')
  await press('narrower')
  await press('usual width')
  expect(page.emitted('width')).toEqual([[32], [-32], [undefined]])
})

it('says how a calculated field comes about, and leads to its calculation where it is of this question alone', async () => {
  const twice = { ...SEVERITY, calculation: { words: 'severity * 2' } } as typeof SEVERITY
  await at(twice)
  expect(page.find('.calculated').text()).toBe('= severity * 2')
  await at(twice, { all: [] }, { added: true })
  await button('Change the calculation').trigger('click')
  expect(page.emitted('calculate')).toEqual([[]])
})
