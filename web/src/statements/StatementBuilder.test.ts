import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { DEFECTS, drawn } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import StatementBuilder from './StatementBuilder.vue'
import type { Node } from './tree'

const server = standIn()
const STATEMENT = '/api/registers/defects/statement'
let page: VueWrapper

/** An outline of criteria, as the server gives it. */
function outlineOf(tree: Node, path = ''): object {
  const parts = (tree.all ?? tree.any) as Node[] | undefined
  if (parts) {
    const kind = tree.all ? 'all' : 'any'
    return { kind, path, parts: parts.map((p, i) => outlineOf(p, `${path}/${kind}/${i}`)) }
  }
  return {
    kind: 'criterion',
    path,
    parts: [],
    field: String(tree.field),
    subject: String(tree.field),
    verb: 'is',
    value: String(tree.value),
    tone: 'PLAIN',
    negated: false,
    node: tree,
  }
}

beforeEach(() => {
  // The words of a statement are its tree as JSON here.
  server.on('POST', STATEMENT, (call: Call) => {
    const { statement, condition } = call.body as { statement?: string; condition?: Node }
    if (statement === 'unreadable') return refusal(422, 'unreadable', '“unreadable” is no field of Defects.')
    const tree = condition ?? (statement ? (JSON.parse(statement) as Node) : { all: [] })
    const outline = { ...outlineOf(tree), node: tree }
    return { statement: JSON.stringify(tree), condition: tree, outline, findings: [], asks: [] }
  })
  server.on('POST', '/api/registers/defects/count', { matching: 7, total: 24000, exact: true })
  server.on('DELETE', '/api/questions/*', undefined)
})
afterEach(() => page.unmount())

async function at(statement: string) {
  ;({ page } = await drawn(StatementBuilder, { register: DEFECTS, modelValue: statement, zone: 'UTC' }))
  await settled()
}
const two = JSON.stringify({
  all: [
    { field: 'site', test: 'is', value: 'a' },
    { field: 'due', test: 'is', value: 'b' },
  ],
})

describe('a statement that is built without records', () => {
  it('is read, and says how many records there are for whoever builds it', async () => {
    await at(two)
    expect(page.text()).toContain('Defects whose')
    expect(page.text()).toContain('For you: 7 of 24,000.')
  })

  it('is changed in place, and tells its new words', async () => {
    await at(two)
    const remove = page.findAll('button').filter((b) => b.text() === 'remove')
    await remove[1]!.trigger('click')
    await settled()
    expect(page.emitted('update:modelValue')!.at(-1)).toEqual([
      JSON.stringify({ all: [{ field: 'site', test: 'is', value: 'a' }] }),
    ])
  })

  it('makes two quick changes one of the other', async () => {
    await at(two)
    const remove = page.findAll('button').filter((b) => b.text() === 'off')
    await Promise.all([remove[0]!.trigger('click'), remove[1]!.trigger('click')])
    await settled()
    const last = JSON.parse(page.emitted('update:modelValue')!.at(-1)![0] as string) as { all: Node[] }
    expect(last.all.map((p) => 'off' in p)).toEqual([true, true])
  })

  it('does nothing to a part that is another one by its turn', async () => {
    await at(two)
    const remove = page.findAll('button').filter((b) => b.text() === 'remove')
    await Promise.all([remove[0]!.trigger('click'), remove[1]!.trigger('click')])
    await settled()
    expect(page.emitted('update:modelValue')).toHaveLength(1)
    expect(page.get('[role=alert]').text()).toContain('The statement has changed there meanwhile.')
  })

  it('says what cannot be read and leaves it as it was', async () => {
    await at('unreadable')
    expect(page.get('[role=alert]').text()).toBe('“unreadable” is no field of Defects.')
    expect(page.emitted('update:modelValue')).toBeUndefined()
  })
})
