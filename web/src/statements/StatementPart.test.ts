import { afterEach, describe, expect, it, vi } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { computed, ref, type Ref } from 'vue'
import type { Finding, Outline, PartCount } from '@/api/client'
import { DEFECTS, drawn } from '@/testing/page'
import { DESK, type Desk, type Opened } from './desk'
import StatementPart from './StatementPart.vue'

const criterion = (path: string, more: Partial<Outline> = {}) =>
  ({
    kind: 'criterion',
    path,
    fieldWords: 'due',
    verb: 'is before',
    object: 'today',
    tone: 'TIME',
    parts: [],
    ...more,
  }) as unknown as Outline
const group = (kind: string, path: string, parts: Outline[]) => ({ kind, path, parts }) as unknown as Outline
const DUE = { field: 'due', test: 'before', period: 'today' }
const TREE = { all: [DUE, { any: [DUE, DUE] }, { off: DUE }] }

let page: VueWrapper
afterEach(() => page.unmount())

function desk() {
  const done: string[] = []
  const act =
    (name: string) =>
    (...given: unknown[]) =>
      void done.push([name, ...given].join(' '))
  const names = [
    'toggleOff',
    'remove',
    'regroup',
    'joinNext',
    'move',
    'moveIn',
    'moveOut',
    'duplicate',
    'wrap',
  ]
  const acts = Object.fromEntries([...names, 'unwrap', 'drop'].map((n) => [n, act(n)]))
  const made = {
    locked: ref(new Set<string>()),
    register: computed(() => DEFECTS),
    opened: ref<Opened>(),
    asOf: ref(undefined),
    zone: ref('UTC'),
    findings: ref(new Map<string, Finding[]>()),
    parts: ref(new Map<string, PartCount>()),
    matching: ref<number | undefined>(42),
    dragged: ref<string>(),
    open: (what: Opened) => (made.opened.value = what),
    close: () => (made.opened.value = undefined),
    mend: vi.fn(),
    apply: vi.fn(),
    ...acts,
  }
  return { done, desk: made as unknown as Desk, made }
}

async function at(part: Outline, more: Record<string, unknown> = {}) {
  const d = desk()
  ;({ page } = await drawn(StatementPart, { part, lead: 'and', tree: TREE, ...more }, '/', {
    [DESK as symbol]: d.desk,
  }))
  return d
}
const phrase = () => page.get<HTMLButtonElement>('.phrase')
const margin = () => page.find('.margin-note')
const count = (made: { parts: Ref<Map<string, PartCount>> }, path: string, of: Partial<PartCount>) =>
  (made.parts.value = new Map([[path, { path, alone: 0, without: 0, ...of } as PartCount]]))

describe('a phrase of the statement', () => {
  it('says its criterion, and opens and closes in place', async () => {
    const { made } = await at(criterion('/all/0'))
    expect(phrase().text()).toBe('due is before today')
    expect(phrase().attributes('aria-label')).toBe('due is before today: change the criterion')
    await phrase().trigger('click')
    expect(made.opened.value).toEqual({ path: '/all/0' })
    expect(phrase().attributes('aria-expanded')).toBe('true')
    await phrase().trigger('click')
    expect(made.opened.value).toBeUndefined()
  })

  it.each([
    [{ key: 'Delete' }, 'remove /all/1'],
    [{ key: 'Backspace' }, 'remove /all/1'],
    [{ key: 'o' }, 'toggleOff /all/1'],
    [{ key: 'd' }, 'duplicate /all/1'],
    [{ key: 'g' }, 'wrap /all/1 any'],
    [{ key: 'x' }, 'wrap /all/1 none'],
    [{ key: 'j' }, 'unwrap /all/1'],
    [{ key: 'ArrowUp', altKey: true }, 'move /all/1 -1'],
    [{ key: 'ArrowDown', altKey: true }, 'move /all/1 1'],
    [{ key: 'ArrowRight', altKey: true }, 'moveIn /all/1'],
    [{ key: 'ArrowLeft', altKey: true }, 'moveOut /all/1'],
  ])('is changed by a key: %j', async (key, what) => {
    const { done } = await at(criterion('/all/1'))
    await phrase().trigger('keydown', key)
    expect(done).toEqual([what])
  })

  it.each([{ key: 'd', ctrlKey: true }, { key: 'd', altKey: true }, { key: 'ArrowUp' }, { key: 'q' }])(
    'leaves other keys to the page: %j',
    async (key) => {
      const { done } = await at(criterion('/all/1'))
      await phrase().trigger('keydown', key)
      expect(done).toEqual([])
    },
  )

  it('that is locked says so and cannot be changed, nor can what is in a locked group', async () => {
    const { made, done } = await at(criterion('/all/1/any/0'))
    made.locked.value = new Set(['/all/1'])
    await page.vm.$nextTick()
    await phrase().trigger('click')
    await phrase().trigger('keydown', { key: 'Delete' })
    expect(made.opened.value).toBeUndefined()
    expect(done).toEqual([])
    expect(page.text()).toContain('locked')
    expect(page.find('.tools').exists()).toBe(false)
    // A neighbour whose path only begins alike is not locked.
    made.locked.value = new Set(['/all/1/any/01'])
    await page.vm.$nextTick()
    expect(page.find('.tools').exists()).toBe(true)
  })

  it('that is off is drawn by what it would say, and offers to be switched on', async () => {
    const { done } = await at({
      kind: 'off',
      path: '/all/2',
      parts: [criterion('/all/2/off')],
    } as unknown as Outline)
    expect(phrase().attributes('aria-label')).toContain(', off')
    expect(margin().text()).toBe('off')
    await page.findAll('.tool')[0]!.trigger('click')
    expect(done).toEqual(['toggleOff /all/2/off'])
  })

  it('says its window under it, with the zone where hours count', async () => {
    const window = { words: 'before 23 Nov 2026', length: '', rolling: true, zone: 'Europe/London' }
    await at(criterion('/all/0', { window } as unknown as Partial<Outline>))
    expect(page.get('.account').text()).toBe('before 23 Nov 2026 · rolling')
    page.unmount()
    const hours = { words: 'from 23 Nov 2026, 09:00 on', length: '', rolling: false, zone: 'Europe/London' }
    await at(criterion('/all/0', { window: hours } as unknown as Partial<Outline>))
    expect(page.get('.account').text()).toBe('from 23 Nov 2026, 09:00 on · fixed · Europe/London')
  })
})

describe('the margin', () => {
  it('is empty until the count is there', async () => {
    await at(criterion('/all/0'))
    expect(margin().exists()).toBe(false)
  })

  it('says of every part what is left after it, and the rest on pointing', async () => {
    const { made } = await at(criterion('/all/0'))
    count(made, '/all/0', { alone: 1204, without: 24000, left: 1204 })
    await page.vm.$nextTick()
    expect(margin().text()).toBe('1,204 left')
    expect(margin().attributes('title')).toBe(
      '1,204 records by itself; without it 24,000 would be shown: it leaves out 23,958',
    )
    page.unmount()
    const second = await at(criterion('/all/1/any/0'))
    count(second.made, '/all/1/any/0', { alone: 1204, without: 1000, left: 42 })
    await page.vm.$nextTick()
    expect(margin().text()).toBe('42 left')
    expect(margin().attributes('title')).toBe('1,204 records by itself; without it 1,000 would be shown')
  })

  it('says that a part changes nothing', async () => {
    const { made } = await at(criterion('/all/1'))
    count(made, '/all/1', { alone: 24000, without: 42 })
    await page.vm.$nextTick()
    expect(margin().attributes('title')).toContain('it changes nothing here')
  })

  it('claims no exact number where it was only counted so far', async () => {
    const { made } = await at(criterion('/all/1'))
    made.matching.value = undefined
    count(made, '/all/1', {
      alone: 10000,
      aloneMore: true,
      without: 10000,
      withoutMore: true,
      left: 10000,
      leftMore: true,
    })
    await page.vm.$nextTick()
    expect(margin().text()).toBe('10,000+ left')
    expect(margin().attributes('title')).toContain('without it 10,000+ would be shown')
  })
})

describe('a group of the statement', () => {
  const any = group('any', '/all/1', [criterion('/all/1/any/0'), criterion('/all/1/any/1')])

  it('joins its parts by its word, and goes round the three kinds', async () => {
    const { done } = await at(any)
    expect(page.findAll('.lead').map((l) => l.text())).toEqual(['and', '', 'or'])
    expect(phrase().attributes('aria-label')).toBe('any of, a group: make it none of')
    await phrase().trigger('click')
    expect(done).toEqual(['regroup /all/1 none'])
  })

  it('cannot be dissolved where its parts would ask something else without it', async () => {
    await at(group('none', '/all/1', [criterion('/all/1/none/0')]))
    expect(page.findAll('.tool').map((t) => t.text())).not.toContain('ungroup')
    page.unmount()
    await at(any)
    expect(page.findAll('.tool').map((t) => t.text())).toContain('ungroup')
  })

  it('takes one more of its own kind', async () => {
    const { made } = await at(any)
    await page.get('[aria-label="or…: add a criterion to this group, any of"]').trigger('click')
    expect(made.opened.value).toEqual({ path: '/all/1', adds: 'any' })
  })

  it('offers to join with the next all but the last of its parts', async () => {
    await at(any)
    const tools = page.findAll('.parts .criterion').map((c) => c.findAll('.tool').map((t) => t.text()))
    expect(tools.map((t) => t.includes('merge with next'))).toEqual([true, false])
  })
})

describe('a phrase that is dragged', () => {
  it('goes before or after the one it is dropped on, never on itself', async () => {
    const { made, done } = await at(criterion('/all/1'))
    const line = page.get('.line')
    line.element.getBoundingClientRect = () => ({ top: 100, height: 20 }) as DOMRect
    made.dragged.value = '/all/0'
    await line.trigger('dragover', { clientY: 105 })
    expect(line.classes()).toContain('before')
    await line.trigger('dragover', { clientY: 115 })
    expect(line.classes()).toContain('after')
    await line.trigger('drop')
    expect(done).toEqual(['drop /all/1 false'])
    made.dragged.value = '/all/1'
    await line.trigger('dragover', { clientY: 105 })
    expect(line.classes()).not.toContain('before')
  })
})
