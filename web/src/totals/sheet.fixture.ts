import type { Shape } from '@/rows/shape'
import type { Key, TotalsAnswer, TotalsRow } from './sheet'

/** Severities and numbers of defects, months beside one another. */
export const SHAPE: Shape = {
  groups: [{ field: 'severity' }, { field: 'number' }],
  measures: [{ function: 'count' }, { function: 'sum', field: 'severity' }],
  totals: { across: { field: 'raised', by: 'month' }, shares: true },
}

const NOVEMBER: Key = { value: '2026-11-01', from: '2026-11-01', to: '2026-11-30' }
const row = (keys: Key[], records: number, values: unknown[], across?: Key): TotalsRow => ({
  keys,
  across,
  records,
  values: { number: values[0], share_of_number: values[1], sum_of_severity: values[2] },
})
const FOUR: Key = { value: '4' }

export const ANSWER: TotalsAnswer = {
  figures: [
    { name: 'number', label: 'number of records', function: 'count', share: false, type: 'number' },
    {
      name: 'share_of_number',
      label: 'share of the number of records',
      function: 'count',
      share: true,
      type: 'number',
    },
    {
      name: 'sum_of_severity',
      label: 'sum of Severity',
      function: 'sum',
      field: 'severity',
      share: false,
      type: 'number',
    },
  ],
  columns: [NOVEMBER],
  rows: [
    row([FOUR], 7, [1207, 0.875, 28]),
    row([FOUR], 5, [5, 1, 20], NOVEMBER),
    row([FOUR, { value: 'A-1' }], 5, [5, 0.625, 20]),
    row([FOUR, { value: 'A-1' }], 5, [5, 1, 20], NOVEMBER),
    row([FOUR, { value: null }], 2, [2, 0.25, null]),
    row([{ value: '5' }], 1, [1, 0.125, 5]),
  ],
  total: row([], 8, [8, 1, 33]),
  shownTotal: row([], 8, [8, 1, 33]),
  totals: [row([], 5, [5, 1, 20], NOVEMBER)],
  shownTotals: [row([], 5, [5, 1, 20], NOVEMBER)],
  windows: [],
  findings: [],
  leftOut: {},
}
