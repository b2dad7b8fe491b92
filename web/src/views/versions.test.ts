import { describe, expect, it } from 'vitest'
import type { Step } from '@/api/client'
import { DEFECTS } from '@/testing/page'
import { changesOf, stateOf, type State } from './versions'

const was: State = {
  name: 'Late defects',
  purpose: '',
  statement: 'severity >= 4',
  columns: ['number', 'severity'],
  order: ['due'],
  zone: null,
  shape: {},
  labels: ['spring'],
  locked: [],
}
const step = (before: unknown, after: unknown) =>
  ({ id: '1', action: 'changed', before, after }) as unknown as Step
const changes = (more: Partial<State>) => changesOf(DEFECTS, step(was, { ...was, ...more }))

describe('what a step of a view’s history changed', () => {
  it.each<[Partial<State>, string[]]>([
    [{}, []],
    // The statement stands beside it, word by word.
    [{ statement: 'severity >= 5' }, []],
    [{ name: 'Late' }, ['name: “Late defects” → “Late”']],
    [{ purpose: 'For the mornings' }, ['purpose: “nothing” → “For the mornings”']],
    [{ columns: ['number', 'due'] }, ['columns: + Due, − Severity']],
    [{ columns: ['severity', 'number'] }, ['columns: in another order']],
    [
      { order: ['-severity', 'due:empties-first'] },
      ['order: due, oldest first → severity, highest first; then due, empties and then oldest first'],
    ],
    [{ order: [] }, ['order: due, oldest first → none']],
    [{ order: ['as-listed:number'] }, ['order: due, oldest first → Number, as listed']],
    [
      {
        added: [{ key: '_worse', label: 'Worse', calculation: 'severity + 1' }],
        columns: ['number', '_worse'],
      },
      ['calculated here: + Worse = severity + 1', 'columns: + Worse, − Severity'],
    ],
    [{ zone: 'Europe/Rome' }, ['days of: Europe/Rome']],
    [{ labels: ['autumn'] }, ['labels: + autumn, − spring']],
    [{ locked: [0, 2] }, ['locked parts: 1, 3']],
    [
      { shape: { groups: [{ field: 'severity' }] } as never },
      ['shown as: a plain list → in groups by Severity'],
    ],
    [{ shape: { wrap: true } as never }, ['the look of columns: changed']],
    // A field that is gone keeps the name that it is stored by.
    [{ columns: ['number', 'severity', 'gone'] }, ['columns: + gone']],
  ])('%j', (more, said) => {
    expect(changes(more)).toEqual(said)
  })

  it('may be whom it is shared with', () => {
    const share = (label: string, may: string) => ({ label, may })
    expect(
      changesOf(
        DEFECTS,
        step(
          [share('Asta Quill', 'LOOK'), share('Berths', 'LOOK')],
          [share('Asta Quill', 'CHANGE'), share('Berths', 'LOOK')],
        ),
      ),
    ).toEqual(['shared with: + Asta Quill, to change, − Asta Quill, to look'])
    expect(changesOf(DEFECTS, step(null, [share('Everyone', 'LOOK')]))).toEqual([
      'shared with: + Everyone, to look',
    ])
  })

  it('may be whose it is', () => {
    expect(changesOf(DEFECTS, step({ owner: 'Asta Quill' }, { owner: 'Bram Oake' }))).toEqual([
      'owner: Asta Quill → Bram Oake',
    ])
    expect(changesOf(DEFECTS, step(null, null))).toEqual([])
  })

  it('may be what its bands hold', () => {
    const bands = (words: string) => ({ bands: { Length: words } })
    expect(changesOf(DEFECTS, step(bands('Long: from 5'), bands('Long: from 6')))).toEqual([
      'bands of Length: Long: from 5 → Long: from 6',
    ])
  })

  it('is a version where a statement was kept', () => {
    expect(stateOf(was)).toBe(was)
    expect(stateOf([{ label: 'Everyone' }])).toBeUndefined()
    expect(stateOf({ owner: 'Asta Quill' })).toBeUndefined()
    expect(stateOf(null)).toBeUndefined()
  })
})
