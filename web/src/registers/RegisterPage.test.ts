import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { useSession } from '@/people/session'
import { DEFECTS, drawn, field } from '@/testing/page'
import { settled, standIn, type Call } from '@/testing/server'
import RegisterPage from './RegisterPage.vue'

const server = standIn()
const AT = '/api/registers/defects'
const stored = (key: string, type = 'text', more: Record<string, unknown> = {}) =>
  field(key, type, {
    origin: 'COLUMN',
    orderable: true,
    description: '',
    unit: '',
    identifying: false,
    correctable: false,
    relates: [],
    correctors: [],
    ...more,
  })
const REGISTER = {
  ...DEFECTS,
  origin: 'OWN',
  version: 3,
  description: '',
  mainField: null,
  titleField: 'number',
  running: null,
  order: [{ field: 'due', descending: true, emptiesFirst: true }],
  columns: ['number'],
  fields: [stored('number'), stored('due', 'date')],
}

let page: VueWrapper
beforeEach(() => {
  // The page stands in no router's view here, which the router remarks upon.
  vi.spyOn(console, 'warn').mockImplementation(() => {})
  server.on('GET', AT, REGISTER)
  server.on('GET', '/api/registers', [{ key: 'defects', label: 'Defects', origin: 'OWN' }])
  server.on('POST', AT + '/count', { matching: 3, total: 3, exact: true })
  server.on('POST', AT + '/values', { values: [], more: false })
  server.on('POST', AT + '/histogram', { buckets: [], step: 'month', label: 'Due', field: 'due' })
  server.on('GET', '/api/imports', [])
  server.on('GET', '/api/teams', [])
  server.on('GET', '/api/session', {
    person: { id: '2', name: 'ines', fullName: 'Ines', role: 'ADMINISTRATOR' },
    zone: 'UTC',
    windows: [],
  })
  server.on('PUT', AT, (call: Call) => ({
    ...REGISTER,
    ...(call.body as object),
    version: 4,
    order: REGISTER.order,
    fields: REGISTER.fields,
  }))
})
afterEach(() => {
  page.unmount()
  vi.restoreAllMocks()
})

async function open() {
  ;({ page } = await drawn(RegisterPage, {}, '/registers/defects'))
  await useSession().load()
  await settled()
}
const button = (words: string) => page.findAll('button').find((b) => b.text() === words)!
const described = () => page.findAll('textarea')[0]!

const keep = async () => {
  await button('Keep').trigger('click')
  await settled()
  return server.to('PUT', AT).at(-1)!.body as {
    order: string[]
    version: number
    fields: { key: string; description: string }[]
  }
}

describe('a register in the catalogue', () => {
  it('is kept with its order as it was, empties first with it', async () => {
    await open()
    await described().setValue('What it is')
    expect(await keep()).toMatchObject({ order: ['-due:empties-first'], version: 3 })
    expect(page.text()).toContain('Kept. It holds for everybody from now on.')
  })

  it('keeps what is being written when a field is added', async () => {
    const made = { ...REGISTER, version: 4, fields: [...REGISTER.fields, stored('weather')] }
    server.on('POST', AT + '/fields', made)
    await open()
    await described().setValue('What it is')
    await page
      .findAll('button')
      .find((b) => b.text().startsWith('Add a field'))!
      .trigger('click')
    await page.get('.adding select').setValue('text')
    await page.get<HTMLInputElement>('.adding input').setValue('Weather')
    await page.get('.adding').trigger('submit')
    await settled()
    expect(page.text()).toContain('The field is there, empty in every record.')
    const sent = await keep()
    expect(sent.version).toBe(4)
    expect(sent.fields.map((f) => [f.key, f.description])).toEqual([
      ['number', 'What it is'],
      ['due', ''],
      ['weather', ''],
    ])
  })
})
