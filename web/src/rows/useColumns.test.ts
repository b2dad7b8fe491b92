import { afterEach, describe, expect, it } from 'vitest'
import { nextTick, reactive } from 'vue'
import type { Register } from '@/api/client'
import { DEFECTS, field, using } from '@/testing/page'
import type { Shape } from './shape'
import { MARK, RUNNING, useColumns } from './useColumns'

const REGISTER = {
  ...DEFECTS,
  titleField: 'title',
  running: 'cost',
  fields: [
    field('number', 'text', { identifying: true }),
    field('title'),
    field('severity', 'number'),
    field('cost', 'money'),
    field('due', 'date'),
  ],
} as unknown as Register

let leave: () => void = () => {}
afterEach(() => leave())

async function table(
  columns: string[],
  shape: Shape = {},
  order: string[] = [],
  longest?: (key: string) => number,
) {
  const props = reactive({ register: REGISTER, columns, order, shape })
  const used = await using('/', () => useColumns(props as never, (to) => (props.shape = to), longest))
  leave = used.leave
  const of = (key: string) => REGISTER.fields.find((f) => f.key === key)!
  return { c: used.made, props, of, keys: () => used.made.fields.value.map((f) => f.key) }
}
/** The head cell of a column that is so wide, and a pointer on its edge. */
function edge(width: number) {
  const head = document.createElement('th')
  head.getBoundingClientRect = () => ({ width }) as DOMRect
  const handle = document.createElement('span')
  handle.setPointerCapture = () => {}
  head.append(handle)
  return (clientX: number) => ({ target: handle, clientX, pointerId: 1 }) as unknown as PointerEvent
}
const key = (name: string) => {
  const event = new KeyboardEvent('keydown', { key: name, altKey: true, cancelable: true })
  const head = document.createElement('th')
  head.getBoundingClientRect = () => ({ width: 300 }) as DOMRect
  Object.defineProperty(event, 'target', { value: head })
  return event
}

describe('columns', () => {
  it('stand as they were chosen, the pinned ones first; what the register has no more is left out', async () => {
    const { keys, c } = await table(['number', 'gone', 'due', 'title'], {
      columns: { due: { pinned: true } },
    })
    expect(keys()).toEqual(['due', 'number', 'title'])
    expect(c.held.value).toBe(1)
  })

  it('are as wide as their numbers need', async () => {
    const { c, of } = await table(['number', 'severity', 'cost'], {}, [], (key) => (key === 'cost' ? 18 : 30))
    expect(c.width(of('cost'))).toBeGreaterThanOrEqual(18 * 7.8)
    expect(c.width(of('severity'))).toBeGreaterThanOrEqual(30 * 7.8)
    expect(c.width(of('number'))).toBe(84)
  })

  it('stay in sight where they name a record and come first', async () => {
    expect((await table(['number', 'due'])).c.held.value).toBe(1)
    leave()
    expect((await table(['title', 'due'])).c.held.value).toBe(1)
    leave()
    expect((await table(['due', 'title'])).c.held.value).toBe(0)
  })

  it('that stay in sight stand beside each other, behind the mark', async () => {
    const { c } = await table(['number', 'due'], {
      marked: true,
      columns: { number: { pinned: true }, due: { pinned: true, width: 120 } },
    })
    expect([c.left(0), c.left(1)]).toEqual([`${MARK}px`, `${MARK + 84}px`])
    expect(c.wholeWidth.value).toBe(MARK + 84 + 120)
    expect(c.cells.value).toBe(3)
  })

  it('leave what is left to the title, but never too little', async () => {
    const { c, of } = await table(['number', 'title'])
    expect(c.width(of('title'))).toBeUndefined()
    expect(c.wholeWidth.value).toBe(84 + 180)
  })

  it('have room for a long head, and for the mark of the order', async () => {
    const { c, of, props } = await table(['severity'])
    const before = c.width(of('severity'))!
    props.order = ['-severity']
    expect(c.width(of('severity'))).toBe(before + 22)
    props.shape = { columns: { severity: { title: 'A much longer head' } } }
    expect(c.width(of('severity'))).toBeGreaterThan(before + 22)
    expect(c.head(of('severity'))).toBe('A much longer head')
  })

  it('have the running total behind what it adds up, or last', async () => {
    const { c } = await table(['cost', 'due'], { running: 'beginning' })
    expect(c.running.value?.after).toBe(0)
    expect(c.wholeWidth.value).toBe(92 + 92 + RUNNING)
    leave()
    expect((await table(['number', 'due'], { running: 'beginning' })).c.running.value?.after).toBe(1)
  })
})

describe('the width of a column', () => {
  it('follows the pointer, and is kept once it is let go', async () => {
    const { c, of, props } = await table(['due', 'number'], { density: 'close' })
    const pointer = edge(92)
    c.pull(pointer(500), of('due'))
    c.pulling(pointer(560))
    expect(c.width(of('due'))).toBe(152)
    expect(props.shape.columns).toBeUndefined()
    c.letGo()
    expect(props.shape).toEqual({ density: 'close', columns: { due: { width: 152 } } })
    await nextTick()
    c.pulling(pointer(700))
    expect(c.width(of('due'))).toBe(152)
  })

  it('has a least and a most', async () => {
    const { c, of } = await table(['due'])
    const pointer = edge(92)
    c.pull(pointer(500), of('due'))
    c.pulling(pointer(-900))
    expect(c.width(of('due'))).toBe(40)
    c.pulling(pointer(9000))
    expect(c.width(of('due'))).toBe(1200)
  })

  it('is changed by keys, from what is drawn where none was chosen', async () => {
    const { c, of, props } = await table(['title', 'due'])
    const wider = key('ArrowRight')
    c.resizeByKey(wider, of('title'))
    expect(wider.defaultPrevented).toBe(true)
    expect(props.shape.columns).toEqual({ title: { width: 316 } })
    c.resizeByKey(key('ArrowLeft'), of('due'))
    expect(props.shape.columns).toEqual({ title: { width: 316 }, due: { width: 76 } })
    const other = key('ArrowDown')
    c.resizeByKey(other, of('due'))
    expect(other.defaultPrevented).toBe(false)
  })

  it('is the usual one again without a choice', async () => {
    const { c, of, props } = await table(['due'], { columns: { due: { width: 300, title: 'By' } } })
    c.setWidth('due')
    expect(props.shape.columns).toEqual({ due: { title: 'By' } })
    expect(c.width(of('due'))).toBe(92)
  })
})
