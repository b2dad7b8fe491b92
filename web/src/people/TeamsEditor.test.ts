import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import type { TeamEntry } from '@/api/client'
import { drawn, viewOf } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import { useViews } from '@/views/store'
import { useSession } from './session'
import TeamsEditor from './TeamsEditor.vue'

const server = standIn()
const TEAM = { id: '3', name: 'Quay crews', members: ['2'], version: 5 } as unknown as TeamEntry
const PEOPLE = [
  { id: '2', name: 'ines', fullName: 'Ines Marlow', active: true, teams: [] },
  { id: '4', name: 'bram', fullName: 'Bram Oake', active: true, teams: [] },
]
const everyone = (id: string) => viewOf(id, { shares: [{ label: 'Everyone', may: 'LOOK' }] as never })

let page: VueWrapper
beforeEach(() => {
  server.on('GET', '/api/team-lists', [
    { team: '3', name: 'Quay crews', views: [{ id: '7', name: 'View 7' }] },
  ])
  server.on('PUT', '/api/teams/3', undefined)
  server.on('PUT', '/api/team-lists/3', undefined)
  server.on('GET', '/api/session', {
    person: { id: '2', name: 'ines', fullName: 'Ines Marlow', role: 'ADMINISTRATOR' },
    zone: 'UTC',
    windows: [],
  })
})
afterEach(() => page.unmount())

async function open() {
  ;({ page } = await drawn(TeamsEditor, { people: PEOPLE, teams: [TEAM] }))
  await useSession().load()
  useViews().all = [everyone('7'), everyone('8')]
  await settled()
}
const button = (words: string) => page.findAll('button').find((b) => b.text() === words)!
const sent = (path: string) => server.to('PUT', path).map((c) => c.body)

describe('a team', () => {
  it('is kept by its new name with its members, and its list is left alone', async () => {
    await open()
    await button('Quay crews').trigger('click')
    await settled()
    await page.get<HTMLInputElement>('.panel input.field').setValue('Crews')
    await button('Save').trigger('submit')
    await settled()
    expect(sent('/api/teams/3')).toEqual([{ version: 5, name: 'Crews', members: ['2'] }])
    expect(sent('/api/team-lists/3')).toEqual([])
    expect(page.text()).toContain('Crews is kept.')
  })

  it('that is opened before its list is known does not lose it', async () => {
    server.hold('/api/team-lists')
    await open()
    await button('Quay crews').trigger('click')
    await settled()
    expect(page.find('.panel input.field').exists()).toBe(false)
    server.letGo()
    await settled()
    await button('Save').trigger('submit')
    await settled()
    expect(sent('/api/team-lists/3')).toEqual([])
  })

  it('whose list could not be had keeps it as it is', async () => {
    server.on('GET', '/api/team-lists', refusal(503, 'unavailable', 'Not now.'))
    await open()
    expect(page.text()).toContain('Not now.')
    await button('Quay crews').trigger('click')
    await settled()
    await button('Save').trigger('submit')
    await settled()
    expect(sent('/api/team-lists/3')).toEqual([])
  })

  it('tells that it changed before its list is refused, so that it can be mended', async () => {
    server.on('PUT', '/api/team-lists/3', refusal(422, 'not-shared', 'View 8 is not shared with the team.'))
    await open()
    await button('Quay crews').trigger('click')
    await settled()
    await page.get<HTMLInputElement>('.panel input.field').setValue('Crews')
    page.findAllComponents({ name: 'ElSelect' })[1]!.vm.$emit('update:modelValue', [7, 8])
    await settled()
    await button('Save').trigger('submit')
    await settled()
    expect(sent('/api/team-lists/3')).toEqual([{ views: [7, 8] }])
    expect(page.get('[role="alert"]').text()).toContain('View 8 is not shared with the team.')
    expect(page.emitted('changed')).toHaveLength(1)
  })
})
