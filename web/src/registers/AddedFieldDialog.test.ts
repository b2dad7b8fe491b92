import { afterEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import type { Register } from '@/api/client'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import { addedIn, addedTo, keyWith, plainKey, recordsOf } from './added'
import AddedFieldDialog from './AddedFieldDialog.vue'

const server = standIn()
const WORSE = field('_worse', 'number', { label: 'Worse', calculation: { words: 'severity + 1' } })
const WITH = {
  ...DEFECTS,
  key: 'defects~0a1b',
  added: ['_worse'],
  fields: [...DEFECTS.fields, WORSE],
} as unknown as Register
let page: VueWrapper
afterEach(() => page?.unmount())

async function open(register: Register, more: Record<string, unknown> = {}) {
  const tried = {
    calculation: 'x',
    type: 'number',
    changes: false,
    fields: [],
    column: 'x',
    samples: [],
    empty: true,
  }
  server.on('POST', `/api/registers/${register.key}/calculations/try`, tried)
  ;({ page } = await drawn(AddedFieldDialog, {
    modelValue: false,
    register,
    criteria: 0,
    ofView: false,
    ...more,
  }))
  await page.setProps({ modelValue: true })
  await settled()
}
const button = (words: string) =>
  [...document.querySelectorAll('button')].find((b) => b.textContent!.trim() === words)
const submit = async () => {
  document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
  await settled()
}
const body = (key: string) => server.to('POST', `/api/registers/${key}/added-fields`)[0]!.body

describe('the key of a register with added fields', () => {
  it('is taken apart and put together', () => {
    expect(['defects', 'defects~0a1b'].map(plainKey)).toEqual(['defects', 'defects'])
    expect(['defects', 'defects~0a1b'].map(addedIn)).toEqual(['', '0a1b'])
    expect([keyWith('defects', ''), keyWith('defects', '0a1b')]).toEqual(['defects', 'defects~0a1b'])
    expect(recordsOf('defects', 'a & b')).toBe('/registers/defects?where=a+%26+b')
    expect(recordsOf('defects~0a1b', '')).toBe('/registers/defects?with=0a1b&where=')
    expect(addedTo(WITH)).toEqual([{ key: '_worse', label: 'Worse', calculation: 'severity + 1' }])
  })
})

describe('a field that is calculated for one question', () => {
  it('is changed under its key, beside the others', async () => {
    server.on('POST', '/api/registers/defects~0a1b/added-fields', { ...WITH, key: 'defects~2c' })
    await open(WITH, { field: '_worse', ofView: true })
    expect(document.body.textContent).toContain('For this view alone')
    const name = document.querySelector<HTMLInputElement>('input[name=label]')!
    expect(name.value).toBe('Worse')
    name.value = 'Even worse'
    name.dispatchEvent(new Event('input'))
    await submit()
    expect(body('defects~0a1b')).toEqual({
      fields: [{ key: '_worse', label: 'Even worse', calculation: 'severity + 1' }],
    })
    expect(page.emitted('added')![0]).toEqual([expect.objectContaining({ key: 'defects~2c' }), '_worse'])
    expect(page.emitted('update:modelValue')).toEqual([[false]])
  })

  it('is taken away, unless criteria are on it', async () => {
    server.on('POST', '/api/registers/defects~0a1b/added-fields', DEFECTS)
    await open(WITH, { field: '_worse', criteria: 2 })
    expect(document.body.textContent).toContain('2 criteria are on it')
    expect(button('Remove the field')!.disabled).toBe(true)
    await page.setProps({ criteria: 0 })
    button('Remove the field')!.click()
    await settled()
    expect(body('defects~0a1b')).toEqual({ fields: [] })
    expect(page.emitted('removed')).toHaveLength(1)
  })

  it('says why it cannot be, and keeps what was typed', async () => {
    server.on(
      'POST',
      '/api/registers/defects~0a1b/added-fields',
      refusal(422, 'label-taken', 'There is a field “Number” already.'),
    )
    await open(WITH, { field: '_worse' })
    const name = document.querySelector<HTMLInputElement>('input[name=label]')!
    name.value = 'Number'
    name.dispatchEvent(new Event('input'))
    await submit()
    expect(document.body.textContent).toContain('There is a field “Number” already.')
    expect(name.value).toBe('Number')
    expect(page.emitted('added')).toBeUndefined()
  })

  it('cannot be added without a calculation', async () => {
    await open(DEFECTS)
    expect(button('Add the field')!.disabled).toBe(true)
    expect(button('Remove the field')).toBeUndefined()
  })
})
