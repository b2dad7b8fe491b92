import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { mount, type VueWrapper } from '@vue/test-utils'
import { defineComponent, h, nextTick, ref } from 'vue'
import type { Row } from '@/api/client'
import type { Line } from './lines'
import { useGrid } from './useGrid'

const FIELDS = ['number', 'site', 'due']
const record = (key: string, depth = 0): Line => ({ key, depth, kind: 'record', row: { id: key } as Row })
const group = (key: string, depth: number, open: boolean, toggle = () => {}): Line => ({
  key,
  depth,
  kind: 'group',
  words: key,
  open,
  toggle,
  records: 2,
  figures: [],
})

const lines = ref<Line[]>([])
const arrived = vi.fn()
let page: VueWrapper
let grid: ReturnType<typeof useGrid>

/** A table of which everything is drawn. */
const Table = defineComponent(() => {
  const root = ref<HTMLElement>()
  grid = useGrid(
    root,
    () => lines.value,
    () => FIELDS.length,
    () => {},
    arrived,
  )
  const keys = (event: KeyboardEvent) => grid.move(event)
  const stop = (name: string) =>
    h('button', { 'data-stop': name, tabindex: grid.headStop.value === name ? 0 : -1 }, name)
  return () =>
    h('div', { ref: root, onFocusin: grid.came }, [
      h('table', [
        h('thead', { onKeydown: keys }, [
          h(
            'tr',
            FIELDS.map((f) => h('th', { 'data-column': '' }, [stop(`order:${f}`), stop(`narrow:${f}`)])),
          ),
        ]),
        h(
          'tbody',
          { onKeydown: keys },
          lines.value.map((line, i) =>
            line.kind === 'record'
              ? h(
                  'tr',
                  { 'data-index': i, key: line.key },
                  FIELDS.map((f, c) =>
                    h('td', {
                      'data-field': f,
                      tabindex: i === grid.stopLine.value && c === grid.column.value ? 0 : undefined,
                    }),
                  ),
                )
              : h('tr', {
                  'data-index': i,
                  key: line.key,
                  tabindex: i === grid.stopLine.value ? 0 : -1,
                }),
          ),
        ),
      ]),
    ])
})

beforeEach(() => {
  lines.value = [record('a'), record('b'), record('c')]
  arrived.mockClear()
  page = mount(Table, { attachTo: document.body })
})
afterEach(() => page.unmount())

const settled = async () => {
  for (let i = 0; i < 4; i++) await nextTick()
}
async function press(key: string, more: KeyboardEventInit = {}) {
  document.activeElement!.dispatchEvent(
    new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more }),
  )
  await settled()
  return where()
}
/** Where the keys are, in words. */
function where(): string {
  const at = document.activeElement as HTMLElement
  const row = at.closest('tr')?.dataset.index
  return at.dataset.stop ?? (row === undefined ? at.tagName : `${row} ${at.dataset.field ?? 'line'}`)
}
const stops = () => page.findAll('[tabindex="0"]').length

describe('the keys in the table', () => {
  it('go from cell to cell, and to no place that is not there', async () => {
    await grid.focus()
    expect(where()).toBe('0 number')
    expect(await press('ArrowRight')).toBe('0 site')
    expect(await press('ArrowDown')).toBe('1 site')
    expect(await press('End')).toBe('1 due')
    expect(await press('ArrowRight')).toBe('1 due')
    expect(await press('Home')).toBe('1 number')
    expect(await press('ArrowLeft')).toBe('1 number')
    expect(await press('PageDown')).toBe('2 number')
    expect(await press('ArrowDown')).toBe('2 number')
    expect(await press('Home', { ctrlKey: true })).toBe('0 number')
    expect(await press('End', { ctrlKey: true })).toBe('2 number')
    expect(arrived).toHaveBeenLastCalledWith(2)
    expect(stops()).toBe(1)
  })

  it('go up into the heads, along them, and back down into the column', async () => {
    await grid.focus()
    await press('ArrowRight')
    expect(await press('ArrowUp')).toBe('order:site')
    expect(stops()).toBe(1)
    expect(await press('ArrowRight')).toBe('narrow:site')
    expect(await press('ArrowRight')).toBe('order:due')
    expect(await press('Home')).toBe('order:number')
    expect(await press('End')).toBe('narrow:due')
    expect(await press('ArrowRight')).toBe('narrow:due')
    expect(await press('ArrowDown')).toBe('0 due')
  })

  it('open and close groups, and go from a record to the group that it lies in', async () => {
    const toggle = vi.fn()
    lines.value = [
      group('North', 0, true, toggle),
      record('a', 1),
      record('b', 1),
      group('South', 0, false, toggle),
    ]
    await settled()
    await grid.focus()
    expect(where()).toBe('0 line')
    expect(await press('ArrowRight')).toBe('1 number')
    await press('ArrowRight')
    await press('ArrowDown')
    expect(await press('ArrowLeft')).toBe('2 number')
    expect(await press('ArrowLeft')).toBe('0 line')
    expect(toggle).not.toHaveBeenCalled()
    await press('ArrowLeft')
    expect(toggle).toHaveBeenCalledTimes(1)
    await press('End')
    expect(where()).toBe('3 line')
    await press('ArrowRight')
    expect(toggle).toHaveBeenCalledTimes(2)
  })

  it('have one stop for Tab, in the heads where there are no records', async () => {
    expect(stops()).toBe(1)
    await grid.focus()
    await press('ArrowDown')
    expect(stops()).toBe(1)
    lines.value = []
    await settled()
    expect(stops()).toBe(1)
    expect(page.get('[tabindex="0"]').attributes('data-stop')).toBe('order:number')
    lines.value = [record('x')]
    await settled()
    expect(stops()).toBe(1)
  })

  it('begin anew when other records come, and stay where more come below', async () => {
    await grid.focus()
    await press('ArrowDown')
    lines.value = [...lines.value, record('d')]
    await settled()
    expect(grid.line.value).toBe(1)
    lines.value = [record('x'), record('y')]
    await settled()
    expect(grid.line.value).toBe(0)
    expect(grid.hasBegun()).toBe(false)
  })

  it('leave alone what is no way to move', async () => {
    await grid.focus()
    const event = new KeyboardEvent('keydown', { key: 'x', bubbles: true, cancelable: true })
    document.activeElement!.dispatchEvent(event)
    expect(event.defaultPrevented).toBe(false)
    expect(await press('ArrowDown', { altKey: true })).toBe('0 number')
  })
})
