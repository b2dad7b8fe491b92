import { describe, expect, it } from 'vitest'
import { ref } from 'vue'
import type { ReadStatement, View } from '@/api/client'
import type { Node } from '@/statements/tree'
import { useLocks } from './useLocks'

const part = (value: string): Node => ({ field: 'status', test: 'is', value })
const viewOf = (condition: Node, locked: number[], mayChange = false) =>
  ref({ condition, locked, mayChange } as unknown as View)
const read = () => ref({} as ReadStatement | undefined)

describe('the locked parts of a view', () => {
  const condition = { all: [part('a'), part('b'), part('c')] }

  it('are found where they stand now', () => {
    const tree = ref<Node>({ all: [part('x'), part('b'), part('a')] })
    const { locked, unlocked } = useLocks(viewOf(condition, [0, 1]), tree, read())
    expect([...locked.value]).toEqual(['/all/1', '/all/2'])
    expect(unlocked.value).toBe(false)
  })

  it('are missed when they are gone, and not while nothing is read', () => {
    const tree = ref<Node>({ all: [part('b'), part('c')] })
    const statement = read()
    const { unlocked } = useLocks(viewOf(condition, [0]), tree, statement)
    expect(unlocked.value).toBe(true)
    tree.value = condition
    expect(unlocked.value).toBe(false)
    tree.value = part('b')
    statement.value = undefined
    expect(unlocked.value).toBe(false)
  })

  it('are nothing to those who may change the view, and where there is none', () => {
    const tree = ref<Node>(part('b'))
    expect(useLocks(viewOf(condition, [0], true), tree, read()).unlocked.value).toBe(false)
    expect(useLocks(ref(undefined), tree, read()).locked.value.size).toBe(0)
  })

  it('may be the whole of a statement of one criterion', () => {
    const tree = ref<Node>(part('a'))
    const { locked } = useLocks(viewOf(part('a'), [0]), tree, read())
    expect([...locked.value]).toEqual([''])
    tree.value = { all: [part('a'), part('d')] }
    expect([...locked.value]).toEqual(['/all/0'])
  })
})
