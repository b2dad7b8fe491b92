import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { ref, shallowRef } from 'vue'
import type { Outline } from '@/api/client'
import type { Change, Node } from '@/statements/tree'
import { DEFECTS } from '@/testing/page'
import { refusal, standIn, type Call } from '@/testing/server'
import { useWindows } from './useWindows'

const server = standIn()
const NEIGHBOURS = '/api/windows/neighbours'
const criterion = (path: string, node: Node, from: string | null, to: string | null) =>
  ({
    kind: 'criterion',
    path,
    field: node.field,
    node,
    window: { path, from, to, outside: false, words: '', rolling: false },
    parts: [],
  }) as unknown as Outline

function page(tree: Node, outline: Outline) {
  const said = ref('')
  const mishap = ref('')
  const current = shallowRef<Node>(tree)
  const q = {
    register: ref(DEFECTS),
    read: ref({ outline }),
    asOf: ref<string>(),
    zone: ref<string>(),
    leaving: () => () => gone,
  }
  const change = (make: Change) => {
    current.value = make(current.value) ?? current.value
    return Promise.resolve()
  }
  const windows = useWindows(q as never, ref('Europe/London'), change, said, mishap)
  return { ...windows, tree: current, said, mishap }
}
const due = { field: 'due', test: 'in', period: 'last month' } as Node
const month = criterion('/all/0', due, '2026-10-01T00:00:00+01:00', '2026-11-01T00:00:00Z')
const whole = (...parts: Outline[]) => ({ kind: 'all', path: '', node: {}, parts }) as unknown as Outline

beforeEach(() => server.on('POST', NEIGHBOURS, { before: '2026-09', after: '2026-11' }))
let asked: unknown[] = []
/** whether the reader has gone elsewhere */
let gone = false
afterEach(() => {
  asked = []
  gone = false
})

describe('windows', () => {
  it('are stepped from by the phrase that stands there', async () => {
    const p = page({ all: [due, { field: 'severity', test: '>=', value: 4 }] }, whole(month))
    await p.stepWindow(true)
    expect(server.to('POST', NEIGHBOURS)[0]!.body).toEqual({ phrase: 'last month' })
    expect(p.tree.value).toMatchObject({ all: [{ field: 'due', test: 'in', period: '2026-11' }, {}] })
  })

  it('are left alone by a step that comes when the reader has gone elsewhere', async () => {
    const p = page({ all: [due] }, whole(month))
    const before = p.tree.value
    server.on('POST', NEIGHBOURS, () => {
      gone = true
      return { before: '2026-09', after: '2026-11' }
    })
    await p.stepWindow(true)
    expect(p.tree.value).toBe(before)
  })

  it('that quick keys step from follow one after the other', async () => {
    const p = page({ all: [due] }, whole(month))
    server.on('POST', NEIGHBOURS, (call: Call) => {
      asked.push(call.body)
      return { before: `step ${asked.length}`, after: null }
    })
    await Promise.all([p.stepWindow(false), p.stepWindow(false), p.stepWindow(false)])
    expect(asked).toHaveLength(3)
    expect((p.tree.value.all as Node[])[0]!.period).toBe('step 3')
  })

  it('between two ends are stepped from by their bounds', async () => {
    const between = { field: 'due', test: 'between', from: '2026-10-01', to: '2026-10-07' } as unknown as Node
    const p = page(
      { all: [between] },
      whole(criterion('/all/0', between, '2026-09-30T23:00:00Z', '2026-10-07T23:00:00Z')),
    )
    await p.stepWindow(false)
    expect(server.to('POST', NEIGHBOURS)[0]!.body).toEqual({ phrase: '2026-10-01 to 2026-10-07' })
    expect((p.tree.value.all as Node[])[0]!.period).toBe('2026-09')
  })

  it('with one end only have no neighbour, which is said', async () => {
    const p = page({ all: [due] }, whole(criterion('/all/0', due, null, '2026-11-01T00:00:00Z')))
    await p.stepWindow(true)
    expect(p.said.value).toBe('There is no window with two ends to step from.')
    expect(server.calls).toHaveLength(0)
  })

  it('that cannot be stepped from stay, with the reason', async () => {
    server.on('POST', NEIGHBOURS, refusal(422, 'no-neighbour', 'Working hours have no neighbour.'))
    const p = page({ all: [due] }, whole(month))
    await p.stepWindow(true)
    expect(p.mishap.value).toBe('Working hours have no neighbour.')
    expect(p.tree.value).toEqual({ all: [due] })
  })

  it('that are drawn become a criterion: of a date, or of a span that overlaps it', async () => {
    const p = page({ all: [] }, whole())
    await p.setWindow('2026-11', 'due')
    await p.setWindow('2026-11-23', 'stay')
    expect(p.tree.value).toMatchObject({
      all: [
        { field: 'due', test: 'in', period: '2026-11' },
        { field: 'stay', test: 'overlaps', period: '2026-11-23' },
      ],
    })
  })

  it('that are drawn over one that is there take its place, and keep its test of a span', async () => {
    const stay = { field: 'stay', test: 'during', period: '2026-10' } as Node
    const p = page({ all: [due, stay] }, whole())
    await p.setWindow('2026-11', 'stay', '/all/1')
    expect(p.tree.value).toMatchObject({ all: [due, { field: 'stay', test: 'during', period: '2026-11' }] })
  })
})
