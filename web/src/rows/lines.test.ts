import { describe, expect, it } from 'vitest'
import type { Row } from '@/api/client'
import { recordLines } from './lines'

const row = (id: string, running?: number) => ({ id, values: {}, running }) as unknown as Row
const ROWS = [row('1', 10), row('2', 25)]
const keys = (...at: Parameters<typeof recordLines>) => recordLines(...at).map((l) => l.key)

describe('records in a table', () => {
  it('have a line each, and none besides where nothing is added up', () => {
    expect(keys(ROWS, { newestFirst: false, opening: 3, done: true })).toEqual(['1', '2'])
  })

  it('stand between the balance before them and the one after', () => {
    const lines = recordLines(ROWS, { running: 'beginning', newestFirst: false, opening: 3, done: true })
    expect(lines.map((l) => l.key)).toEqual(['before', '1', '2', 'after'])
    expect(lines[0]).toMatchObject({ amount: 3 })
    expect(lines[3]).toMatchObject({ amount: 25 })
  })

  it('stand the other way round where the newest come first', () => {
    const lines = recordLines([row('2', 25), row('1', 10)], {
      running: 'beginning',
      newestFirst: true,
      opening: 0,
      done: true,
    })
    expect(lines.map((l) => l.key)).toEqual(['after', '2', '1', 'before'])
    expect(lines[0]).toMatchObject({ amount: 25 })
    expect(lines[3]).toMatchObject({ amount: 0 })
  })

  it('have the balance at their far end only once the last of them is there', () => {
    const so = { running: 'beginning', opening: 3, done: false } as const
    expect(keys(ROWS, { ...so, newestFirst: false })).toEqual(['before', '1', '2'])
    expect(keys(ROWS, { ...so, newestFirst: true })).toEqual(['after', '1', '2'])
  })

  it('have nothing before them where they are added up from zero', () => {
    expect(keys(ROWS, { running: 'zero', newestFirst: false, opening: 3, done: true })).toEqual([
      '1',
      '2',
      'after',
    ])
    expect(keys([], { running: 'zero', newestFirst: false, done: true })).toEqual([])
  })
})
