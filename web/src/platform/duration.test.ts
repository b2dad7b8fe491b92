import { describe, expect, it } from 'vitest'
import { durationIso, durationSeconds, durationWords, readableDuration } from './duration'

describe('a duration', () => {
  it.each([
    ['2 h 30 min', '9000', '2 h 30 min'],
    ['2h30m', '9000', '2 h 30 min'],
    ['2 hours, 30 minutes', '9000', '2 h 30 min'],
    ['2 hrs and 30 mins.', '9000', '2 h 30 min'],
    ['2:30', '9000', '2 h 30 min'],
    ['0:00:01.5', '1.5', '1.5 s'],
    ['36:00', '129600', '1 day 12 h'],
    ['pt2h30m', '9000', '2 h 30 min'],
    ['P2W', '1209600', '14 days'],
    ['P1DT0.5H', '88200', '1 day 30 min'],
    ['1.5 h', '5400', '1 h 30 min'],
    ['-2 h 30 min', '-9000', '-2 h 30 min'],
    ['-PT90S', '-90', '-1 min 30 s'],
    ['0 min', '0', '0 s'],
    ['PT0.001S', '0.001', '0.001 s'],
    ['9007199254740993 s', '9007199254740993', '104249991374 days 7 h 36 min 33 s'],
  ])('%s is read and written', (written, seconds, words) => {
    expect(durationSeconds(written)).toBe(seconds)
    expect(durationWords(seconds)).toBe(words)
    expect(durationSeconds(words)).toBe(seconds)
    expect(durationSeconds(durationIso(seconds))).toBe(seconds)
  })

  it.each([
    '',
    '2',
    'h',
    '2 x',
    '30 min 2 h',
    '2 h 3 h',
    '2 months',
    'P1M',
    'PT',
    'P',
    '1:60',
    '2 h 30',
    '1,5 h',
  ])('%s is none', (written) => expect(durationSeconds(written)).toBeUndefined())

  it('is rounded to lengths that people think in', () => {
    expect(durationWords(readableDuration(3_870.4, 700))).toBe('1 h 5 min')
    expect(durationWords(readableDuration(3_870.4, 0.2))).toBe('1 h 4 min 30 s')
    expect(durationWords(readableDuration(200_000, 90_000))).toBe('2 days')
  })

  it('that is none, as other servers may hold, stays as it is', () => {
    expect(['infinity', 'not a number'].map(durationWords)).toEqual(['infinity', 'not a number'])
  })

  it('numbers are written as their figures are', () => {
    expect(durationWords(9000)).toBe('2 h 30 min')
    expect(durationWords(0.25)).toBe('0.25 s')
    expect(durationIso(93_600)).toBe('P1DT2H')
    expect(durationIso(0)).toBe('PT0S')
    expect(durationWords(1e-7)).toBe('0.0000001 s')
  })
})
