import { afterEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { computed, ref } from 'vue'
import type { Outline } from '@/api/client'
import { DEFECTS, drawn } from '@/testing/page'
import { settled, standIn } from '@/testing/server'
import { DESK, type Desk, type Opened } from './desk'
import StatementPanel from './StatementPanel.vue'
import { duplicate, move, moveIn, remove, toggleOff, wrap, type Change, type Node } from './tree'

const server = standIn()
const on = (field: string): Node => ({ field, test: 'is empty' })

/** The outline of a tree, as the server gives it. */
function outline(node: Node, path = ''): Outline {
  const kind = ['all', 'any', 'none'].find((k) => k in node)
  if (kind)
    return {
      kind,
      path,
      node,
      parts: (node[kind] as Node[]).map((p, i) => outline(p, `${path}/${kind}/${i}`)),
    } as unknown as Outline
  if ('off' in node)
    return {
      kind: 'off',
      path,
      node,
      parts: [outline(node.off as Node, path + '/off')],
    } as unknown as Outline
  return {
    kind: 'criterion',
    path,
    node,
    field: node.field,
    fieldWords: String(node.field),
    verb: 'is empty',
    object: '',
    parts: [],
  } as unknown as Outline
}

let page: VueWrapper
afterEach(() => page.unmount())

it('says that the records were not looked at to the end, and looks again', async () => {
  await at('severity')
  expect(page.text()).not.toContain('Not checked')
  await page.setProps({ unchecked: true })
  expect(page.get('.unchecked').text()).toContain('Not checked against the records: that took too long.')
  await page.get('.unchecked button').trigger('click')
  expect(page.emitted('check')).toHaveLength(1)
})

async function at(...fields: string[]) {
  server.on('POST', '/api/registers/defects/values', { values: [], more: false })
  const opened = ref<Opened>()
  let tree: Node = { all: fields.map(on) }
  const desk = {
    locked: ref(new Set()),
    register: computed(() => DEFECTS),
    opened,
    asOf: ref(undefined),
    zone: ref('UTC'),
    findings: ref(new Map()),
    parts: ref(new Map()),
    matching: ref(3),
    dragged: ref(undefined),
    open: (what: Opened) => (opened.value = what),
    close: () => (opened.value = undefined),
  } as unknown as Desk
  ;({ page } = await drawn(
    StatementPanel,
    { register: DEFECTS, outline: outline(tree), statement: 'x', writing: false, settling: false },
    '/',
    { [DESK as symbol]: desk },
  ))
  return {
    opened,
    async change(make: Change) {
      tree = make(tree)!
      // The editor closes before what it wrote is read.
      opened.value = undefined
      await page.setProps({ settling: true })
      await page.setProps({ outline: outline(tree) })
      await page.setProps({ settling: false })
      await settled()
    },
  }
}
const phrase = (field: string) =>
  page.findAll<HTMLElement>('.phrase').find((p) => p.text().startsWith(field))!.element
const focused = () => document.activeElement?.textContent?.trim()

describe('the keys stay at the phrase they were at', () => {
  it.each<[string, Change]>([
    ['switched off', (t) => toggleOff(t, '/all/1')],
    ['moved up', (t) => move(t, '/all/1', -1)],
    ['moved down', (t) => move(t, '/all/1', 1)],
    ['put into its opposite', (t) => wrap(t, '/all/1', 'none')],
    ['doubled', (t) => duplicate(t, '/all/1')],
    ['left where another goes', (t) => remove(t, '/all/0')],
  ])('when it is %s', async (_, make) => {
    const { change } = await at('a', 'b', 'c')
    phrase('b').focus()
    await change(make)
    expect(focused()).toBe('b is empty')
  })

  it('when it goes into a group', async () => {
    const { change } = await at('a', 'b', 'c')
    await change((t) => wrap(t, '/all/2', 'any'))
    phrase('b').focus()
    await change((t) => moveIn(t, '/all/1'))
    expect(focused()).toBe('b is empty')
  })

  it('and when it is taken away go to the one in its place, then to the last, then to what adds one', async () => {
    const { change } = await at('a', 'b', 'c')
    phrase('b').focus()
    await change((t) => remove(t, '/all/1'))
    expect(focused()).toBe('c is empty')
    await change((t) => remove(t, '/all/1'))
    expect(focused()).toBe('a is empty')
    await change((t) => remove(t, '/all/0'))
    expect(focused()).toBe('whose…')
  })
})

describe('from an editor that closes the keys go', () => {
  it('to the phrase it was about, as it says now', async () => {
    const { opened, change } = await at('a', 'b')
    opened.value = { path: '/all/0' }
    await settled()
    page.get<HTMLElement>('.editor button.word').element.focus()
    await change(() => ({ all: [on('z'), on('b')] }))
    expect(focused()).toBe('z is empty')
  })

  it('to the phrase that was added', async () => {
    const { opened, change } = await at('a', 'b')
    opened.value = { path: '', adds: 'all' }
    await settled()
    page.get<HTMLElement>('.editor button.word').element.focus()
    await change((t) => ({ all: [...(t.all as Node[]), on('c')] }))
    expect(focused()).toBe('c is empty')
  })

  it('to the first phrase there is', async () => {
    const { opened, change } = await at()
    opened.value = { path: '', adds: 'all' }
    await settled()
    page.get<HTMLElement>('.editor button.word').element.focus()
    await change(() => ({ all: [on('a')] }))
    expect(focused()).toBe('a is empty')
  })

  it('back to the phrase when it is left as it was', async () => {
    const { opened } = await at('a', 'b')
    opened.value = { path: '/all/0' }
    await settled()
    page.get<HTMLElement>('.editor button.word').element.focus()
    opened.value = undefined
    await settled()
    expect(focused()).toBe('a is empty')
  })
})

it('keys that have gone elsewhere stay there', async () => {
  const { change } = await at('a', 'b')
  const elsewhere = document.body.appendChild(document.createElement('button'))
  phrase('a').focus()
  elsewhere.focus()
  await change((t) => toggleOff(t, '/all/0'))
  expect(document.activeElement).toBe(elsewhere)
  elsewhere.remove()
  // A click on the page itself is going elsewhere too.
  phrase('b').focus()
  document.body.dispatchEvent(new Event('pointerdown', { bubbles: true }))
  phrase('b').blur()
  await change((t) => toggleOff(t, '/all/1'))
  expect(document.activeElement).toBe(document.body)
})
