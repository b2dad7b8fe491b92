import type { FileColumn, FileLook, ImportPlan, Register } from '@/api/client'
import { MONTH_NAMES } from '@/platform/format'

/** A column as it is to be taken. */
export interface Line {
  column: FileColumn
  taken: boolean
  /** the name of the field that it becomes in a new register */
  label: string
  /** the key of the field that it goes into; empty until one is chosen */
  field: string
  type: string
  order?: 'DAY_FIRST' | 'MONTH_FIRST' | null
  decimal?: 'POINT' | 'COMMA' | null
  /** what a number alone means as a duration; none where durations are written with their units */
  unit?: DurationUnit | null
  /** whether it is known how its values are to be read, from the file itself or from the reader */
  answered: boolean
  unfit: 'REFUSE' | 'EMPTY'
  identifying: boolean
  shown: boolean
}

/** What a number alone can mean as a duration. */
export type DurationUnit = NonNullable<ImportPlan['columns'][number]['unit']>
export const DURATION_UNITS: DurationUnit[] = ['SECONDS', 'MINUTES', 'HOURS', 'DAYS']

/** What is to become of records that are there already. */
export type Known = ImportPlan['known']

/** Whether rows may be of records that are there, so that fields have to be chosen by which they are recognised. */
export const recognises = (known: Known) => known === 'UPDATE' || known === 'SKIP'

/** Where the rows go: into a register that is there, or into a new one. */
export interface Target {
  /** the register that is there; absent for a new one */
  register?: Register
  /** the name of a new register */
  label: string
  /** the fields that records are told apart by */
  by: string[]
  known: Known
}

export const TYPES = [
  'text',
  'number',
  'money',
  'duration',
  'choice',
  'person',
  'yes/no',
  'tags',
  'date',
  'moment',
  'time of day',
]
const TYPE_OF: Record<string, string> = {
  TEXT: 'text',
  NUMBER: 'number',
  MONEY: 'money',
  DURATION: 'duration',
  CHOICE: 'choice',
  PERSON: 'person',
  YES_NO: 'yes/no',
  TAGS: 'tags',
  DATE: 'date',
  MOMENT: 'moment',
  TIME: 'time of day',
}
/** How many columns a new register shows at rest. */
const SHOWN = 9

const isDate = (line: Line) => line.type === 'date' || line.type === 'moment'
const isNumber = (line: Line) => line.type === 'number' || line.type === 'money'
/** Whether numbers are to be durations: nothing in the file says of what unit. */
const needsUnit = (line: Line) =>
  line.type === 'duration' && ['NUMBER', 'MONEY'].includes(line.column.guess.type)
const isFull = (line: Line) => line.column.filled === line.column.rows

/** The name of a column or file as people write it: `due_date` is Due date. */
export function pretty(name: string): string {
  const plain = name.replace(/[_\s]+/g, ' ').trim()
  return plain ? plain[0]!.toUpperCase() + plain.slice(1) : name
}
const folded = (text: string) => text.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '')

/**
 * The columns of a file as they are proposed to be taken.
 *
 * @param before what was chosen when the file was looked at another way; it stays for columns of the same name
 */
export function linesOf(look: FileLook, before: Line[] = []): Line[] {
  const names = new Set<string>()
  const lines = look.columns.map((column, i): Line => {
    let label = pretty(column.name)
    for (let n = 2; names.has(label.toLowerCase()); n++) label = `${pretty(column.name)} ${n}`
    names.add(label.toLowerCase())
    return {
      column,
      taken: column.filled > 0,
      label,
      field: '',
      type: TYPE_OF[column.guess.type]!,
      order: column.guess.order,
      decimal: column.guess.decimal,
      answered: !column.guess.ask,
      unfit: 'REFUSE',
      identifying: false,
      shown: i < SHOWN,
    }
  })
  const unique = uniqueText(lines)
  if (unique) unique.identifying = true
  for (const line of lines) {
    const chosen = sameColumn(before, line.column)
    if (!chosen) continue
    Object.assign(line, { label: chosen.label, unfit: chosen.unfit })
    // Whether a column that was empty holds something now is news.
    if (chosen.column.filled > 0) line.taken = chosen.taken
    // What was answered about the same evidence stays answered.
    if (chosen.column.guess.evidence === line.column.guess.evidence) {
      const { type, order, decimal, unit, answered } = chosen
      Object.assign(line, { type, order, decimal, unit, answered })
    }
  }
  return lines
}

/** The line of a column: of several of its name, the one at its place. */
function sameColumn(lines: Line[], column: FileColumn): Line | undefined {
  const named = lines.filter((l) => l.column.name === column.name)
  return named.find((l) => l.column.index === column.index) ?? (named.length === 1 ? named[0] : undefined)
}

const uniqueText = (lines: Line[]) => lines.find((l) => l.column.unique && l.type === 'text')

/** The column that a new register's time rail is proposed to go by: a date that every row has, before others. */
export function mainDate(lines: Line[]): Line | undefined {
  const dates = lines.filter((l) => l.taken && isDate(l))
  return dates.find(isFull) ?? dates[0]
}

/** The column that records of a new register are proposed to be named by. */
export function titleOf(lines: Line[]): Line | undefined {
  const taken = lines.filter((l) => l.taken)
  return uniqueText(taken) ?? taken.find((l) => l.type === 'text' && isFull(l)) ?? taken[0]
}

/** The fields of a register that a file can fill. */
export const writableFields = (register?: Register) =>
  register?.fields.filter((f) => f.origin === 'COLUMN') ?? []

/** Gives each column the field of its name; columns without one are not taken. */
export function match(lines: Line[], register: Register): Pick<Target, 'by' | 'known'> {
  const fields = writableFields(register)
  for (const line of lines) {
    const name = folded(line.column.name)
    const found = fields.find((f) => folded(f.key) === name || folded(f.label) === name)
    line.field = found?.key ?? ''
    line.taken = found !== undefined
    if (found) line.type = found.type
  }
  const by = fields.filter((f) => f.identifying && lines.some((l) => l.field === f.key)).map((f) => f.key)
  return { by, known: by.length ? 'UPDATE' : 'ADD' }
}

/** Takes the columns as a kept plan takes them. */
export function follow(lines: Line[], plan: ImportPlan): Pick<Target, 'by' | 'known'> {
  const left = [...plan.columns]
  for (const line of lines) {
    const named = left.filter((c) => c.name === line.column.name)
    const taken = named.find((c) => c.place === line.column.index) ?? named[0]
    if (taken) left.splice(left.indexOf(taken), 1)
    line.taken = taken !== undefined
    if (!taken) continue
    Object.assign(line, {
      field: taken.field ?? '',
      type: taken.type,
      order: taken.order,
      decimal: taken.decimal,
      unit: taken.unit,
      unfit: taken.unfit,
      answered: true,
    })
  }
  return { by: [...plan.by], known: plan.known }
}

/** What keeps the file from being brought in, as a sentence that says what to do; empty when nothing does. */
export function hindrance(lines: Line[], target: Target): string {
  const taken = lines.filter((l) => l.taken)
  if (!taken.length) return 'Take at least one column.'
  const open = taken.find((l) => !l.answered && (isDate(l) || isNumber(l)))
  if (open) return `Say how “${open.column.name}” is to be read: the file itself does not tell.`
  const unitless = taken.find((l) => needsUnit(l) && !l.unit)
  if (unitless)
    return `Say what the numbers of “${unitless.column.name}” are: seconds, minutes, hours or days.`
  if (target.register) {
    if (recognises(target.known) && !target.by.length)
      return 'Choose the fields by which records are recognised.'
    const needed = target.known === 'UPDATE' ? [] : writableFields(target.register).filter((f) => f.required)
    const missing = needed.find((f) => f.type !== 'tags' && !taken.some((l) => l.field === f.key))
    if (missing) return `${missing.label} is needed in every record; choose its column.`
    if (taken.some((l) => !l.field)) return 'Choose a field for each column that is taken.'
    const twice = taken.find((l, i) => taken.findIndex((o) => o.field === l.field) < i)
    if (twice) return `“${twice.column.name}” goes into a field that another column goes into already.`
    if (recognises(target.known) && !target.by.length)
      return 'Choose the fields by which records are recognised.'
    return ''
  }
  if (!target.label.trim()) return 'Give the new register a name.'
  const nameless = taken.find((l) => !l.label.trim())
  if (nameless) return `Say what “${nameless.column.name}” is called.`
  const name = (l: Line) => l.label.trim().toLowerCase()
  const twice = taken.find((l, i) => taken.findIndex((o) => name(o) === name(l)) < i)
  return twice ? `Two columns are called “${twice.label.trim()}”; call one of them something else.` : ''
}

/** The plan by which the file is brought in. */
export function planOf(lines: Line[], target: Target): ImportPlan {
  return {
    columns: lines
      .filter((l) => l.taken)
      .map((l) => ({
        name: l.column.name,
        place: l.column.index,
        field: l.field || null,
        label: l.label.trim(),
        type: l.type,
        order: l.order,
        decimal: l.decimal,
        unit: l.type === 'duration' ? (l.unit ?? null) : null,
        unfit: l.unfit,
        identifying: l.identifying,
        shown: l.shown,
      })),
    by: target.register && recognises(target.known) ? target.by : [],
    known: target.register ? target.known : 'ADD',
    zone: null,
  }
}

/** How a short date of the column reads in either order, for asking which is meant. */
export function example(line: Line, order: 'DAY_FIRST' | 'MONTH_FIRST'): string {
  const words = order === 'DAY_FIRST' ? 'day first' : 'month first'
  const found = line.column.samples
    .map((s) => /^(\d{1,2})[-/. ](\d{1,2})[-/. ](\d{2,4})/.exec(s))
    .find((m) => m && Number(m[1]) <= 12 && Number(m[2]) <= 12 && m[1] !== m[2])
  if (!found) return words
  const [a, b] = [Number(found[1]), Number(found[2])]
  const [day, month] = order === 'DAY_FIRST' ? [a, b] : [b, a]
  return `${words}: ${found[0]} is ${day} ${MONTH_NAMES[month - 1]!.slice(0, 3)}`
}
