import { flushPromises, type VueWrapper } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Register } from '@/api/client'
import { useSession } from '@/people/session'
import { DEFECTS, drawn, field } from '@/testing/page'
import { settled, standIn } from '@/testing/server'
import CombinePage from './CombinePage.vue'
import RegisterNotes from './RegisterNotes.vue'
import ShapePanel from './ShapePanel.vue'

/** What registers are read from, and what is told when that changes. */
const server = standIn()
const SHAPE = '/api/registers/defects/shape'
const unchanged = {
  broken: false,
  gone: false,
  missing: [],
  retyped: [],
  fresh: [],
  renamed: {},
  values: [],
  gaps: [],
  views: [],
}
const stored = (key: string, type = 'text') => field(key, type, { origin: 'COLUMN' })
const register = (key: string, more: Record<string, unknown> = {}) =>
  ({
    ...DEFECTS,
    key,
    label: key,
    origin: 'ATTACHED',
    capabilities: [],
    members: [],
    gaps: [],
    ...more,
  }) as unknown as Register

let page: VueWrapper
beforeEach(() => {
  vi.spyOn(console, 'warn').mockImplementation(() => {})
  server.on('GET', '/api/session', {
    person: { id: '2', name: 'ines', fullName: 'Ines', role: 'ADMINISTRATOR' },
    zone: 'UTC',
    windows: [],
  })
  server.on('GET', '/api/linked-servers', [])
  server.on('GET', '/api/registers', [])
})
afterEach(() => {
  page.unmount()
  vi.restoreAllMocks()
})

async function open(what: Parameters<typeof drawn>[0], props: Record<string, unknown>, path = '/') {
  ;({ page } = await drawn(what, props, path, {}, () => useSession().load()))
}
const button = (words: string) => page.findAll('button').find((b) => b.text() === words)!

describe('a table that is not what it was', () => {
  it('is taken with the column that has another name, which is proposed where it can only be one', async () => {
    server.on('GET', SHAPE, {
      ...unchanged,
      broken: true,
      missing: ['grade', 'due'],
      fresh: ['severity', 'until', 'since'],
      renamed: { grade: ['severity'], due: ['until', 'since'] },
    })
    await open(ShapePanel, { register: register('defects') })
    const selects = () =>
      page.findAll('select').map((s) => [s.attributes('aria-label'), (s.element as HTMLSelectElement).value])
    expect(selects()).toEqual([
      ['What grade is called now', 'severity'],
      ['What due is called now', ''],
    ])
    await page.findAll('select')[1]!.setValue('since')
    server.on('POST', SHAPE, {})
    await button('Take the table as it is now').trigger('click')
    await flushPromises()
    expect(server.to('POST', SHAPE)[0]!.body).toEqual({ renamed: { grade: 'severity', due: 'since' } })
  })

  it('says which columns may hold new values', async () => {
    server.on('GET', SHAPE, { ...unchanged, values: ['state'] })
    await open(ShapePanel, { register: register('defects') })
    expect(page.text()).toContain('Columns that may hold new values: state.')
  })
})

describe('a combined register', () => {
  const COMBINED = register('both', {
    label: 'Both',
    recordLabel: 'entry',
    recordsLabel: 'entries',
    origin: 'COMBINED',
    version: 4,
    columns: ['name'],
    titleField: 'name',
    mainField: null,
    gaps: ['“Severity” is empty in the records of pumps: the field that it was read from is gone.'],
    members: [
      { key: 'pumps', label: 'Pump', mapping: { name: 'code', severity: 'grade' } },
      { key: 'lamps', label: 'Lamp', mapping: { name: 'number', severity: 'level' } },
    ],
    fields: [field('source', 'choice', { origin: 'MEMBER' }), stored('name'), stored('severity', 'number')],
  })

  it('is read from other fields of the same registers, each field by the key that views know', async () => {
    server.on('GET', '/api/registers/both', COMBINED)
    server.on(
      'GET',
      '/api/registers/pumps',
      register('pumps', { fields: [stored('code'), stored('harm', 'number')] }),
    )
    server.on(
      'GET',
      '/api/registers/lamps',
      register('lamps', { fields: [stored('number'), stored('level', 'number')] }),
    )
    server.on('PUT', '/api/combined/both', COMBINED)
    await open(CombinePage, {}, '/registers/both')
    expect(page.text()).toContain('What Both is read from')
    expect(page.text()).toContain('is empty in the records of pumps')
    const harm = page.find('select[aria-label="Severity from pumps"]')
    expect((harm.element as HTMLSelectElement).selectedIndex).toBe(0)
    await harm.setValue('harm')
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(server.to('PUT', '/api/combined/both')[0]!.body).toMatchObject({
      version: 4,
      members: [{ register: 'pumps' }, { register: 'lamps' }],
      fields: [
        { key: 'name', from: { pumps: 'code', lamps: 'number' }, shown: true },
        { key: 'severity', from: { pumps: 'harm', lamps: 'level' }, shown: false },
      ],
    })
  })
})

describe('what registers need', () => {
  it('is told, and looked at anew when an administrator wants it', async () => {
    const note = { register: 'pumps', label: 'Pumps', code: 'table-gone', foundAt: '2026-11-23T03:00:00Z' }
    server.on('GET', '/api/register-attention', [{ ...note, message: 'The table is gone.' }])
    await open(RegisterNotes, {})
    expect(page.text()).toContain('PumpsThe table is gone.')
    server.on('POST', '/api/view-attention', { views: 24, needing: 1, registers: 2 })
    server.on('GET', '/api/register-attention', [])
    await button('Look now').trigger('click')
    await flushPromises()
    await settled()
    expect(page.text()).toContain('just now: 1 view and 2 registers to be seen to.')
    expect(page.emitted('looked')).toHaveLength(1)
  })
})
