import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { DEFECTS, drawn } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import EdgesPanel from './EdgesPanel.vue'

const server = standIn()
const EDGES = '/api/registers/defects/edges'
const near = (...rows: [number, string, boolean][]) => ({
  rows: rows.map(([id, value, matches]) => ({
    record: { id, values: { number: `D-${id}` } },
    value,
    matches,
  })),
  values: [],
})
const EDGE = {
  path: '/all/0',
  field: 'due',
  label: 'Due',
  statement: 'due in last month',
  boundaries: [
    {
      words: '1 Oct 2026',
      at: '2026-10-01T00:00:00Z',
      begins: true,
      belongs: true,
      inside: near([1, '2026-10-01', true], [2, '2026-10-02', true]),
      outside: near([3, '2026-09-30', false]),
    },
    {
      words: '1 Nov 2026',
      at: '2026-11-01T00:00:00Z',
      begins: false,
      belongs: false,
      inside: near([4, '2026-10-31', true]),
      outside: near(),
    },
  ],
  empties: near([5, '', false]),
}

let page: VueWrapper
beforeEach(() => {
  server.on('POST', EDGES, [EDGE])
  server.on('DELETE', '/api/questions/*', undefined)
})
afterEach(() => page.unmount())

async function at() {
  ;({ page } = await drawn(EdgesPanel, {
    register: DEFECTS,
    question: { register: 'defects', statement: 'due in last month', order: ['due'], columns: ['due'] },
    zone: 'UTC',
  }))
}
const lists = () => page.findAll('ul').map((l) => l.findAll('li').map((i) => i.text().replace(/\s+/g, ' ')))

describe('the edges', () => {
  it('show the last out and the first in where the answer begins, and the other way round where it ends', async () => {
    await at()
    expect(lists()).toEqual([
      ['D-3 30 Sep 2026 · last one out'],
      ['D-1 1 Oct 2026 · first one in', 'D-2 2 Oct 2026'],
      ['D-4 31 Oct 2026 · last one in'],
      ['nothing on this side'],
      ['D-5 — · left out'],
    ])
    expect(page.findAll('.boundary').map((b) => b.text())).toEqual([
      '1 Oct 2026: begins here',
      '1 Nov 2026: ends here',
      'without due',
    ])
  })

  it('open the record that is clicked', async () => {
    await at()
    await page.findAll('li button')[0]!.trigger('click')
    expect(page.emitted('select')).toEqual([[3]])
  })

  it('are asked for again by another question, not by another order', async () => {
    await at()
    const question = {
      register: 'defects',
      statement: 'due in last month',
      order: ['-due'],
      columns: ['number'],
    }
    await page.setProps({ question })
    await settled()
    expect(server.to('POST', EDGES)).toHaveLength(1)
    await page.setProps({ question: { ...question, answers: { days: '3' } } })
    await settled()
    expect(server.to('POST', EDGES)).toHaveLength(2)
  })

  it('of the question before do not stand beside its records; what takes long can be stopped', async () => {
    await at()
    server.hold(EDGES)
    await page.setProps({ question: { register: 'defects', statement: 'due in this month' } })
    expect(page.find('.edge').exists()).toBe(false)
    await new Promise((done) => setTimeout(done, 330))
    expect(page.get('.edges > .hint').text()).toContain('Looking for the edges…')
    await page.get('.edges > .hint button').trigger('click')
    await settled()
    expect(page.get('[role="alert"]').text()).toContain('Stopped.')
    server.letGo()
    await page.get('[role="alert"] button').trigger('click')
    await settled()
    expect(page.findAll('.edge')).toHaveLength(1)
  })

  it('say so where there is no boundary, and where they cannot be had', async () => {
    server.on('POST', EDGES, [])
    await at()
    expect(page.text()).toContain('No criterion here has a boundary')
    page.unmount()
    server.on('POST', EDGES, refusal(504, 'too-slow', 'That took too long.'))
    await at()
    expect(page.get('[role="alert"]').text()).toContain('That took too long.')
  })
})
