import { describe, expect, it } from 'vitest'
import type { FileLook, ImportPlan, Register } from '@/api/client'
import { field } from '@/testing/page'
import {
  example,
  follow,
  hindrance,
  linesOf,
  mainDate,
  match,
  planOf,
  pretty,
  titleOf,
  type Line,
  type Target,
} from './plan'

interface Told {
  type?: string
  filled?: number
  unique?: boolean
  ask?: boolean
  samples?: string[]
  evidence?: string
}
const column = (index: number, name: string, told: Told = {}) => ({
  index,
  name,
  rows: 100,
  filled: told.filled ?? 100,
  unique: told.unique ?? false,
  samples: told.samples ?? [],
  known: [],
  guess: {
    type: told.type ?? 'TEXT',
    ask: told.ask ?? false,
    evidence: told.evidence ?? `100 of 100 read as ${told.type ?? 'TEXT'}`,
    odd: [],
    order: null,
    decimal: null,
  },
})
const look = (...columns: unknown[]) =>
  ({ token: 't', name: 'dues.csv', header: true, columns }) as unknown as FileLook
const FILE = look(
  column(0, 'due_date', { type: 'DATE', filled: 60 }),
  column(1, 'note', { filled: 0 }),
  column(2, 'No', { unique: true }),
  column(3, 'posted', { type: 'MOMENT' }),
  column(4, 'amount', { type: 'MONEY', ask: true }),
)
const REGISTER = {
  key: 'dues',
  fields: [
    field('number', 'text', { label: 'No.', origin: 'COLUMN', identifying: true, required: true }),
    field('amount', 'money', { origin: 'COLUMN', required: true }),
    field('due_date', 'date', { origin: 'COLUMN' }),
    field('seen', 'yes/no', { origin: 'SEEN' }),
  ],
} as unknown as Register

const fresh = (more: Partial<Target> = {}): Target => ({ label: 'Dues', by: [], known: 'ADD', ...more })
const of = (lines: Line[], name: string) => lines.find((l) => l.column.name === name)!

describe('the columns of a file', () => {
  it('are proposed with names as people write them, those that hold something', () => {
    const lines = linesOf(FILE)
    expect(lines.map((l) => l.label)).toEqual(['Due date', 'Note', 'No', 'Posted', 'Amount'])
    expect(lines.map((l) => l.taken)).toEqual([true, false, true, true, true])
    expect(lines.map((l) => l.type)).toEqual(['date', 'text', 'text', 'moment', 'money'])
    expect(lines.map((l) => l.answered)).toEqual([true, true, true, true, false])
    expect(of(lines, 'No').identifying).toBe(true)
  })

  it('of one name are told apart', () => {
    const lines = linesOf(look(column(0, 'a'), column(1, 'A'), column(2, 'a')))
    expect(lines.map((l) => l.label)).toEqual(['A', 'A 2', 'A 3'])
  })

  it('show the first nine at rest', () => {
    const many = linesOf(look(...Array.from({ length: 12 }, (_, i) => column(i, 'c' + i))))
    expect(many.filter((l) => l.shown)).toHaveLength(9)
  })

  it('propose a date that every row has for the rail, and what tells records apart for their name', () => {
    const lines = linesOf(FILE)
    expect(mainDate(lines)?.column.name).toBe('posted')
    expect(titleOf(lines)?.column.name).toBe('No')
    of(lines, 'posted').taken = false
    of(lines, 'No').taken = false
    expect(mainDate(lines)?.column.name).toBe('due_date')
    expect(titleOf(lines)?.column.name).toBe('due_date')
  })

  it('that are looked at another way keep what was chosen for them', () => {
    const lines = linesOf(FILE)
    Object.assign(of(lines, 'amount'), { label: 'Sum', decimal: 'COMMA', answered: true, unfit: 'EMPTY' })
    Object.assign(of(lines, 'No'), { type: 'number', taken: false })
    const again = linesOf(
      look(
        column(0, 'No', { unique: true, evidence: '90 of 100 read as TEXT' }),
        column(1, 'amount', { type: 'MONEY', ask: true }),
        column(2, 'note', { filled: 4 }),
      ),
      lines,
    )
    expect(of(again, 'amount')).toMatchObject({
      label: 'Sum',
      decimal: 'COMMA',
      answered: true,
      unfit: 'EMPTY',
    })
    // Its values read otherwise now, so its type is open again; that it is not wanted stays.
    expect(of(again, 'No')).toMatchObject({ type: 'text', taken: false })
    expect(of(again, 'note').taken).toBe(true)
  })

  it('name a day either way when asked which is meant', () => {
    const [line] = linesOf(
      look(column(0, 'd', { type: 'DATE', samples: ['13/12/2026', '04/04/26', '3/11/2026'] })),
    )
    expect(example(line!, 'DAY_FIRST')).toBe('day first: 3/11/2026 is 3 Nov')
    expect(example(line!, 'MONTH_FIRST')).toBe('month first: 3/11/2026 is 11 Mar')
    const [plain] = linesOf(look(column(0, 'd', { samples: ['13/12/2026'] })))
    expect(example(plain!, 'MONTH_FIRST')).toBe('month first')
  })

  it('have readable names', () => {
    expect(['due_date', '  x  y ', '_', ''].map(pretty)).toEqual(['Due date', 'X y', '_', ''])
  })
})

describe('a file for a register that is there', () => {
  it('goes into the fields of the same names, by key or label, whatever else stands in them', () => {
    const lines = linesOf(FILE)
    expect(match(lines, REGISTER)).toEqual({ by: ['number'], known: 'UPDATE' })
    expect(lines.map((l) => l.field)).toEqual(['due_date', '', 'number', '', 'amount'])
    expect(of(lines, 'posted').taken).toBe(false)
  })

  it('adds rows where nothing tells records apart', () => {
    expect(match(linesOf(look(column(0, 'amount', { type: 'MONEY' }))), REGISTER)).toEqual({
      by: [],
      known: 'ADD',
    })
  })

  it('follows a kept plan, which has answered what the file does not tell', () => {
    const lines = linesOf(FILE)
    const plan = {
      by: ['number'],
      known: 'SKIP',
      columns: [
        { name: 'amount', field: 'amount', type: 'money', decimal: 'COMMA', unfit: 'EMPTY', label: 'Amount' },
        { name: 'No', field: 'number', type: 'text', unfit: 'REFUSE', label: 'No' },
      ],
    } as unknown as ImportPlan
    expect(follow(lines, plan)).toEqual({ by: ['number'], known: 'SKIP' })
    expect(lines.map((l) => l.taken)).toEqual([false, false, true, false, true])
    expect(of(lines, 'amount')).toMatchObject({ decimal: 'COMMA', unfit: 'EMPTY', answered: true })
  })
})

describe('what keeps a file from being brought in', () => {
  const answered = () => {
    const lines = linesOf(FILE)
    of(lines, 'amount').answered = true
    return lines
  }

  it('is nothing, once everything is known', () => {
    expect(hindrance(answered(), fresh())).toBe('')
    const lines = answered()
    match(lines, REGISTER)
    expect(hindrance(lines, fresh({ register: REGISTER, by: ['number'], known: 'UPDATE' }))).toBe('')
  })

  it('is what the file does not tell, for columns that are taken', () => {
    const lines = linesOf(FILE)
    expect(hindrance(lines, fresh())).toContain('Say how “amount” is to be read')
    of(lines, 'amount').type = 'text'
    expect(hindrance(lines, fresh())).toBe('')
  })

  it.each<[string, (lines: Line[]) => void, Partial<Target>, string]>([
    ['no column', (l) => l.forEach((one) => (one.taken = false)), {}, 'Take at least one column.'],
    ['no name of the register', () => {}, { label: ' ' }, 'Give the new register a name.'],
    ['no name of a column', (l) => (l[0]!.label = ' '), {}, 'Say what “due_date” is called.'],
    ['one name twice', (l) => (l[0]!.label = ' amount'), {}, 'Two columns are called “Amount”'],
  ])('is %s', (_, spoil, target, words) => {
    const lines = answered()
    spoil(lines)
    expect(hindrance(lines, fresh(target))).toContain(words)
  })

  it('is a field that every record needs, unless records are only changed', () => {
    const lines = answered()
    match(lines, REGISTER)
    of(lines, 'amount').taken = false
    expect(hindrance(lines, fresh({ register: REGISTER, known: 'ADD' }))).toContain('Amount is needed')
    expect(hindrance(lines, fresh({ register: REGISTER, by: ['number'], known: 'UPDATE' }))).toBe('')
  })

  it('is nothing to recognise records by, where some may be there', () => {
    const lines = answered()
    match(lines, REGISTER)
    for (const known of ['UPDATE', 'SKIP'] as const)
      expect(hindrance(lines, fresh({ register: REGISTER, known }))).toContain('recognised')
    expect(hindrance(lines, fresh({ register: REGISTER, known: 'REPLACE' }))).toBe('')
  })

  it('is a column without a field, or two with one', () => {
    const lines = answered()
    match(lines, REGISTER)
    const target = fresh({ register: REGISTER, by: ['number'], known: 'UPDATE' })
    of(lines, 'posted').taken = true
    expect(hindrance(lines, target)).toBe('Choose a field for each column that is taken.')
    of(lines, 'posted').field = 'amount'
    expect(hindrance(lines, target)).toContain('“amount” goes into a field that another column goes into')
  })
})

describe('the plan of a file', () => {
  it('holds what is taken, by trimmed names', () => {
    const lines = linesOf(FILE)
    of(lines, 'amount').label = ' Sum '
    const plan = planOf(lines, fresh({ by: ['number'], known: 'UPDATE' }))
    expect(plan.columns.map((c) => c.label)).toEqual(['Due date', 'No', 'Posted', 'Sum'])
    // A new register has no records to be told apart from.
    expect(plan).toMatchObject({ by: [], known: 'ADD' })
  })

  it('tells records apart only where known ones are not simply added', () => {
    const target = fresh({ register: REGISTER, by: ['number'], known: 'SKIP' })
    expect(planOf(linesOf(FILE), target)).toMatchObject({ by: ['number'], known: 'SKIP' })
    expect(planOf(linesOf(FILE), { ...target, known: 'ADD' })).toMatchObject({ by: [], known: 'ADD' })
  })
})
