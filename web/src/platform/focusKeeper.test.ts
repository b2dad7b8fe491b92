import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { focusHeading, keepFocus } from './focusKeeper'

let end = () => {}
const at = (name: string) => document.querySelector<HTMLButtonElement>(`[data-n="${name}"]`)!
const button = (name: string) => `<button data-n="${name}">${name}</button>`
const waited = () => new Promise((done) => setTimeout(done, 200))
const focused = () => (document.activeElement as HTMLElement).dataset.n
beforeEach(() => {
  document.body.innerHTML = `<main>${['a', 'b', 'c'].map(button).join('')}<p>words</p></main>`
  end = keepFocus(document.querySelector('main')!)
})
afterEach(() => end())

describe('the keys, when what had them goes', () => {
  it('go to what stands in its place then', async () => {
    at('b').focus()
    at('b').remove()
    await waited()
    expect(focused()).toBe('c')
    at('c').focus()
    at('c').outerHTML = button('d')
    await waited()
    expect(focused()).toBe('d')
  })

  it('go to what stands before it where nothing follows, and to the first where nothing is before', async () => {
    at('c').focus()
    at('c').remove()
    await waited()
    expect(focused()).toBe('b')
    at('a').focus()
    at('a').remove()
    await waited()
    expect(focused()).toBe('b')
  })

  it('are left where somebody else puts them meanwhile', async () => {
    at('b').focus()
    at('b').remove()
    setTimeout(() => at('a').focus(), 20)
    await waited()
    expect(focused()).toBe('a')
  })

  it('wait for what is being drawn anew', async () => {
    document.querySelector('p')!.setAttribute('aria-busy', 'true')
    at('b').focus()
    at('b').remove()
    await waited()
    expect(document.activeElement).toBe(document.body)
    document.querySelector('p')!.setAttribute('aria-busy', 'false')
    await waited()
    expect(focused()).toBe('c')
  })

  it('come back to what could not be pressed for a while', async () => {
    at('b').focus()
    at('b').blur()
    at('b').disabled = true
    await waited()
    expect(document.activeElement).toBe(document.body)
    at('b').disabled = false
    await waited()
    expect(focused()).toBe('b')
  })

  it('are not called back by what gave them away', async () => {
    at('b').focus()
    at('b').blur()
    await new Promise((done) => setTimeout(done, 5))
    at('c').remove()
    await waited()
    expect(document.activeElement).toBe(document.body)
  })

  it('are not called back by who clicked beside everything', async () => {
    at('b').focus()
    document.querySelector('p')!.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true }))
    at('b').blur()
    at('b').remove()
    await waited()
    expect(document.activeElement).toBe(document.body)
  })
})

describe('the page that was gone to', () => {
  it('has the keys at its heading once it is there', async () => {
    document.body.innerHTML = '<div id="page"><h1>Old</h1></div>'
    const going = focusHeading()
    document.body.innerHTML = '<div id="page"></div>'
    setTimeout(() => (document.querySelector('#page')!.innerHTML = '<h1>New</h1>'), 120)
    await going
    expect(document.activeElement?.textContent).toBe('New')
  })

  it('does not take them from where they are', async () => {
    document.body.innerHTML = `${button('list')}<div id="page"><h1>New</h1></div>`
    at('list').focus()
    await focusHeading()
    expect(focused()).toBe('list')
  })
})
