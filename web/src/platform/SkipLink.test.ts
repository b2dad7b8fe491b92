import { afterEach, expect, it, vi } from 'vitest'
import { mount } from '@vue/test-utils'
import SkipLink from './SkipLink.vue'

afterEach(() => {
  vi.useRealTimers()
  document.body.innerHTML = ''
})

function drawn(inert: boolean) {
  const place = document.createElement('div')
  place.id = 'place'
  place.innerHTML = `<div${inert ? ' inert' : ''}><span tabindex="-1">a</span><span tabindex="0">b</span></div>`
  document.body.append(place)
  const link = mount(SkipLink, { props: { to: 'place' }, attachTo: document.body }).find('button')
  ;(link.element as HTMLElement).focus()
  return { link, cell: place.querySelector<HTMLElement>('[tabindex="0"]')!, table: place.firstElementChild! }
}

it('leads to the first thing that can have the keys', async () => {
  const { link, cell } = drawn(false)
  await link.trigger('click')
  expect(document.activeElement).toBe(cell)
})

it('waits for what cannot have them yet, unless they go elsewhere', async () => {
  vi.useFakeTimers()
  const { link, cell, table } = drawn(true)
  await link.trigger('click')
  await vi.advanceTimersByTimeAsync(1_000)
  expect(document.activeElement).toBe(link.element)
  table.removeAttribute('inert')
  await vi.advanceTimersByTimeAsync(100)
  expect(document.activeElement).toBe(cell)

  ;(link.element as HTMLElement).focus()
  table.setAttribute('inert', '')
  await link.trigger('click')
  await vi.advanceTimersByTimeAsync(100)
  ;(link.element as HTMLElement).blur()
  table.removeAttribute('inert')
  await vi.advanceTimersByTimeAsync(1_000)
  expect(document.activeElement).toBe(document.body)
})
