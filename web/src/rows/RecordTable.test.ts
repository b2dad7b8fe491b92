import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { DOMWrapper, VueWrapper } from '@vue/test-utils'
import { computed, type Ref } from 'vue'
import type { Row } from '@/api/client'
import type { Change, Node } from '@/statements/tree'
import { DEFECTS, drawn } from '@/testing/page'
import { settled, standIn } from '@/testing/server'
import type { Line } from './lines'
import RecordTable from './RecordTable.vue'
import { useChosen } from './useChosen'

/** How many lines are in sight. */
const IN_SIGHT = 30
// Nothing has a height here; the first lines are drawn, as on a page that was not scrolled.
vi.mock(import('@tanstack/vue-virtual'), async (actual) => ({
  ...(await actual()),
  useVirtualizer: ((options: Ref<{ count: number }>) =>
    computed(() => ({
      getVirtualItems: () =>
        Array.from({ length: Math.min(options.value.count, IN_SIGHT) }, (_, index) => ({
          index,
          key: index,
          start: index * 31,
          end: index * 31 + 31,
        })),
      getTotalSize: () => options.value.count * 31,
      measure: () => {},
      measureElement: () => {},
      scrollToIndex: () => {},
    }))) as never,
}))

standIn()
const REGISTER = {
  ...DEFECTS,
  titleField: 'number',
  fields: DEFECTS.fields.map((f) => ({ ...f, orderable: f.type !== 'span' })),
} as typeof DEFECTS
const row = (n: number, more: Partial<Row> = {}): Row =>
  ({
    id: String(n),
    values: { number: `D-${n}`, severity: n % 5, due: n % 2 ? `2026-11-0${n % 9}` : null },
    ...more,
  }) as Row
const record = (n: number, depth = 0, more: Partial<Row> = {}): Line => ({
  key: String(n),
  depth,
  kind: 'record',
  row: row(n, more),
})
const LINES = [record(1), record(2), record(3)]

let page: VueWrapper
let chosen: ReturnType<typeof useChosen>
beforeEach(() => {
  chosen = useChosen(
    () => '',
    () => 3,
  )
})
afterEach(() => page.unmount())

async function at(more: Record<string, unknown> = {}) {
  ;({ page } = await drawn(RecordTable, {
    register: REGISTER,
    columns: ['number', 'severity', 'due'],
    order: ['due'],
    lines: LINES,
    shape: {},
    total: 3,
    done: true,
    tested: [],
    zone: 'UTC',
    tree: { all: [] },
    question: { register: 'defects', statement: '', answers: {} },
    waiting: false,
    chosen,
    choosing: false,
    ...more,
  }))
  await settled()
}
const rows = () => page.findAll('tbody tr:not(.spacer)')
const texts = () => rows().map((r) => r.findAll('td').map((d) => d.text()))
const head = (label: string) => page.findAll('th').find((h) => h.text().startsWith(label))!
const cellAt = (line: number, column: number): DOMWrapper<Element> =>
  rows()[line]!.findAll('td[data-field]')[column]!
const key = (on: DOMWrapper<Element>, name: string, more: Record<string, unknown> = {}) =>
  on.trigger('keydown', { key: name, ...more })
/** The last change of the statement, made on one. */
const narrowed = (tree: Node = { all: [] }) => (page.emitted('narrow')!.at(-1)![0] as Change)(tree)

describe('the records', () => {
  it('stand in lines under the heads of their columns, as people read their values', async () => {
    await at()
    expect(texts()).toEqual([
      ['D-1', '1', '1 Nov 2026'],
      ['D-2', '2', '—'],
      ['D-3', '3', '3 Nov 2026'],
    ])
    expect(page.get('table').attributes()).toMatchObject({
      role: 'grid',
      'aria-rowcount': '4',
      'aria-colcount': '3',
    })
    expect(rows()[0]!.get('[role=rowheader]').text()).toBe('D-1')
    expect(head('Due').attributes('aria-sort')).toBe('ascending')
    expect(head('Severity').classes()).toContain('numeric')
  })

  it('are drawn as far as they are in sight, and more are asked for near the end', async () => {
    const many = Array.from({ length: 100 }, (_, i) => record(i + 1))
    await at({ lines: many, done: false, total: 5000 })
    expect(rows()).toHaveLength(IN_SIGHT)
    expect(page.get('table').attributes('aria-rowcount')).toBe('5001')
    expect(page.emitted('more')).toBeUndefined()
    await page.setProps({ lines: many.slice(0, 25) })
    await settled()
    expect(page.emitted('more')).toHaveLength(1)
    await page.setProps({ lines: many.slice(0, 20), done: true })
    expect(page.emitted('more')).toHaveLength(1)
  })

  it('are opened by a click and by Enter, and the next is opened as the keys go on', async () => {
    await at()
    await cellAt(1, 0).trigger('click')
    expect(page.emitted('select')).toEqual([['2']])
    await page.setProps({ selected: '2' })
    expect(rows()[1]!.attributes('aria-selected')).toBe('true')
    await key(cellAt(1, 0), 'ArrowDown')
    expect(page.emitted('select')!.at(-1)).toEqual(['3'])
    await page.setProps({ selected: undefined })
    await key(cellAt(2, 0), 'ArrowUp')
    expect(page.emitted('select')).toHaveLength(2)
    await key(cellAt(1, 0), 'Enter')
    expect(page.emitted('select')!.at(-1)).toEqual(['2'])
  })

  it('have one stop for Tab, which is where the keys were last', async () => {
    await at()
    const stops = () => page.findAll('tbody [tabindex="0"]').map((e) => e.text())
    expect(stops()).toEqual(['D-1'])
    await key(cellAt(0, 0), 'ArrowRight')
    await key(cellAt(0, 1), 'ArrowDown')
    expect(stops()).toEqual(['2'])
  })

  it('take no keys and no clicks while those of another question are on their way', async () => {
    await at({ waiting: true })
    expect(page.get('.table').attributes('aria-busy')).toBe('true')
    expect(page.get('tbody').attributes('inert')).toBeDefined()
  })
})

describe('the order', () => {
  it('is turned by a click on a head: up, down, none', async () => {
    await at()
    await head('Severity').get('button').trigger('click')
    expect(page.emitted('order')!.at(-1)).toEqual([['severity']])
    await page.setProps({ order: ['severity'] })
    await head('Severity').get('button').trigger('click')
    expect(page.emitted('order')!.at(-1)).toEqual([['-severity']])
    await page.setProps({ order: ['-severity'] })
    expect(head('Severity').attributes('aria-sort')).toBe('descending')
    await head('Severity').get('button').trigger('click')
    expect(page.emitted('order')!.at(-1)).toEqual([[]])
  })

  it('is joined with Shift, and says which comes first', async () => {
    await at()
    await head('Severity').get('button').trigger('click', { shiftKey: true })
    expect(page.emitted('order')!.at(-1)).toEqual([['due', 'severity']])
    await page.setProps({ order: ['due', 'severity'] })
    expect(head('Due').text()).toBe('Due↑1')
    expect(head('Severity').text()).toBe('Severity↑2')
  })
})

describe('narrowing by a cell', () => {
  it('offers its value by the key m, and by a right click', async () => {
    await at()
    await key(cellAt(1, 0), 'm')
    await settled()
    const offers = () =>
      [...document.querySelectorAll<HTMLElement>('[role=menuitem]')].map((o) => o.textContent!.trim())
    expect(offers().length).toBeGreaterThan(1)
    document.querySelector<HTMLElement>('[role=menuitem]')!.click()
    await settled()
    expect(narrowed()).toEqual({ all: [{ field: 'number', test: 'is', value: 'D-1' }] })
    await cellAt(2, 1).trigger('contextmenu', { clientX: 5, clientY: 5 })
    await settled()
    document.querySelector<HTMLElement>('[role=menuitem]')!.click()
    await settled()
    expect(narrowed({ all: [{ field: 'due', test: 'is empty' }] })).toEqual({
      all: [
        { field: 'due', test: 'is empty' },
        { field: 'severity', test: '=', value: 3 },
      ],
    })
  })
})

describe('records that are marked, in groups and with figures', () => {
  it('say which of them match, and go from one that does to the next', async () => {
    const marked = [
      record(1, 0, { matches: true }),
      record(2, 0, { matches: false }),
      record(3, 0, { matches: true }),
    ]
    await at({ lines: marked, shape: { marked: true } })
    expect(rows().map((r) => r.find('.mark').text())).toEqual(['✓matches', '', '✓matches'])
    expect(rows()[1]!.classes()).toContain('outside')
    const table = page.vm as unknown as { toMatch: (by: 1 | -1) => boolean }
    expect(table.toMatch(1)).toBe(true)
    expect(table.toMatch(1)).toBe(true)
    expect(table.toMatch(1)).toBe(false)
    await key(cellAt(0, 0), 'ArrowDown', { shiftKey: true })
    expect(page.emitted('match')).toEqual([[1]])
  })

  it('open and close their group, and read more of it', async () => {
    let toggled = 0
    let loaded = 0
    const lines: Line[] = [
      {
        key: 'g',
        depth: 0,
        kind: 'group',
        words: 'North Quay',
        open: true,
        toggle: () => toggled++,
        records: 2,
        figures: [12],
      },
      record(1, 1),
      { key: 'm', depth: 1, kind: 'more', words: '20 more', load: () => loaded++ },
    ]
    await at({
      lines,
      shape: { groups: [{ field: 'site' }], measures: [{ function: 'sum', field: 'severity' }] },
      whole: { key: 'w', depth: 0, kind: 'whole', words: 'all', records: 9, figures: [40] },
    })
    expect(page.get('table').attributes('role')).toBe('treegrid')
    expect(rows().map((r) => r.attributes('aria-level'))).toEqual(['1', '2', '2'])
    expect(rows()[0]!.attributes('aria-expanded')).toBe('true')
    expect(page.get('tfoot').text()).toContain('40')
    await rows()[0]!.trigger('click')
    await page.get('.more button').trigger('click')
    expect([toggled, loaded]).toEqual([1, 1])
  })

  it('have a figure more, or one less, as it is chosen at a head', async () => {
    await at({ shape: { measures: [{ function: 'sum', field: 'severity' }] } })
    await page.get('[data-head=severity]').trigger('click')
    await settled()
    const press = async (words: string) => {
      const found = [...document.querySelectorAll('button')].find((b) => b.textContent!.trim() === words)!
      found.click()
      await settled()
      return page.emitted('shape')!.at(-1)![0]
    }
    expect(await press('average')).toEqual({
      measures: [
        { function: 'sum', field: 'severity' },
        { function: 'average', field: 'severity' },
      ],
    })
    expect(await press('sum')).toEqual({ measures: [] })
  })
})

describe('records are chosen', () => {
  const which = () => LINES.filter((_, i) => chosen.has(String(i + 1))).map((l) => l.key)

  it('by boxes, where each has one, and from one to another with Shift', async () => {
    await at({ choosing: true, lines: [...LINES, record(4)] })
    const boxes = page.findAll('tbody input[type=checkbox]')
    expect(boxes.map((b) => b.attributes('aria-label'))).toEqual(
      ['D-1', 'D-2', 'D-3', 'D-4'].map((d) => `Choose ${d}`),
    )
    await boxes[0]!.trigger('click')
    await boxes[2]!.trigger('click', { shiftKey: true })
    expect(which()).toEqual(['1', '2', '3'])
    expect(page.emitted('select')).toBeUndefined()
    expect(page.get('table').attributes('aria-colcount')).toBe('4')
  })

  it('by the mouse with Ctrl and Shift, without opening one', async () => {
    await at()
    await cellAt(1, 0).trigger('click', { ctrlKey: true })
    expect(which()).toEqual(['2'])
    expect(rows()[1]!.classes()).toContain('chosen')
    await cellAt(2, 1).trigger('click', { shiftKey: true })
    expect(which()).toEqual(['2', '3'])
    await cellAt(1, 0).trigger('click', { ctrlKey: true })
    expect(which()).toEqual(['3'])
    expect(page.emitted('select')).toBeUndefined()
  })

  it('by the keys: Shift with Space and the arrows, Ctrl with A, and Escape lets go', async () => {
    await at()
    await key(cellAt(0, 0), ' ', { shiftKey: true })
    await key(cellAt(0, 0), 'ArrowDown', { shiftKey: true })
    expect(which()).toEqual(['1', '2'])
    await key(cellAt(1, 0), 'a', { ctrlKey: true })
    expect(chosen.meant.value).toEqual({ all: true, ids: [] })
    await key(cellAt(1, 0), ' ', { shiftKey: true })
    expect(which()).toEqual(['1', '3'])
    await key(cellAt(1, 0), 'Escape')
    expect(which()).toEqual([])
    expect(page.emitted('select')).toBeUndefined()
  })
})
