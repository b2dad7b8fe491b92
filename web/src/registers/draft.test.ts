import { describe, expect, it } from 'vitest'
import type { Band, Register } from '@/api/client'
import { DEFECTS, field } from '@/testing/page'
import { fieldDraft, named, namesDraft, rebanded, recalculated, writtenField, writtenRegister } from './draft'

const band = (name: string, bands: Band[] = []): Band => ({
  name,
  extents: [{ from: 1, to: 3, values: ['a'] } as unknown as Band['extents'][number]],
  bands,
})
const AMOUNT = field('amount', 'money', {
  description: 'What it comes to',
  unit: 'EUR',
  identifying: false,
  correctable: true,
  correctors: ['3'],
  options: [],
  bands: [band('Small', [band('Tiny')])],
  relates: [{ register: 'berths', field: 'number' }],
})
const TWICE = field('twice', 'money', {
  relates: [],
  correctors: [],
  calculation: { words: 'amount * 2', fields: ['amount'] },
})
const REGISTER = {
  ...DEFECTS,
  recordsLabel: 'defects',
  description: '',
  mainField: null,
  running: null,
  titleField: 'amount',
  order: [{ field: 'amount', descending: true, emptiesFirst: false }],
  columns: ['amount'],
  fields: [AMOUNT, TWICE],
} as unknown as Register

describe('a register that is being written about', () => {
  const drafts = () => REGISTER.fields.map((f) => fieldDraft(f, REGISTER))

  it('is given back as it came, where nothing is changed', () => {
    const written = writtenRegister(namesDraft(REGISTER), drafts())
    expect(written).toMatchObject({
      label: REGISTER.label,
      mainField: null,
      running: null,
      titleField: 'amount',
      order: ['-amount'],
    })
    expect(written.fields[0]).toMatchObject({
      key: 'amount',
      shown: true,
      correctors: ['3'],
      relates: [{ register: 'berths', field: 'number' }],
      calculation: null,
    })
    expect(written.fields[1]).toMatchObject({ shown: false, calculation: 'amount * 2' })
  })

  it('leaves the register itself as it is while it is written', () => {
    const [amount] = drafts()
    amount!.bands[0]!.extents[0]!.values!.push('b')
    amount!.relates[0]!.field = 'label'
    amount!.correctors.push('4')
    const names = namesDraft(REGISTER)
    names.order[0]!.descending = false
    expect((AMOUNT.bands as Band[])[0]!.extents[0]!.values).toEqual(['a'])
    expect(REGISTER.fields[0]!.relates[0]!.field).toBe('number')
    expect(REGISTER.fields[0]!.correctors).toEqual(['3'])
    expect(REGISTER.order[0]!.descending).toBe(true)
  })

  it('is sent without lines that say nothing', () => {
    const [amount] = drafts()
    amount!.options = ' one \n\n  two\n'
    amount!.relates.push({ register: 'stores', field: '' }, { register: '', field: '' })
    amount!.correctable = false
    expect(writtenField(amount!)).toMatchObject({
      options: ['one', 'two'],
      relates: [{ register: 'berths', field: 'number' }],
      // Whoever may correct what nobody corrects is nobody.
      correctors: [],
    })
  })

  it('knows which bands and calculations are others than they were', () => {
    const all = drafts()
    expect(rebanded(all)).toEqual([])
    expect(recalculated(all)).toEqual([])
    all[0]!.bands[0]!.bands[0]!.name = 'Least'
    all[1]!.calculation = 'amount * 3'
    expect(rebanded(all).map((d) => d.key)).toEqual(['amount'])
    expect(recalculated(all).map((d) => d.key)).toEqual(['twice'])
    // What is cleared is refused when it is saved, and is no other calculation.
    all[1]!.calculation = ''
    expect(recalculated(all)).toEqual([])
  })

  it('keeps the name that each band had', () => {
    const [small] = named([band('Small', [band('Tiny')])])
    expect(small).toMatchObject({ was: 'Small', bands: [{ was: 'Tiny' }] })
  })
})
