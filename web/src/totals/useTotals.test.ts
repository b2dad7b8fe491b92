import { beforeEach, describe, expect, it } from 'vitest'
import type { Question } from '@/rows/useRows'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import { ANSWER, SHAPE } from './sheet.fixture'
import { overFigures, useTotals } from './useTotals'

const server = standIn()
const TOTALS = '/api/registers/defects/totals'
const question = (statement: string, more: Partial<Question> = {}): Question => ({
  register: 'defects',
  statement,
  order: [],
  columns: [],
  shape: SHAPE,
  ...more,
})

beforeEach(() => {
  server.on('POST', TOTALS, (call: Call) => ({
    ...ANSWER,
    leftOut: { of: (call.body as { statement: string }).statement.length },
  }))
})

describe('totals', () => {
  it('are those of the last question, and of none that is read as records', async () => {
    const totals = useTotals()
    void totals.ask(question('a'))
    void totals.ask(question('bbb'))
    await settled()
    expect(totals.answer.value?.leftOut).toEqual({ of: 3 })
    await totals.ask(question('a', { shape: {} }))
    expect(totals.answer.value).toBeUndefined()
    expect(server.to('POST', TOTALS).length).toBeLessThanOrEqual(2)
  })

  it('say why there are none', async () => {
    server.on('POST', TOTALS, refusal(422, 'too-many-rows', 'These are too many rows.'))
    const totals = useTotals()
    await totals.ask(question('a'))
    expect(totals.trouble.value).toBe('These are too many rows.')
    expect(totals.answer.value).toBeUndefined()
  })

  it('tell that others changed something, and bring it in', async () => {
    const totals = useTotals()
    await totals.ask(question('a'))
    await totals.compare()
    expect(totals.news.value).toBe(0)
    server.on('POST', TOTALS, { ...ANSWER, leftOut: { of: 9 } })
    await totals.compare()
    expect(totals.news.value).toBe(1)
    await totals.bringIn()
    expect(totals.news.value).toBe(0)
    expect(totals.answer.value?.leftOut).toEqual({ of: 9 })
  })

  it('ask for the statement behind a figure as the totals themselves were asked for', async () => {
    server.on('POST', TOTALS + '/records', { condition: {}, statement: 'severity = 4' })
    const totals = useTotals()
    await totals.ask(question('a', { asOf: '2026-11-01' }))
    expect(await totals.behind({ keys: ['4'] })).toBe('severity = 4')
    expect(server.to('POST', TOTALS + '/records')[0]!.body).toEqual({
      statement: 'a',
      asOf: '2026-11-01',
      shape: SHAPE,
      at: { keys: ['4'] },
    })
  })

  it('read criteria on figures without those that are being written', async () => {
    server.on('POST', TOTALS + '/statement', { statement: 'number > 3' })
    const shape = { ...SHAPE, totals: { ...SHAPE.totals, keep: 'numb' } }
    const language = overFigures('defects', shape)
    expect(await language.read('number>3', new AbortController().signal)).toBe('number > 3')
    expect(await language.read(' ', new AbortController().signal)).toBe('')
    const [call] = server.to('POST', TOTALS + '/statement')
    expect((call!.body as { shape: typeof SHAPE }).shape.totals?.keep).toBeUndefined()
  })
})
