import type { Shape } from '@/rows/shape'
import type { Key, TotalsAnswer, TotalsFigure, TotalsRow } from './sheet'

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
    { name: 'number', label: 'number of records', function: 'count', kind: 'value', type: 'number' },
    {
      name: 'share_of_number',
      label: 'share of the number of records',
      function: 'count',
      kind: 'share',
      type: 'number',
    },
    {
      name: 'sum_of_severity',
      label: 'sum of Severity',
      function: 'sum',
      field: 'severity',
      kind: 'value',
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

const beside = (keys: Key[], records: number, earlier: number, values: unknown[]): TotalsRow => ({
  keys,
  records,
  earlier,
  values: {
    number: values[0],
    earlier_of_number: values[1],
    difference_of_number: values[2],
    growth_of_number: values[3],
  },
})
const [NUMBER] = ANSWER.figures as [TotalsFigure]

/** Numbers of defects beside those of an earlier time, without columns. */
export const COMPARED: TotalsAnswer = {
  ...ANSWER,
  figures: [
    NUMBER,
    { ...NUMBER, name: 'earlier_of_number', label: 'number of records, earlier', kind: 'earlier' },
    { ...NUMBER, name: 'difference_of_number', label: 'difference', kind: 'difference' },
    { ...NUMBER, name: 'growth_of_number', label: 'growth', kind: 'growth' },
  ],
  columns: [],
  rows: [beside([FOUR], 7, 9, [1207, 1000, 207, 0.207]), beside([{ value: '5' }], 0, 3, [0, 5, -5, -1])],
  total: beside([], 7, 12, [1207, 1005, 202, 0.200995]),
  shownTotal: beside([], 7, 12, [1207, 1005, 202, 0.200995]),
  totals: [],
  shownTotals: [],
  compared: {
    with: 'before',
    window: { field: 'due', from: '2026-11-01', to: '2026-11-30' },
    earlier: { field: 'due', from: '2026-10-01', to: '2026-10-31' },
    notes: ['This window is not over: it ends on 30 Nov 2026.'],
  },
}
