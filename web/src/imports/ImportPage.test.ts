import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { useSession } from '@/people/session'
import { DEFECTS, drawn, field } from '@/testing/page'
import { StandInRequest } from '@/testing/request'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import ImportPage from './ImportPage.vue'

const server = standIn()
const column = (index: number, name: string, type = 'TEXT', more: Record<string, unknown> = {}) => ({
  index,
  name,
  rows: 3,
  filled: 3,
  unique: index === 0,
  samples: ['one', 'two'],
  known: [],
  formulas: 0,
  formulaLines: [],
  guess: { type, ask: false, evidence: `3 of 3 read as ${type}`, odd: [], order: null, decimal: null },
  ...more,
})
const LOOK = {
  token: 't-1',
  name: 'harbour_dues.csv',
  rows: 3,
  spreadsheet: false,
  encoding: 'UTF-8',
  encodings: ['UTF-8', 'windows-1252'],
  encodingSure: true,
  delimiter: ';',
  sheets: [],
  sheet: null,
  namesAt: 2,
  before: [{ line: 1, cells: ['Dues of November', ''] }],
  columns: [column(0, 'number'), column(1, 'due', 'DATE'), column(2, 'note')],
  preview: [
    ['D-1', '2026-11-02', 'first'],
    ['D-2', '2026-11-03', ''],
    ['D-3', '2026-11-04', 'third'],
  ],
}
const REGISTER = {
  ...DEFECTS,
  titleField: 'number',
  fields: [
    field('number', 'text', { origin: 'COLUMN', required: true, identifying: true }),
    field('due', 'date', { origin: 'COLUMN' }),
  ],
}
const RUN = { id: '9', state: 'RUNNING', rows: 3, done: 1, register: 'defects', file: 'harbour_dues.csv' }

let page: VueWrapper
let begun: Call[]
beforeEach(() => {
  vi.spyOn(console, 'warn').mockImplementation(() => {})
  vi.stubGlobal('XMLHttpRequest', StandInRequest)
  begun = []
  server.on('GET', '/api/session', {
    person: { id: '2', name: 'ines', fullName: 'Ines', role: 'ADMINISTRATOR' },
    zone: 'UTC',
    now: '2026-11-23T09:00:00Z',
    windows: [],
  })
  server.on('GET', '/api/registers', [
    { key: 'defects', label: 'Defects', origin: 'OWN', capabilities: ['records'] },
    { key: 'linked', label: 'Elsewhere', origin: 'LINKED', capabilities: [] },
  ])
  server.on('GET', '/api/registers/defects', REGISTER)
  server.on('GET', '/api/registers/defects/import-plans', [])
  server.on('POST', '/api/registers/defects/count', { matching: 12, total: 12, exact: true })
  server.on('GET', '/api/imports', [])
  server.on('POST', '/api/files/t-1/import', (call: Call) => {
    begun.push(call)
    return RUN
  })
  server.on('GET', '/api/imports/9', RUN)
})
afterEach(() => {
  page.unmount()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

async function open(more: Record<string, unknown> = {}, path = '/catalogue/import') {
  ;({ page } = await drawn(ImportPage, {}, path, {}, () => useSession().load()))
  const box = page.find('input[type=file]')
  Object.defineProperty(box.element, 'files', { value: [new File(['x'], 'harbour_dues.csv')] })
  await box.trigger('change')
  StandInRequest.last.answer(201, { ...LOOK, ...more })
  await settled()
}
const button = (words: string) => page.findAll('button').find((b) => b.text() === words)!
const select = (label: string) =>
  page
    .findAll('label')
    .find((l) => l.text().startsWith(label))!
    .find('select')
const choose = async (label: string, value: string) => {
  await select(label).setValue(value)
  await settled()
}
const options = (label: string) =>
  select(label)
    .findAll('option')
    .map((o) => o.text())

describe('a file to be imported', () => {
  it('says what it is, what was left out, and what its first rows hold', async () => {
    await open()
    expect(page.find('h2').text()).toBe('harbour_dues.csv: 3 rows')
    // The keys go on where there is something to read.
    expect(document.activeElement).toBe(page.find('h2').element)
    expect(page.text()).toContain('line 1 Dues of November')
    expect(page.findAll('.rows tbody tr').map((r) => r.findAll('td').map((d) => d.text()))).toEqual(
      LOOK.preview,
    )
    expect(select('Delimiter').element.value).toBe(';')
    expect(options('The names of the columns are')).toEqual([
      'in line 1',
      'in line 2',
      'in line 3',
      'nowhere in the file',
    ])
  })

  it('goes into a new register that is named after it', async () => {
    await open()
    expect(page.find<HTMLInputElement>('input[name=label]').element.value).toBe('Harbour dues')
    expect(options('Main date')).toEqual(['none', 'Due'])
    await page.find('input[name=recordLabel]').setValue('due')
    await choose('Records are named by', '2')
    await button('Import 3 rows').trigger('click')
    await settled()
    expect(begun[0]!.body).toMatchObject({
      reading: { encoding: 'UTF-8', delimiter: ';', namesAt: 2 },
      into: { label: 'Harbour dues', recordLabel: 'due', mainField: 'Due', titleField: 'Note' },
      keepAs: null,
    })
  })

  it('cannot have a date that is not taken as its main date', async () => {
    await open()
    await page.find('input[aria-label="Take due"]').setValue(false)
    expect(options('Main date')).toEqual(['none'])
    await button('Import 3 rows').trigger('click')
    await settled()
    expect((begun[0]!.body as { into: object }).into).toMatchObject({ mainField: null })
  })

  it('is read in another way, and keeps what was said of its columns', async () => {
    await open({ encodingSure: false })
    expect(page.text()).toContain('Look at names with accents below.')
    server.on('POST', '/api/files/*/look', (call: Call) => ({ ...LOOK, ...(call.body as object), rows: 4 }))
    server.on('GET', '/api/files/*', { share: 0.5 })
    await page.find('input[aria-label="Take note"]').setValue(false)
    await choose('Encoding', 'windows-1252')
    expect(server.calls.find((c) => c.path.endsWith('/look'))!.body).toMatchObject({
      encoding: 'windows-1252',
      delimiter: ';',
      namesAt: 2,
    })
    expect(page.find('h2').text()).toBe('harbour_dues.csv: 4 rows')
    expect(page.find<HTMLInputElement>('input[aria-label="Take note"]').element.checked).toBe(false)
  })

  it('goes into a register that is there, by fields that recognise a record', async () => {
    await open()
    // Only registers whose records are our own take any.
    expect(options('Into')).toEqual(['a new register', 'Defects'])
    await choose('Into', 'defects')
    expect(page.find<HTMLSelectElement>('select[aria-label="Field for due"]').element.value).toBe('due')
    // A column that goes nowhere is not taken, or says so.
    await page.find('input[aria-label="Take note"]').setValue(false)
    await page.find('input[name=keepAs]').setValue('Monthly')
    await settled()
    await button('Import 3 rows').trigger('click')
    await settled()
    expect(begun[0]!.body).toMatchObject({
      into: { register: 'defects' },
      plan: { by: ['number'], known: 'UPDATE' },
      keepAs: 'Monthly',
    })
    expect(page.text()).not.toContain('The new register')
  })

  it('replaces all records only once it is said how many go', async () => {
    await open()
    await choose('Into', 'defects')
    await page.find('input[aria-label="Take note"]').setValue(false)
    await page.find('select[aria-label="What becomes of records that are there"]').setValue('REPLACE')
    await settled()
    await button('Import 3 rows').trigger('click')
    await settled()
    expect(begun).toEqual([])
    const dialog = document.querySelector('.el-dialog')!
    expect(dialog.textContent).toContain('Replace the records of Defects?')
    const replace = [...dialog.querySelectorAll('button')].find((b) => b.textContent?.includes('Replace'))!
    replace.click()
    await settled()
    expect(begun[0]!.body).toMatchObject({ plan: { known: 'REPLACE' } })
  })

  it('says why it cannot be imported yet', async () => {
    await open()
    await page.find('input[name=label]').setValue('')
    await settled()
    expect(button('Import 3 rows').attributes('disabled')).toBeDefined()
    expect(page.find('.acts .small').text()).not.toBe('')
  })

  it('stays as it was described when the import is refused', async () => {
    await open()
    server.on('POST', '/api/files/t-1/import', () =>
      refusal(422, 'name-taken', 'There is a register “Harbour dues” already.', { at: 'label' }),
    )
    await button('Import 3 rows').trigger('click')
    await settled()
    expect(page.find('[role=alert]').text()).toContain('There is a register')
    expect(page.find('input[name=label]').attributes('aria-invalid')).toBe('true')
    expect(page.find('h2').text()).toBe('harbour_dues.csv: 3 rows')
  })

  it('that cannot be read says so, and another one can be sent', async () => {
    ;({ page } = await drawn(ImportPage, {}, '/catalogue/import', {}, () => useSession().load()))
    const box = page.find('input[type=file]')
    Object.defineProperty(box.element, 'files', { value: [new File(['x'], 'a.pdf')] })
    await box.trigger('change')
    StandInRequest.last.answer(422, { code: 'unreadable', detail: 'This is neither CSV nor XLSX.' })
    await settled()
    expect(page.find('[role=alert]').text()).toBe('This is neither CSV nor XLSX.')
    expect(page.find('input[type=file]').exists()).toBe(true)
  })
})
