import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { using } from '@/testing/page'
import { hear, onDefinitions } from './definitions'
import { calmly, onChanges, stopWatching, watchRegisters } from './live'

/** The line to the server, held in the test's hand. */
class Line extends EventTarget {
  static readonly CLOSED = 2
  static open: Line[] = []
  readyState = 1
  closed = false
  constructor(readonly url: string) {
    super()
    Line.open.push(this)
  }
  close() {
    this.closed = true
  }
  changed(...registers: string[]) {
    this.dispatchEvent(new MessageEvent('changed', { data: JSON.stringify({ registers }) }))
  }
}
let hidden = false
function look(now: boolean) {
  hidden = !now
  document.dispatchEvent(new Event('visibilitychange'))
}

beforeEach(() => {
  Line.open = []
  hidden = false
  vi.stubGlobal('EventSource', Line)
  Object.defineProperty(document, 'hidden', { configurable: true, get: () => hidden })
})
afterEach(() => {
  stopWatching()
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

describe('changes of what answers rest on', () => {
  it('are told for the registers that they matter to', async () => {
    const told: string[] = []
    const { leave } = await using('/', () => onDefinitions((register) => told.push(register)))
    hear('defects', '4-aa')
    hear('dues', '4-aa')
    watchRegisters(['defects', 'dues'])
    const data = JSON.stringify({ registers: { dues: '5-bb' } })
    Line.open[0]!.dispatchEvent(new MessageEvent('defined', { data }))
    expect(told).toEqual(['dues'])
    leave()
  })
})

describe('changes of records', () => {
  it('are told to everybody who listens, for as long as they do', async () => {
    const heard: string[][] = []
    const { leave } = await using('/', () => onChanges((registers) => heard.push(registers)))
    watchRegisters(['defects', 'dues'])
    // With how old the page's answers may be; what changed since is told at once.
    expect(Line.open[0]!.url).toMatch(/^\/api\/changes\?age=\d+$/)
    Line.open[0]!.changed('dues')
    leave()
    Line.open[0]!.changed('dues')
    expect(heard).toEqual([['dues']])
  })

  it('keep one line for the same registers, and another for others', () => {
    watchRegisters(['defects', 'dues'])
    watchRegisters(['dues', 'defects'])
    expect(Line.open).toHaveLength(1)
    watchRegisters(['defects'])
    expect(Line.open.map((l) => l.closed)).toEqual([true, false])
  })

  it('may have been missed while a line was away', async () => {
    const heard: unknown[] = []
    const { leave } = await using('/', () => onChanges((registers, again) => heard.push([registers, again])))
    watchRegisters(['defects'])
    Line.open[0]!.dispatchEvent(new Event('open'))
    Line.open[0]!.dispatchEvent(new Event('open'))
    expect(heard).toEqual([[['defects'], true]])
    leave()
  })

  it('are listened for again after the server refused', async () => {
    vi.useFakeTimers()
    watchRegisters(['defects'])
    const refused = Line.open[0]!
    // One that only broke off comes back by itself.
    refused.dispatchEvent(new Event('error'))
    await vi.advanceTimersByTimeAsync(60_000)
    expect(Line.open).toHaveLength(1)
    refused.readyState = Line.CLOSED
    refused.dispatchEvent(new Event('error'))
    await vi.advanceTimersByTimeAsync(14_000)
    expect(Line.open).toHaveLength(1)
    await vi.advanceTimersByTimeAsync(2_000)
    expect(Line.open).toHaveLength(2)
    // Whoever listens to nothing any more does not begin again.
    Line.open[1]!.readyState = Line.CLOSED
    Line.open[1]!.dispatchEvent(new Event('error'))
    stopWatching()
    await vi.advanceTimersByTimeAsync(60_000)
    expect(Line.open).toHaveLength(2)
  })

  it('need no line for a page that nobody sees', () => {
    watchRegisters(['defects'])
    look(false)
    expect(Line.open[0]!.closed).toBe(true)
    look(true)
    expect(Line.open).toHaveLength(2)
  })
})

describe('what is done calmly', () => {
  it('is done at most once in a while, and the last wish is never lost', async () => {
    vi.useFakeTimers()
    const act = vi.fn()
    const wish = calmly(act, 1000)
    for (let i = 0; i < 50; i++) wish()
    await vi.advanceTimersByTimeAsync(1000)
    expect(act).toHaveBeenCalledTimes(1)
    wish()
    await vi.advanceTimersByTimeAsync(1000)
    expect(act).toHaveBeenCalledTimes(2)
    await vi.advanceTimersByTimeAsync(5000)
    expect(act).toHaveBeenCalledTimes(2)
  })

  it('is done again when it was wished for while it was being done', async () => {
    vi.useFakeTimers()
    let done = () => {}
    const act = vi.fn(() => new Promise<void>((end) => (done = end)))
    const wish = calmly(act, 1000)
    wish()
    await vi.advanceTimersByTimeAsync(1000)
    wish()
    wish()
    await vi.advanceTimersByTimeAsync(5000)
    expect(act).toHaveBeenCalledTimes(1)
    done()
    await vi.advanceTimersByTimeAsync(1000)
    expect(act).toHaveBeenCalledTimes(2)
  })

  it('waits until somebody looks', async () => {
    vi.useFakeTimers()
    const act = vi.fn()
    const wish = calmly(act, 1000)
    hidden = true
    wish()
    await vi.advanceTimersByTimeAsync(5000)
    expect(act).not.toHaveBeenCalled()
    look(true)
    await vi.advanceTimersByTimeAsync(0)
    expect(act).toHaveBeenCalledTimes(1)
  })
})
