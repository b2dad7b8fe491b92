import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { useSession } from '@/people/session'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import CalculationEditor from './CalculationEditor.vue'
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
  capabilities: ['records', 'fields', 'trail', 'counts', 'indexes', 'guarded'],
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
  server.on('GET', AT + '/removed-fields', [])
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
  await button('Save').trigger('click')
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
    expect(page.text()).toContain('Saved. It holds for everybody from now on.')
  })

  it('removes a field once what rests on it was read, and restores it', async () => {
    const without = { ...REGISTER, version: 4, fields: REGISTER.fields.slice(1) }
    const gone = { key: 'number', label: 'Number', type: 'text' }
    const reliance = { readers: [], pinnedBy: 0, beginningOf: [], listOf: [], refinedBy: 0 }
    server.on('GET', AT + '/fields/number/use', {
      values: 24,
      needed: [],
      views: [
        {
          view: '7',
          name: 'Old ones',
          owner: { fullName: 'Asta Quill' },
          reliance,
          criteria: ['number is “D-1”'],
        },
      ],
    })
    server.on('DELETE', AT + '/fields/number', without)
    await open()
    await button('Remove…').trigger('click')
    await settled()
    const dialog = () => document.querySelector('.el-dialog')!
    expect(dialog().textContent).toContain('What 24 records have in it is kept')
    expect(dialog().textContent).toContain('The view shows nothing until somebody changes it')
    server.on('GET', AT + '/removed-fields', [gone])
    ;[...dialog().querySelectorAll('button')]
      .find((b) => b.textContent?.trim() === 'Remove the field')!
      .click()
    await settled()
    expect(server.to('DELETE', AT + '/fields/number')[0]!.query.get('version')).toBe('3')
    expect(page.text()).toContain('Number is removed. It can be restored below.')
    expect(page.get('.removed').text()).toContain('Number')
    server.on('POST', AT + '/removed-fields/number', { ...REGISTER, version: 5 })
    server.on('GET', AT + '/removed-fields', [])
    await button('Restore').trigger('click')
    await settled()
    expect(page.text()).toContain('Number is restored, as the last field.')
    expect(page.find('.removed').exists()).toBe(false)
  })

  it('changes the type of a field once it is said what becomes of its values', async () => {
    const at = AT + '/fields/number/type'
    const preview = (more: object) => ({
      values: 30,
      unread: 0,
      different: 3,
      read: [{ was: '4.50', becomes: 4.5, reason: '', records: 20 }],
      odd: [],
      order: null,
      decimal: 'POINT',
      ask: false,
      needed: [],
      follows: ['Its bands do not fit a number field and go: Heavy.'],
      ...more,
    })
    server.on('POST', at + '/preview', (call: Call) =>
      preview(
        (call.body as { decimal: string | null }).decimal
          ? {}
          : {
              ask: true,
              unread: 1,
              odd: [{ was: 'about 7', reason: 'Number: “about 7” does not read as a number.', records: 1 }],
            },
      ),
    )
    server.on('GET', at + '/views', [
      {
        view: '9',
        name: 'Sevens',
        owner: { id: '1', name: 'asta', fullName: 'Asta Quill' },
        criteria: ['number contains “7”'],
        reliance: { readers: [], pinnedBy: 0, listOf: [], beginningOf: [], refinedBy: 0 },
      },
    ])
    await open()
    await button('Change type…').trigger('click')
    await settled()
    const dialog = () => document.querySelector<HTMLElement>('.el-dialog:has(select)')!
    const act = (words: string) =>
      [...dialog().querySelectorAll('button')].find((b) => b.textContent!.trim() === words)!
    const select = dialog().querySelector('select')!
    expect([...select.options].map((o) => o.text)).not.toContain('text')
    select.value = 'number'
    select.dispatchEvent(new Event('change'))
    await settled()
    expect(dialog().textContent).toContain('1 record has one that does not, and would be without.')
    expect(dialog().textContent).toContain('Nothing in its values says how they are written:')
    expect(dialog().textContent).toContain('This does not fit number.')
    expect(dialog().textContent).toContain('Heavy')
    expect(act('Change the type').disabled).toBe(true)
    act('decimals behind a comma').click()
    await settled()
    expect(server.to('POST', at + '/preview').at(-1)!.body).toMatchObject({ decimal: 'COMMA' })
    expect(dialog().textContent).toContain('All 30 values fit the type number.')
    server.on('PUT', at, { former: 'Number (as text)' })
    server.on('GET', AT, {
      ...REGISTER,
      version: 4,
      fields: [stored('number', 'number'), REGISTER.fields[1]],
    })
    act('Change the type').click()
    await settled()
    expect(server.to('PUT', at).at(-1)!.body).toEqual({
      wanted: { type: 'number', order: null, decimal: 'POINT', unit: null },
      unread: 0,
      version: 3,
    })
    expect(page.text()).toContain('Number is now number. Its former values are below, as “Number (as text)”.')
  })

  it('does not remove a field that something rests on, and loses nothing that was written', async () => {
    server.on('GET', AT + '/fields/number/use', {
      values: null,
      needed: ['It names a record to people. Choose another field for that first.'],
      views: [],
    })
    await open()
    await button('Remove…').trigger('click')
    await settled()
    const remove = [...document.querySelectorAll('button')].find(
      (b) => b.textContent?.trim() === 'Remove the field',
    )!
    expect(remove.disabled).toBe(true)
    expect(document.querySelector('.el-dialog')!.textContent).toContain('It names a record to people.')
    await described().setValue('What it is')
    await button('Remove…').trigger('click')
    await settled()
    expect(page.get('[role=alert]').text()).toContain('Save what you have changed first')
    expect(described().element.value).toBe('What it is')
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

describe('bands', () => {
  const LENGTH = stored('length', 'number', {
    bands: [
      { name: 'Long', extents: [{ low: 5, lowBelongs: true, high: null, highBelongs: false }], bands: [] },
    ],
  })
  const moves = { enter: 4, leave: 1, both: 9 }
  const reliance = { readers: [], pinnedBy: 0, beginningOf: [], listOf: [], refinedBy: 0 }
  const rests = {
    views: [
      {
        view: '7',
        name: 'Long ones',
        owner: { id: '3', name: 'bram', fullName: 'Bram Oake' },
        reliance,
        criteria: ['length is in the band “Long”'],
        shown: true,
        refinements: 2,
        moves,
        breaks: null,
      },
    ],
    limits: [] as unknown[],
  }
  beforeEach(() => {
    server.on('GET', AT, { ...REGISTER, fields: [stored('number'), LENGTH] })
    server.on('POST', AT + '/distribution', { stretches: [], empty: 0 })
  })
  async function rename(to: string) {
    await open()
    await page
      .findAll('button')
      .find((b) => b.text().startsWith('Length'))!
      .trigger('click')
    await settled()
    await page.find('input[aria-label="Name of band 1"]').setValue(to)
  }
  const bodyText = () => document.body.textContent ?? ''
  const inDialog = (words: string) =>
    [...document.querySelectorAll('button')].find((b) => b.textContent?.trim() === words)!

  it('that others rest on are changed only after it is said what that does', async () => {
    server.on('POST', AT + '/bands/review', rests)
    await rename('Lengthy')
    await button('Save').trigger('click')
    await settled()
    expect(server.to('PUT', AT)).toHaveLength(0)
    const asked = server.to('POST', AT + '/bands/review')[0]!.body as Record<string, unknown>
    expect(asked).toMatchObject({ fields: { length: [{ name: 'Lengthy', was: 'Long' }] } })
    expect(bodyText()).toContain('length is in the band “Long”')
    expect(bodyText()).toContain('10 records become 13: 4 come in, 1 goes.')
    expect(bodyText()).toContain('2 readers have a refinement')
    inDialog('Change it for everyone').click()
    await settled()
    const kept = server.to('PUT', AT)[0]!.body as { fields: { bands: unknown[] }[] }
    expect(kept.fields[1]!.bands).toMatchObject([{ name: 'Lengthy', was: 'Long' }])
  })

  it('that limit what people see cannot be taken away', async () => {
    server.on('POST', AT + '/bands/review', {
      views: [],
      limits: [
        { team: 'Berths', criteria: ['length is in the band “Long”'], moves: null, breaks: 'No band.' },
      ],
    })
    await rename('Lengthy')
    await button('Save').trigger('click')
    await settled()
    expect(bodyText()).toContain('What Berths may see')
    expect(inDialog('Change it for everyone').disabled).toBe(true)
    expect(server.to('PUT', AT)).toHaveLength(0)
  })

  it('and calculations that change are reviewed together', async () => {
    const twice = stored('twice', 'number', { calculation: { words: 'length * 2' }, origin: 'CALCULATED' })
    server.on('GET', AT, { ...REGISTER, fields: [stored('number'), LENGTH, twice] })
    server.on('GET', AT + '/fields/twice/use', { values: null, needed: [], views: [] })
    server.on('POST', AT + '/calculations/try', refusal(422, 'unreadable', 'Not now.'))
    server.on('POST', AT + '/calculations/review', [
      { ...rests.views[0], criteria: ['twice is more than 4'], shown: true, refinements: 0 },
    ])
    await open()
    await page
      .findAll('button')
      .find((b) => b.text().startsWith('Twice'))!
      .trigger('click')
    await settled()
    page.findComponent(CalculationEditor).vm.$emit('update:modelValue', 'length * 3')
    await settled()
    await button('Save').trigger('click')
    await settled()
    expect(server.to('POST', AT + '/bands/review')).toHaveLength(0)
    expect(server.to('POST', AT + '/calculations/review')[0]!.body).toEqual({
      calculations: { twice: 'length * 3' },
    })
    expect(bodyText()).toContain('twice is more than 4')
    expect(bodyText()).toContain('10 records become 13: 4 come in, 1 goes.')
    expect(bodyText()).toContain('It shows what comes out.')
    expect(server.to('PUT', AT)).toHaveLength(0)
    inDialog('Change it for everyone').click()
    await settled()
    expect(server.to('PUT', AT)).toHaveLength(1)
  })

  it('that nobody rests on are kept at once', async () => {
    server.on('POST', AT + '/bands/review', { views: [], limits: [] })
    await rename('Lengthy')
    await keep()
    expect(server.to('PUT', AT)).toHaveLength(1)
  })
})
