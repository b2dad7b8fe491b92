import { beforeEach, describe, expect, it } from 'vitest'
import { using } from '@/testing/page'
import { forgetDefinitions, hear, onDefinitions } from './definitions'

describe('what answers rest on', () => {
  beforeEach(forgetDefinitions)

  it('is told when it is something else, and only then', async () => {
    const told: string[] = []
    const { leave } = await using('/', () => onDefinitions((register) => told.push(register)))
    hear('dues', '4-aa')
    hear('defects', '4-cc')
    expect(told).toEqual([])
    // Something was changed that these answers do not rest on.
    hear('dues', '5-aa')
    expect(told).toEqual([])
    hear('dues', '6-bb')
    expect(told).toEqual(['dues'])
    // Late, from before.
    hear('dues', '5-aa')
    hear('dues', '6-bb')
    expect(told).toEqual(['dues'])
    // A register that is gone is told once.
    hear('defects', '')
    hear('defects', '')
    expect(told).toEqual(['dues', 'defects'])
    leave()
    hear('dues', '7-cc')
    expect(told).toEqual(['dues', 'defects'])
  })

  it('is another matter for whoever signs in next', async () => {
    const told: string[] = []
    const { leave } = await using('/', () => onDefinitions((register) => told.push(register)))
    hear('dues', '4-aa')
    forgetDefinitions()
    hear('dues', '9-bb')
    expect(told).toEqual([])
    leave()
  })
})
