import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { Session } from '@/api/client'
import { useSession } from '@/people/session'
import { useCatalogue } from '@/registers/catalogue'
import { refusal, settled, standIn } from '@/testing/server'
import { USUAL, useArrangement } from './arrangement'

const server = standIn()
beforeEach(() => {
  setActivePinia(createPinia())
  server.on('PUT', '/api/account/list', undefined)
  useSession().current = { list: USUAL } as Session
  useCatalogue().names = ['defects', 'stays', 'moves'].map((key) => ({ key, label: key })) as never
})
// What was changed is told to the end.
afterEach(settled)
const keys = () => useArrangement().ordered.map((r) => r.key)
const sent = () => server.to('PUT', '/api/account/list').map((c) => c.body)

describe('the list of registers', () => {
  it('is as it comes until somebody arranges it', () => {
    expect(keys()).toEqual(['defects', 'stays', 'moves'])
    expect(useArrangement().isUsual).toBe(true)
  })

  it('is moved one by one, put where another stands, and no further than its ends', async () => {
    const list = useArrangement()
    list.move('moves', -1)
    expect(keys()).toEqual(['defects', 'moves', 'stays'])
    list.move('moves', -5)
    expect(keys()).toEqual(['moves', 'defects', 'stays'])
    list.putAt('moves', 'stays')
    expect(keys()).toEqual(['defects', 'stays', 'moves'])
    list.move('moves', 1)
    await settled()
    expect(sent().at(-1)).toMatchObject({ registers: ['defects', 'stays', 'moves'] })
    list.reset()
    expect(list.isUsual).toBe(true)
  })

  it('has new registers behind those that were placed, and does not mind what is gone', () => {
    useSession().current = { list: { ...USUAL, registers: ['gone', 'moves'] } } as Session
    expect(keys()).toEqual(['moves', 'defects', 'stays'])
  })

  it('leaves out what is hidden, folds and unfolds, and stays within its widths', () => {
    const list = useArrangement()
    list.hide('stays')
    expect(list.listed.map((r) => r.key)).toEqual(['defects', 'moves'])
    list.hide('stays')
    expect(list.listed).toHaveLength(3)
    list.fold('mine')
    expect(list.isFolded('mine')).toBe(true)
    list.widen(9000)
    expect(list.now.width).toBe(480)
    list.widen(3)
    expect(list.now.width).toBe(150)
  })

  it('says what could not be kept, and stays as it was arranged', async () => {
    server.on('PUT', '/api/account/list', refusal(503, 'unavailable', 'Try again in a moment.'))
    const list = useArrangement()
    list.fold('mine')
    await settled()
    expect(list.isFolded('mine')).toBe(true)
    expect(list.trouble).toContain('for now only')
  })

  it('is not kept by whoever looks as somebody else', async () => {
    useSession().current = { list: USUAL, lookedAtBy: 'Ines Marlow' } as Session
    useArrangement().fold('mine')
    await settled()
    expect(sent()).toEqual([])
    expect(useArrangement().isFolded('mine')).toBe(true)
  })
})
