import type { Register } from '@/api/client'
import type { Rules } from '@/transactions/transaction'
import { DEFECTS, field } from './page'

/** How a small journal is posted to. */
export const RULES: Rules = {
  number: { field: 'transaction', prefix: 'T-' },
  line: { field: 'entry', prefix: 'E-' },
  amount: 'amount',
  shared: ['posted', 'value_date', 'reference'],
  each: ['account', 'site', 'memo'],
  mark: { field: 'source', value: 'By hand' },
  by: 'entered_by',
  along: [],
}
const option = (value: string) => ({ value, label: value })
/** A small journal of postings. */
export const JOURNAL = {
  ...DEFECTS,
  key: 'journal',
  register: 'journal',
  label: 'Journal',
  recordLabel: 'posting',
  recordsLabel: 'postings',
  transactions: RULES,
  mayChangeMany: true,
  capabilities: ['records'],
  fields: [
    field('entry'),
    field('posted', 'moment', { required: true }),
    field('value_date', 'date', { label: 'Value date' }),
    field('account', 'choice', { required: true, options: ['Bank', 'Office', 'Debtors'].map(option) }),
    field('site', 'choice', { options: ['North', 'South'].map(option) }),
    field('amount', 'money', { unit: '£' }),
    field('memo'),
    field('reference'),
    field('transaction'),
  ],
} as unknown as Register
/** The moment that it is in tests that show it. */
export const NOW = '2026-11-23T09:30:00Z'
