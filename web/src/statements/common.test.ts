import { describe, expect, it } from 'vitest'
import type { FieldDescription } from '@/api/client'
import { field } from '@/testing/page'
import { commonOf } from './common'

const one = (key: string, type: string, more = {}) =>
  field(key, type, { origin: 'COLUMN', identifying: false, ...more }) as unknown as FieldDescription
const words = (fields: FieldDescription[], rows: Record<string, unknown>[]) =>
  commonOf(fields, rows, 'Europe/London').map((o) => o.words)

describe('what records have in common', () => {
  it('is one value, a few of a choice, or a range', () => {
    const fields = [
      one('number', 'text', { identifying: true }),
      one('site', 'choice'),
      one('kind', 'choice'),
      one('cost', 'money'),
      one('due', 'date'),
      one('memo', 'text'),
      one('tags', 'tags', { origin: 'TAGS' }),
    ]
    const rows = [
      { number: 'A', site: 'N', kind: 'x', cost: 5, due: '2026-11-03', memo: '', tags: ['a', 'b'] },
      { number: 'A', site: 'N', kind: 'y', cost: 25, due: '2026-11-01', memo: null, tags: ['b'] },
      { number: 'A', site: 'N', kind: 'x', cost: 7, due: '2026-11-02', memo: '', tags: ['b', 'c'] },
    ]
    expect(words(fields, rows)).toEqual([
      'Site is N',
      'Kind is x or y',
      'Cost from 5.00 to 25.00',
      'Due from 1 Nov 2026 to 3 Nov 2026',
      'Memo is empty',
      'Tags has b',
    ])
    expect(commonOf(fields, rows, 'UTC')[2]!.node).toEqual({
      all: [
        { field: 'cost', test: '>=', value: 5 },
        { field: 'cost', test: '<=', value: 25 },
      ],
    })
  })

  it('is nothing where some have no value, or each another one', () => {
    const fields = [one('site', 'choice'), one('memo', 'text'), one('paid', 'yes/no')]
    const rows = [
      { site: 'N', memo: 'a', paid: true },
      { site: null, memo: 'b', paid: true },
    ]
    expect(words(fields, rows)).toEqual(['Paid is yes'])
  })

  it('takes the days of moments from the zone', () => {
    const fields = [one('at', 'moment')]
    expect(words(fields, [{ at: '2026-07-01T23:30:00Z' }, { at: '2026-07-02T10:00:00Z' }])).toEqual([
      'At on 2 Jul 2026',
    ])
  })
})
