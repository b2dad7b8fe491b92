import { describe, expect, it } from 'vitest'
import { every, howLong, outcome, stateWords } from './jobs'

const JOB = { state: 'RUNNING', phase: 'reading', share: 0.426, message: '', stopping: false } as const

describe('a job in words', () => {
  it('says how far it is', () => {
    expect(stateWords(JOB)).toBe('reading: 42 %')
    expect(stateWords({ ...JOB, phase: '', share: 0 })).toBe('goes on')
    expect(stateWords({ ...JOB, stopping: true })).toBe('is being stopped')
    expect(stateWords({ ...JOB, state: 'WAITING' })).toBe('waits for a server')
  })

  it('says how it ended', () => {
    expect(stateWords({ ...JOB, state: 'DONE', message: '3 added' })).toBe('done: 3 added')
    expect(stateWords({ ...JOB, state: 'DONE' })).toBe('done')
    expect(stateWords({ ...JOB, state: 'FAILED', message: 'There is no space.' })).toBe(
      'failed: There is no space.',
    )
  })
})

describe('times', () => {
  it('are said as people say them', () => {
    expect(every(20)).toBe('every 20 seconds')
    expect(every(60)).toBe('every minute')
    expect(every(600)).toBe('every 10 minutes')
    expect(every(3_600)).toBe('every hour')
    expect(every(90)).toBe('every 90 seconds')
    expect(every(86_400)).toBe('every day')
  })

  it('are as long as they were', () => {
    expect(howLong('2026-11-23T09:00:00Z', '2026-11-23T09:00:00.012Z')).toBe('12 ms')
    expect(howLong('2026-11-23T09:00:00Z', '2026-11-23T09:00:02.5Z')).toBe('2.5 s')
    expect(howLong('2026-11-23T09:00:00Z', '2026-11-23T09:02:05Z')).toBe('2 min 5 s')
    expect(howLong('2026-11-23T09:00:00Z', '2026-11-23T09:00:59.960Z')).toBe('1 min 0 s')
    expect(howLong('2026-11-23T09:00:00Z', '2026-11-23T09:02:59.700Z')).toBe('3 min 0 s')
    expect(howLong('2026-11-23T09:00:00Z', null)).toBe('')
  })
})

describe('the last round', () => {
  it('says what came of it', () => {
    const last = { failed: false, message: '', server: 'a', startedAt: '', endedAt: '' }
    expect(outcome({ last })).toBe('done')
    expect(outcome({ last: { ...last, message: 'looked at 12 views' } })).toBe('looked at 12 views')
    expect(outcome({ last: { ...last, failed: true } })).toContain('log')
    expect(outcome({ last: null })).toBe('')
  })
})
