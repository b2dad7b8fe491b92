import { describe, expect, it } from 'vitest'
import type { Register } from '@/api/client'
import { field, TESTS_OF_TYPES } from '@/testing/page'
import {
  bandLines,
  blanks,
  built,
  changeField,
  draftOf,
  isBeside,
  offeredTests,
  otherFields,
} from './criterion'
import { fieldOf, knowsHours, pastedValues, plusUnits, viewerValues, type Draft } from './criterion'
import type { Node } from './tree'

const REGISTER = {
  key: 'defects',
  label: 'Defects',
  tests: TESTS_OF_TYPES,
  fields: [
    field('number'),
    field('title'),
    field('severity', 'number', {
      bands: [
        { name: 'Any', bands: [{ name: 'Grave', bands: [] }] },
        { name: 'Odd', bands: [] },
      ],
    }),
    field('cost', 'money', {}, ['paid']),
    field('paid', 'money', {}, ['cost']),
    field('spent', 'duration', {}, ['planned']),
    field('planned', 'duration', {}, ['spent']),
    field('due', 'date', {}, ['raised', 'closed']),
    field('raised', 'moment', {}, ['due']),
    field('closed', 'moment'),
    field('site', 'choice', {}, ['to_site']),
    field('to_site', 'choice', { viewerValues: ['site'] }, ['site']),
    field('assignee', 'person'),
    field('tags', 'tags'),
    field('urgent', 'yes/no'),
    field('opens', 'time of day'),
    field('stay', 'span', { ends: { start: 'raised', end: 'closed' } }),
    field('leave', 'span', { ends: { start: 'due', end: 'due' } }),
    field('bare', 'text', { tests: [] }),
  ],
} as unknown as Register

const draft = (node: Node, changed: Partial<Draft> = {}) => Object.assign(draftOf(REGISTER, node), changed)
const again = (node: Node, changed: Partial<Draft> = {}) => built(REGISTER, draft(node, changed))
const refused = (node: Node, changed: Partial<Draft> = {}) => {
  try {
    return `built ${JSON.stringify(again(node, changed))}`
  } catch (e) {
    return (e as Error).message
  }
}

describe('a criterion that is opened and applied as it was', () => {
  it.each<Node>([
    { field: 'number', test: 'contains', text: 'pump' },
    { field: 'number', test: 'contains', text: 'Pump', exactly: true },
    { field: 'number', test: 'is', value: 'D-1', exactly: true },
    { field: 'number', test: 'is', value: { ask: 'which one', default: 'D-1' } },
    { field: 'number', test: 'is', value: { ask: 'which one' } },
    { field: 'number', test: 'is', value: { viewer: 'team' } },
    { field: 'number', test: 'is', other: 'title' },
    { field: 'number', test: 'is in', values: ['00417', '00418'] },
    { field: 'number', test: 'matches', pattern: '^D' },
    { field: 'severity', test: '>=', value: 4 },
    { field: 'severity', test: '>=', value: 0 },
    { field: 'severity', test: '>=', value: { ask: 'at least', default: 3 } },
    { field: 'severity', test: '>=', value: { ask: 'at least' } },
    { field: 'severity', test: 'between', low: 1, high: 2.5 },
    { field: 'severity', test: 'between', low: { ask: 'from', default: 1 }, high: { ask: 'to' } },
    { field: 'severity', test: 'between', low: 1, high: { ask: 'to', default: 3 } },
    { field: 'severity', test: 'is in band', bands: [{ ask: 'which', default: 'Grave' }] },
    { field: 'severity', test: 'is in band', bands: [{ ask: 'which' }] },
    { field: 'severity', test: 'is in band', bands: ['Odd', { ask: 'which', default: 'Grave' }] },
    { field: 'number', test: 'contains', text: { ask: 'what', default: 'pump' }, exactly: true },
    { field: 'number', test: 'contains', text: { ask: 'what' } },
    { field: 'number', test: 'is in', values: ['a', { viewer: 'site' }, { ask: 'another' }] },
    { field: 'opens', test: 'between', from: { ask: 'from', default: '08:00' }, to: { ask: 'to' } },
    { field: 'opens', test: 'before', time: { ask: 'when' } },
    { field: 'opens', test: 'before', time: '22:00:15' },
    { field: 'severity', test: 'is in', values: [1, 3] },
    { field: 'severity', test: 'is in band', bands: ['Grave', 'Odd'] },
    { field: 'severity', test: 'is empty' },
    { field: 'cost', test: '>=', other: 'paid', plus: -2.5 },
    { field: 'spent', test: '>=', value: { duration: 'PT2H30M' } },
    { field: 'spent', test: 'between', low: { duration: 'PT0S' }, high: { duration: 'P1D' } },
    { field: 'spent', test: '>=', value: { ask: 'at least', default: { duration: 'PT15M' } } },
    { field: 'spent', test: 'is in', values: [{ duration: 'PT15M' }, { ask: 'which' }] },
    { field: 'spent', test: '>', other: 'planned', plus: { duration: '-PT30M' } },
    { field: 'due', test: 'in', period: 'last month' },
    { field: 'due', test: 'in', period: '{which window = last month}' },
    { field: 'due', test: 'in', period: 'last {days = 30} days' },
    { field: 'due', test: 'between', from: '2026-11-01', to: 'today' },
    { field: 'due', test: 'more than', count: 30, unit: 'day', side: 'ago' },
    {
      field: 'due',
      test: 'more than',
      count: { ask: 'days', default: 14 },
      unit: 'working day',
      side: 'from now',
    },
    { field: 'due', test: 'before', other: 'raised', plus: { count: -3, unit: 'week' } },
    { field: 'due', test: 'weekday in', values: ['Sat', 'Sun'] },
    { field: 'due', test: 'weekday not in', values: ['Mon'] },
    { field: 'raised', test: 'time between', from: '17:00', to: '08:00' },
    { field: 'raised', test: 'before', other: 'closed', plus: { count: 2, unit: 'hour' } },
    { field: 'site', test: 'is', value: 'North Quay' },
    { field: 'site', test: 'is not', value: { viewer: 'site' } },
    { field: 'site', test: 'is', value: { ask: 'which site', default: 'North Quay' } },
    { field: 'site', test: 'is', value: { ask: 'which site' } },
    { field: 'site', test: 'is in', values: ['North Quay', { viewer: 'site' }] },
    { field: 'site', test: 'is not', other: 'to_site' },
    { field: 'assignee', test: 'is', value: { viewer: 'me' } },
    { field: 'tags', test: 'has any of', values: ['storm'] },
    { field: 'urgent', test: 'is', value: false },
    { field: 'urgent', test: 'is', value: true },
    { field: 'opens', test: 'before', time: '09:30' },
    { field: 'opens', test: 'between', from: '09:30', to: '17:00' },
    { field: 'stay', test: 'overlaps', period: 'this week' },
    { field: 'stay', test: 'overlaps time between', from: '12:00', to: '16:00', period: 'last week' },
    {
      field: 'stay',
      test: 'overlaps time between',
      from: { ask: 'from', default: '12:00' },
      to: { ask: 'to' },
      period: '{days = last week}',
    },
  ])('says the same: %j', (node) => {
    expect(again(node)).toEqual(node)
  })

  it('reads a duration as it is typed', () => {
    const node = { field: 'spent', test: '>=', value: { duration: 'PT1H' } }
    expect(again(node, { low: '90 min' })).toEqual({ ...node, value: { duration: 'PT1H30M' } })
    expect(draft(node).low).toBe('1 h')
    expect(refused(node, { low: '90' })).toBe('Write a duration, such as 2 h 30 min or 3 days.')
  })

  it('leaves the criterion it was taken from alone', () => {
    const node = { field: 'site', test: 'is in', values: ['A', 'B'] }
    draft(node).values.push('C')
    expect(node.values).toEqual(['A', 'B'])
  })
})

describe('a new criterion', () => {
  it.each([
    ['number', 'contains'],
    ['cost', '>='],
    ['due', 'before'],
    ['raised', 'in'],
    ['opens', 'between'],
    ['stay', 'overlaps'],
    ['site', 'is in'],
    ['urgent', 'is'],
    ['tags', 'has any of'],
    ['bare', ''],
  ])('on %s begins with the test “%s”', (about, test) => {
    expect(draftOf(REGISTER, {}, about).test).toBe(test)
  })

  it('begins with a window that is usual for its field', () => {
    expect(['due', 'raised', 'stay'].map((about) => draftOf(REGISTER, {}, about).period)).toEqual([
      'today',
      'last 7 days',
      'this week',
    ])
  })

  it('forgets what was written for another field', () => {
    const d = draft({ field: 'site', test: 'is', value: { ask: 'which', default: 'North Quay' } })
    d.field = 'severity'
    changeField(REGISTER, d)
    expect(d).toMatchObject({ test: '>=', values: [], ask: '', viewer: '', other: '' })
  })
})

describe('putting a criterion together', () => {
  it.each<[string, Node, Partial<Draft>, string]>([
    ['no field', {}, {}, 'Choose a field.'],
    ['no test', { field: 'bare' }, {}, 'Choose a test.'],
    ['no text', { field: 'number', test: 'contains' }, {}, 'Write the text to look for.'],
    ['nothing to compare with', { field: 'number', test: 'is' }, {}, 'Write the text to compare with.'],
    ['no pattern', { field: 'number', test: 'matches' }, {}, 'Write a regular expression'],
    ['no number', { field: 'severity', test: '>=' }, {}, 'Write a number'],
    ['words for a number', { field: 'severity', test: '>=' }, { low: 'many' }, 'Write a number'],
    ['a number without end', { field: 'severity', test: '>=' }, { low: '1e999' }, 'Write a number'],
    ['one of two numbers', { field: 'severity', test: 'between' }, { low: '1' }, 'Write a number'],
    [
      'words in a list of numbers',
      { field: 'severity', test: 'is in' },
      { pasted: '1\ntwo' },
      'Write a number',
    ],
    [
      'an empty list',
      { field: 'number', test: 'is in' },
      { pasted: ' , ;' },
      'Write or paste at least one value.',
    ],
    ['no value', { field: 'site', test: 'is in' }, {}, 'Choose at least one value.'],
    ['no band', { field: 'severity', test: 'is in band' }, {}, 'Choose at least one band.'],
    ['no weekday', { field: 'due', test: 'weekday in' }, {}, 'Choose at least one.'],
    ['no distance', { field: 'due', test: 'more than' }, { count: '' }, 'Write how many'],
    ['half a day', { field: 'due', test: 'more than' }, { count: 2.5 }, 'Write how many'],
    ['a distance back', { field: 'due', test: 'more than' }, { count: -1 }, 'Write how many'],
    [
      'half a day more',
      { field: 'due', test: 'before' },
      { other: 'raised', plus: '0.5' },
      'Write a whole number',
    ],
    [
      'a label with a brace',
      { field: 'severity', test: '>=' },
      { low: '1', ask: 'a}b' },
      'The label of a question',
    ],
    ['a label with =', { field: 'due', test: 'in' }, { ask: 'from = to' }, 'The label of a question'],
  ])('asks for what is missing: %s', (_, node, changed, words) => {
    expect(refused(node, changed)).toContain(words)
  })

  it('says one value of a listed field plainly, and several as a list', () => {
    expect(again({ field: 'site', test: 'is in' }, { values: ['A'] })).toEqual({
      field: 'site',
      test: 'is',
      value: 'A',
    })
    expect(again({ field: 'site', test: 'is not' }, { values: ['A', 'B'] })).toEqual({
      field: 'site',
      test: 'is not in',
      values: ['A', 'B'],
    })
  })

  it('makes a blank of a value, of a count and of a window', () => {
    expect(again({ field: 'severity', test: '>=' }, { low: '3', ask: ' at least ' }).value).toEqual({
      ask: 'at least',
      default: 3,
    })
    expect(again({ field: 'due', test: 'more than' }, { ask: 'days' }).count).toEqual({
      ask: 'days',
      default: 30,
    })
    expect(again({ field: 'due', test: 'in' }, { period: 'last week', ask: 'window' }).period).toBe(
      '{window = last week}',
    )
  })

  it('does not ask where the label was left from a test that can be asked', () => {
    expect(again({ field: 'number', test: 'is in' }, { pasted: 'D-1', ask: 'which one' })).toEqual({
      field: 'number',
      test: 'is in',
      values: ['D-1'],
    })
  })

  it('drops letter case where the field has none', () => {
    expect(again({ field: 'severity', test: 'is in', values: [1] }, { exactly: true })).not.toHaveProperty(
      'exactly',
    )
  })
})

describe('what fits a field', () => {
  const offered = (key: string, kept = '') =>
    offeredTests(REGISTER, fieldOf(REGISTER, key), kept).map((t) => t.words)

  it('offers one way for one value and several, and no opposites of the calendar unless in use', () => {
    expect(offered('site')).toEqual(['is in', 'is not in', 'is empty', 'is not empty'])
    expect(offered('due')).not.toContain('weekday not in')
    expect(offered('due', 'weekday not in')).toContain('weekday not in')
  })

  it('holds fields against those that the server says, and against the one that already is there', () => {
    const others = (node: Node) => otherFields(REGISTER, draft(node)).map((f) => f.key)
    expect(others({ field: 'cost', test: '>=' })).toEqual(['paid'])
    expect(others({ field: 'due', test: 'not in', other: 'raised' })).toEqual(['raised', 'closed'])
    expect(others({ field: 'site', test: 'is' })).toEqual(['to_site'])
    expect(others({ field: 'site', test: 'is not', other: 'assignee' })).toEqual(['to_site', 'assignee'])
    expect(others({ field: 'site', test: 'is empty', other: 'to_site' })).toEqual([])
    expect(others({ field: 'tags', test: 'has any of' })).toEqual([])
    expect(others({ field: 'number', test: 'contains' })).toEqual([])
  })

  it('adds hours only between two moments', () => {
    expect(plusUnits(REGISTER, draft({ field: 'raised', test: 'before', other: 'closed' }))).toContain('hour')
    expect(plusUnits(REGISTER, draft({ field: 'due', test: 'before', other: 'closed' }))).not.toContain(
      'hour',
    )
  })

  it('knows hours by its own type, or by where a span begins', () => {
    const knows = (key: string) => knowsHours(REGISTER, fieldOf(REGISTER, key))
    expect(['raised', 'due', 'stay', 'leave'].map(knows)).toEqual([true, false, true, false])
  })

  it('is held against the facts about a reader that the server says', () => {
    const facts = (key: string) => viewerValues(REGISTER, draftOf(REGISTER, {}, key))
    expect(facts('to_site')).toEqual(['site'])
    expect(facts('severity')).toEqual([])
  })

  it('is not asked for where the reader or another field stands in its place', () => {
    const asks = (node: Node) => blanks(REGISTER, draft(node))
    expect(asks({ field: 'assignee', test: 'is', value: { viewer: 'me' } })).toBe(0)
    expect(asks({ field: 'cost', test: '>=', other: 'paid' })).toBe(0)
    expect(asks({ field: 'tags', test: 'has any of', values: ['a'] })).toBe(0)
    expect(asks({ field: 'site', test: 'is in', values: ['a', 'b'] })).toBe(0)
    expect(asks({ field: 'site', test: 'is', value: 'a' })).toBe(1)
    expect(asks({ field: 'cost', test: 'between', low: 1, high: 2 })).toBe(2)
    expect(isBeside(REGISTER, draft({ field: 'cost', test: '>=', other: 'gone' }))).toBe(false)
  })

  it('lays its bands out one step in', () => {
    expect(bandLines(fieldOf(REGISTER, 'severity'))).toEqual([
      { name: 'Any', depth: 0 },
      { name: 'Grave', depth: 1 },
      { name: 'Odd', depth: 0 },
    ])
  })

  it('takes each pasted value once, with its zeros', () => {
    expect(pastedValues('00417\n 00418,00417;\t00419 \n')).toEqual(['00417', '00418', '00419'])
    expect(pastedValues('D-17 D-18\n00419 00420')).toEqual(['D-17', 'D-18', '00419', '00420'])
    expect(pastedValues("Cooper's Basin\n12 March\n1 204.50")).toEqual([
      "Cooper's Basin",
      '12 March',
      '1 204.50',
    ])
  })
})
