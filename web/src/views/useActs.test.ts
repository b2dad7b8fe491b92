import { afterEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { Session } from '@/api/client'
import { useSession } from '@/people/session'
import { allActions, type Action } from '@/platform/actions'
import { using } from '@/testing/page'
import { useActs } from './useActs'

let leave = () => {}
afterEach(() => {
  leave()
  document.body.innerHTML = ''
})

async function page(acts: () => Action[]) {
  const back = vi.fn()
  const forward = vi.fn()
  const escape = vi.fn()
  const used = await using('/', () => useActs(acts, { back, forward }, escape))
  leave = used.leave
  return { back, forward, escape }
}
function press(key: string, more: KeyboardEventInit = {}, on: Element = document.body) {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more })
  on.dispatchEvent(event)
  return event
}
function add(html: string): Element {
  document.body.insertAdjacentHTML('beforeend', html)
  return document.body.lastElementChild!
}

describe('what can be done on a page', () => {
  it('is done by its key, and offered in the palette as long as the page is there', async () => {
    const run = vi.fn()
    await page(() => [{ words: 'Add a criterion', what: 'statement', key: 'a', run }])
    expect(press('a').defaultPrevented).toBe(true)
    expect(press('b').defaultPrevented).toBe(false)
    expect(run).toHaveBeenCalledTimes(1)
    expect(allActions().map((a) => a.words)).toEqual(['Add a criterion'])
    leave()
    press('a')
    expect(run).toHaveBeenCalledTimes(1)
    expect(allActions()).toEqual([])
  })

  it('is not done by its letter for whoever has switched those off; Escape goes on', async () => {
    const run = vi.fn()
    const { escape } = await page(() => [{ words: 'Save', what: 'keep', key: 'k', run }])
    useSession().current = { letterKeys: false } as Session
    expect(press('k').defaultPrevented).toBe(false)
    expect(run).not.toHaveBeenCalled()
    press('Escape')
    expect(escape).toHaveBeenCalled()
    useSession().current = { letterKeys: true } as Session
    press('k')
    expect(run).toHaveBeenCalledTimes(1)
  })

  it('is what can be done now', async () => {
    const mayKeep = ref(false)
    const run = vi.fn()
    await page(() => (mayKeep.value ? [{ words: 'Save', what: 'keep', key: 'k', run }] : []))
    press('k')
    mayKeep.value = true
    press('k')
    expect(run).toHaveBeenCalledTimes(1)
  })

  it('is left alone while somebody types, in a dialog, and with other keys held', async () => {
    const run = vi.fn()
    const { back } = await page(() => [{ words: 'Add', what: 'statement', key: 'a', run }])
    const field = add('<input />')
    press('a', {}, field)
    press('z', { ctrlKey: true }, field)
    press('a', {}, add('<textarea></textarea>'))
    press('a', {}, add('<div class="el-dialog"><button></button></div>').firstElementChild!)
    press('a', { ctrlKey: true })
    press('a', { altKey: true })
    press('a', { metaKey: true })
    expect(run).not.toHaveBeenCalled()
    expect(back).not.toHaveBeenCalled()
  })

  it('can be undone and done again by the usual keys', async () => {
    const { back, forward, escape } = await page(() => [])
    press('z', { ctrlKey: true })
    press('z', { metaKey: true })
    expect(back).toHaveBeenCalledTimes(2)
    press('Z', { ctrlKey: true, shiftKey: true })
    press('y', { ctrlKey: true })
    expect(forward).toHaveBeenCalledTimes(2)
    press('Escape')
    expect(escape).toHaveBeenCalledTimes(1)
  })
})
