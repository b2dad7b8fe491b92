import { mount } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import { defineComponent, nextTick, ref, withDirectives, h } from 'vue'
import { vRoving } from './roving'

const gone: string[] = []
const chosen = ref('b')
const names = ref(['a', 'b', 'c'])
const Group = defineComponent(
  () => () =>
    withDirectives(
      h(
        'div',
        names.value.map((n) => h('button', { 'data-n': n, 'aria-checked': String(n === chosen.value) }, n)),
      ),
      [[vRoving, (item: HTMLElement) => gone.push(item.dataset.n!)]],
    ),
)

const page = mount(Group, { attachTo: document.body })
afterEach(() => (gone.length = 0))
const stops = () =>
  page
    .findAll('button')
    .filter((b) => b.attributes('tabindex') === '0')
    .map((b) => b.text())
const press = (key: string) =>
  (document.activeElement as HTMLElement).dispatchEvent(
    new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }),
  )

describe('a group with one Tab stop', () => {
  it('is come to at what is chosen', () => expect(stops()).toEqual(['b']))

  it('is gone along by arrows, round and round, and the stop goes along', () => {
    page.find<HTMLElement>('[data-n=b]').element.focus()
    press('ArrowDown')
    press('ArrowRight')
    expect(gone).toEqual(['c', 'a'])
    expect(document.activeElement?.textContent).toBe('a')
    expect(stops()).toEqual(['a'])
    press('End')
    expect(document.activeElement?.textContent).toBe('c')
  })

  it('has a stop when the one that had it is gone', async () => {
    ;(document.activeElement as HTMLElement).blur()
    names.value = ['x', 'y']
    await nextTick()
    expect(stops()).toEqual(['x'])
  })
})

it('holds for boxes to tick: what follows a long list is one Tab away', async () => {
  const list = mount(
    defineComponent(
      () => () =>
        withDirectives(
          h(
            'div',
            [1, 2, 3].map((n) => h('input', { type: 'checkbox', id: `box${n}` })),
          ),
          [[vRoving]],
        ),
    ),
    { attachTo: document.body },
  )
  const boxes = list.findAll('input').map((b) => b.element)
  expect(boxes.map((b) => b.tabIndex)).toEqual([0, -1, -1])
  boxes[0]!.focus()
  press('ArrowDown')
  expect(document.activeElement).toBe(boxes[1])
  expect(boxes.map((b) => b.tabIndex)).toEqual([-1, 0, -1])
  list.unmount()
})
