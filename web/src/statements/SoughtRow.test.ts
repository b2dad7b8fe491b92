import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { computed, ref } from 'vue'
import { DEFECTS, drawn } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import { DESK, type Desk } from './desk'
import SoughtRow from './SoughtRow.vue'
import type { Node } from './tree'

const server = standIn()
const PROPOSALS = '/api/registers/defects/proposals'
const PARTS = '/api/registers/defects/parts'
const meaning = (words: string) => ({ statement: words, words, condition: { field: 'f', test: words } })

let page: VueWrapper
let taken: Node[][]
beforeEach(async () => {
  taken = []
  server.on('POST', PROPOSALS, (call: Call) =>
    (call.body as { text: string }).text
      .split(' ')
      .flatMap((word) =>
        word === 'north'
          ? [{ typed: 'north', meanings: [meaning('site is North Quay')] }]
          : word === 'last-month'
            ? [{ typed: word, meanings: [meaning('reported last month'), meaning('due last month')] }]
            : [],
      ),
  )
  server.on('POST', PARTS, (call: Call) => {
    const { any } = (call.body as { condition: { any: Node[] } }).condition
    return {
      parts: any.map((_, i) => ({ path: any.length === 1 ? '' : `/any/${i}`, alone: 1204 + i, without: 0 })),
    }
  })
  const desk = {
    register: computed(() => DEFECTS),
    asOf: ref(undefined),
    zone: ref('UTC'),
    take: (nodes: Node[]) => taken.push(nodes),
  } as unknown as Desk
  ;({ page } = await drawn(SoughtRow, {}, '/', { [DESK as symbol]: desk }))
})
afterEach(() => page.unmount())

const box = () => page.get<HTMLInputElement>('input[type="search"]')
async function type(text: string) {
  await box().setValue(text)
  await new Promise((done) => setTimeout(done, 220))
  await settled()
}
const enter = async () => {
  await page.get('form').trigger('submit')
  await settled()
}

describe('a few typed words', () => {
  it('are proposed as criteria with their numbers of records, and taken with Enter', async () => {
    await type('north last-month')
    expect(page.findAll('legend').map((l) => l.text())).toEqual(['north', 'last-month'])
    expect(page.findAll('.count').map((c) => c.text())).toEqual(['1,204', '1,205', '1,206'])
    expect(server.to('POST', PARTS)).toHaveLength(1)
    await enter()
    expect(taken).toEqual([
      [meaning('site is North Quay').condition, meaning('reported last month').condition],
    ])
    expect(box().element.value).toBe('')
    expect(page.find('.found').exists()).toBe(false)
  })

  it('mean what is chosen, or nothing, also while more is typed', async () => {
    await type('north last-month')
    const radios = page.findAll<HTMLInputElement>('input[type="radio"]')
    await radios[1]!.setValue()
    await radios[3]!.setValue()
    await type('north last-month more')
    await enter()
    expect(taken).toEqual([[meaning('due last month').condition]])
  })

  it('are shown first where Enter comes before they were read', async () => {
    await box().setValue('north')
    await enter()
    expect(taken).toEqual([])
    expect(page.text()).toContain('site is North Quay')
    await enter()
    expect(taken).toHaveLength(1)
  })

  it('that mean nothing are said so, and nothing is taken', async () => {
    await type('xyz')
    expect(page.get('form > .hint').text()).toContain('Nothing of this is known here.')
    await enter()
    expect(taken).toEqual([])
  })

  it('are left with Escape, and an error is said', async () => {
    await type('north')
    await box().trigger('keydown', { key: 'Escape' })
    await settled()
    expect(box().element.value).toBe('')
    expect(page.find('.found').exists()).toBe(false)
    server.on('POST', PROPOSALS, refusal(503, 'away', 'The database cannot be reached just now.'))
    await type('north')
    expect(page.get('[role="alert"]').text()).toContain('cannot be reached')
  })
})
