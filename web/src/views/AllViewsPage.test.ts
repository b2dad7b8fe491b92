import type { VueWrapper } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { View } from '@/api/client'
import { useSession } from '@/people/session'
import { DEFECTS, drawn, viewOf } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import AllViewsPage from './AllViewsPage.vue'
import { useViews } from './store'

const server = standIn()
const asta = { id: '3', name: 'asta', fullName: 'Asta Quill' }
const own = { mine: true, may: 'MANAGE' } as const
const theirs = { mine: false, may: 'LOOK', mayChange: false, owner: asta } as unknown as Partial<View>
let page: VueWrapper
afterEach(() => page.unmount())

const ALL = [
  viewOf('1', { ...own, name: 'Late defects', purpose: 'For the mornings', labels: ['spring'] }),
  viewOf('2', { ...theirs, name: 'Severe', statement: 'severity = 5', columns: DEFECTS.columns }),
  viewOf('3', {
    ...theirs,
    name: 'Dues of a quay',
    statement: 'due in 2026-09',
    columns: DEFECTS.columns,
    shares: [{ team: '4', may: 'LOOK', label: 'Berths' }] as never,
  }),
]

beforeEach(() => {
  server.on('GET', '/api/registers/defects', DEFECTS)
  server.on('GET', '/api/views', (call: Call) => (call.query.get('deleted') ? [] : ALL))
  server.on('GET', '/api/pins', [])
  server.on('GET', '/api/team-lists', [])
  server.on('GET', '/api/people', [])
  server.on('GET', '/api/teams', [])
  server.on('GET', '/api/view-use', [
    {
      view: '1',
      readers: 1,
      lastOpenedAt: '2026-11-20T09:00:00Z',
      mineAt: '2026-11-20T09:00:00Z',
      attention: [],
    },
    { view: '2', readers: 9, lastOpenedAt: '2026-11-22T09:00:00Z', attention: [] },
    { view: '3', readers: 0, attention: [{ code: 'unused', message: 'Nobody has opened it for 90 days.' }] },
  ])
  server.on('GET', '/api/views/*/count', (call: Call) => ({
    matching: Number(call.path.split('/')[3]) * 1000,
    exact: true,
  }))
})

async function opened(path = '/views', all = ALL) {
  server.on('GET', '/api/views', (call: Call) => (call.query.get('deleted') ? [] : all))
  const found = await drawn(AllViewsPage, {}, path)
  page = found.page
  useSession().current = {
    person: { id: '2', fullName: 'Ines Marlow', role: 'MEMBER' },
    zone: 'Europe/London',
    now: '2026-11-23T09:00:00Z',
  } as never
  await useViews().load()
  await settled()
  return found.router
}
const names = () => page.findAll('li .name a').map((a) => a.text())
async function type(words: string) {
  await page.find('input[type=search]').setValue(words)
  await settled()
}
async function choose(label: string, value: string) {
  await page.find(`select[aria-label="${label}"]`).setValue(value)
  await settled()
}

describe('all views', () => {
  it('are there with what they are for, who has them, and how many records they show now', async () => {
    await opened()
    expect(names()).toEqual(['Late defects', 'Severe', 'Dues of a quay'])
    expect(page.findAll('li .count').map((c) => c.text())).toEqual(['1,000', '2,000', '3,000'])
    expect(page.text()).toContain('only for you')
    expect(page.text()).toContain('last opened 22 Nov 2026, by 9 in 30 days')
    expect(page.text()).toContain('Nobody has opened it for 90 days.')
  })

  it('are found by any word of theirs, all of which must be there', async () => {
    await opened()
    for (const [words, found] of [
      ['MORNINGS', ['Late defects']],
      ['spring late', ['Late defects']],
      ['quill', ['Severe', 'Dues of a quay']],
      ['berths', ['Dues of a quay']],
      ['2026-09', ['Dues of a quay']],
      ['spring quill', []],
    ] as [string, string[]][]) {
      await type(words)
      expect(names(), words).toEqual(found)
    }
    expect(page.text()).toContain('No view is like that.')
  })

  it('are found by a field of their statement or of columns that are their own', async () => {
    await opened()
    // Every view of the register has the column unless it chose others.
    await type('severity')
    expect(names()).toEqual(['Late defects', 'Severe'])
    await type('number')
    expect(names()).toEqual(['Late defects'])
  })

  it('are searched in the address, which never takes a letter back', async () => {
    const router = await opened('/views?search=quill')
    expect(page.find<HTMLInputElement>('input[type=search]').element.value).toBe('quill')
    expect(names()).toHaveLength(2)
    const field = page.find<HTMLInputElement>('input[type=search]')
    for (const typed of ['quill d', 'quill du', 'quill due']) await field.setValue(typed)
    expect(field.element.value).toBe('quill due')
    await settled()
    expect(field.element.value).toBe('quill due')
    expect(router.currentRoute.value.query.search).toBe('quill due')
    await page.find('.many button').trigger('click')
    await settled()
    expect(field.element.value).toBe('')
    expect(router.currentRoute.value.query).toEqual({})
    expect(names()).toHaveLength(3)
  })

  it('are narrowed by whose they are, label, team and need, and put in order', async () => {
    await opened()
    await choose('Whose', 'mine')
    expect(names()).toEqual(['Late defects'])
    await choose('Whose', '3')
    expect(names()).toEqual(['Severe', 'Dues of a quay'])
    await choose('Shared with the team', '4')
    expect(names()).toEqual(['Dues of a quay'])
    await page.find('.many button').trigger('click')
    await settled()
    await choose('Only those that', 'attention')
    expect(names()).toEqual(['Dues of a quay'])
    await choose('Only those that', '')
    await choose('Order', 'used')
    expect(names()).toEqual(['Severe', 'Late defects', 'Dues of a quay'])
    await choose('Order', 'unused')
    expect(names()).toEqual(['Dues of a quay', 'Late defects', 'Severe'])
    await page.find('button.label').trigger('click')
    await settled()
    expect(names()).toEqual(['Late defects'])
  })

  it('can be cared for many at once, only those that one manages', async () => {
    server.on('POST', '/api/views/care', { views: [1], renamed: [] })
    await opened()
    const boxes = page.findAll<HTMLInputElement>('li > input[type=checkbox]')
    expect(boxes.map((b) => b.element.disabled)).toEqual([false, true, true])
    await page.find('.choose-all input').setValue(true)
    await page.find('select[aria-label="What to do"]').setValue('label')
    await page.find('input[aria-label="Label"]').setValue('harvest')
    await page.find('form.care').trigger('submit')
    await settled()
    expect(server.to('POST', '/api/views/care')[0]!.body).toEqual({
      views: [{ view: '1', version: 3 }],
      wanted: { addLabels: ['harvest'], delete: false },
    })
    expect(page.text()).toContain('1 view labelled.')
    expect(page.find('form.care').exists()).toBe(false)
  })

  it('stay chosen with the reason when nothing could be done to them', async () => {
    server.on(
      'POST',
      '/api/views/care',
      refusal(409, 'changed-meanwhile', 'Bo Lindqvist changed “Late defects”.'),
    )
    await opened()
    await page.find('.choose-all input').setValue(true)
    await page.find('select[aria-label="What to do"]').setValue('delete')
    await page.find('form.care').trigger('submit')
    await settled()
    // It is asked first, since others may lean on it.
    expect(server.to('POST', '/api/views/care')).toHaveLength(0)
    await page
      .findAll('button')
      .find((b) => b.text() === 'Delete')!
      .trigger('click')
    await settled()
    expect(page.find('form.care').text()).toContain('Bo Lindqvist changed “Late defects”.')
  })

  it('that were deleted can be brought back', async () => {
    server.on('POST', '/api/views/9/restore', viewOf('9', { ...own, name: 'Back again' }))
    const deleted = [viewOf('9', { ...own, name: 'Gone' })]
    await opened()
    page.unmount()
    server.on('GET', '/api/views', (call: Call) => (call.query.get('deleted') ? deleted : ALL))
    page = (await drawn(AllViewsPage, {}, '/views')).page
    await settled()
    expect(page.find('.deleted').text()).toContain('Gone')
    await page.find('.deleted button').trigger('click')
    await settled()
    expect(page.text()).toContain('“Back again” is back.')
    expect(page.find('.deleted').exists()).toBe(false)
  })

  it('are drawn sixty at a time, and only those that are seen are counted', async () => {
    const many = Array.from({ length: 150 }, (_, i) =>
      viewOf(String(i + 1), { ...own, name: `View ${i + 1}` }),
    )
    await opened('/views', many)
    expect(names()).toHaveLength(60)
    const counted = () =>
      new Set(server.calls.filter((c) => c.path.endsWith('/count')).map((c) => c.path)).size
    await settled()
    expect(counted()).toBeLessThanOrEqual(60)
    await page.findAll('button.quiet').at(-1)!.trigger('click')
    await settled()
    expect(names()).toHaveLength(120)
  })

  it('say what to do when there are none', async () => {
    await opened('/views', [])
    expect(page.text()).toContain('There are no views yet.')
  })
})
