import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'
import { refusal, settled, standIn } from '@/testing/server'
import { useCatalogue } from './catalogue'

const server = standIn()
const REGISTERS = '/api/registers'

beforeEach(() => {
  setActivePinia(createPinia())
  server.on('GET', REGISTERS, [
    { key: 'defects', label: 'Defects' },
    { key: 'dues', label: 'Dues' },
  ])
  server.on('POST', '/api/registers/defects/count', { matching: 3, total: 24000, exact: true })
  server.on('POST', '/api/registers/dues/count', refusal(504, 'too-slow', 'That took too long.'))
  server.on('GET', '/api/registers/defects', { key: 'defects', label: 'Defects', fields: [] })
})

describe('the catalogue', () => {
  it('is there before its records are counted, and without a count that cannot be had', async () => {
    const catalogue = useCatalogue()
    server.hold('/api/registers/defects/count')
    await catalogue.load()
    await catalogue.whenLoaded()
    expect(catalogue.names.map((n) => n.key)).toEqual(['defects', 'dues'])
    expect(catalogue.totals).toEqual({})
    server.letGo()
    await settled()
    expect(catalogue.totals).toEqual({ defects: 24000 })
  })

  it('is asked for once by all who want it at the same time', async () => {
    const catalogue = useCatalogue()
    await Promise.all([catalogue.load(), catalogue.load()])
    expect(server.to('GET', REGISTERS)).toHaveLength(1)
  })

  it('is asked for anew after something was made, and an older answer does not take its place', async () => {
    const catalogue = useCatalogue()
    server.hold(REGISTERS)
    const older = catalogue.load()
    await settled()
    catalogue.forget()
    server.on('GET', REGISTERS, [{ key: 'fresh', label: 'Fresh' }])
    const newer = catalogue.load()
    await settled()
    server.letGo()
    await Promise.all([older, newer])
    expect(catalogue.names.map((n) => n.key)).toEqual(['fresh'])
  })

  it('describes a register once, again after it was changed, and after it could not be had', async () => {
    const catalogue = useCatalogue()
    await Promise.all([catalogue.describe('defects'), catalogue.describe('defects')])
    expect(server.to('GET', '/api/registers/defects')).toHaveLength(1)
    catalogue.forget()
    server.on('GET', '/api/registers/defects', refusal(503, 'unavailable', 'Not now.'))
    await expect(catalogue.describe('defects')).rejects.toThrow('Not now.')
    server.on('GET', '/api/registers/defects', { key: 'defects', label: 'Faults', fields: [] })
    expect((await catalogue.describe('defects')).label).toBe('Faults')
  })

  it('is forgotten with all its fields when somebody else may sign in', async () => {
    const catalogue = useCatalogue()
    await catalogue.load()
    await catalogue.describe('defects')
    await settled()
    catalogue.clear()
    expect([catalogue.names, catalogue.totals]).toEqual([[], {}])
    let loaded = false
    void catalogue.whenLoaded().then(() => (loaded = true))
    await catalogue.describe('defects')
    expect(server.to('GET', '/api/registers/defects')).toHaveLength(2)
    expect(loaded).toBe(false)
    await catalogue.load()
    await settled()
    expect(loaded).toBe(true)
  })

  it('counts no register that is not there any more', async () => {
    const catalogue = useCatalogue()
    await catalogue.recount(['gone'])
    expect(server.calls).toHaveLength(0)
  })
})
