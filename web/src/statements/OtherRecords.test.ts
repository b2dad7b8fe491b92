import { afterEach, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { computed, ref } from 'vue'
import { DESK, type Desk } from './desk'
import CriterionEditor from './CriterionEditor.vue'
import { built, draftOf } from './criterion'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import type { Node } from './tree'

const server = standIn()
let page: VueWrapper
afterEach(() => page.unmount())

let made = 0
const registerOf = () => ({
  ...DEFECTS,
  key: `defects${made++}`,
  fields: [field('order'), field('title')],
})
const WHERE = { field: 'site', test: 'is', value: 'North' }

async function at(register: ReturnType<typeof registerOf>, node?: Node, about?: string) {
  server.on('GET', `/api/registers/${register.key}/places`, [
    { field: 'order', register: 'stays', label: 'Stays', records: 'stays', there: 'number' },
    { field: 'order', register: 'moves', label: 'Moves', records: 'moves', there: 'order' },
  ])
  const desk = {
    register: computed(() => register),
    asOf: ref(undefined),
    zone: ref('UTC'),
  } as unknown as Desk
  ;({ page } = await drawn(CriterionEditor, { node, about }, '/', { [DESK as symbol]: desk }))
  await settled()
}
const tests = () => page.findAll('[data-test]').map((t) => t.text())
const button = (words: string) => page.findAll('button').find((b) => b.text() === words)!

it('is offered for a field whose values others have, and begins with all of them', async () => {
  await at(registerOf(), undefined, 'title')
  expect(tests()).not.toContain('is that of')
  page.unmount()
  await at(registerOf(), undefined, 'order')
  expect(tests()).toContain('is that of')
  await page.get('[data-test="not in"]').trigger('click')
  await settled()
  expect(page.get<HTMLSelectElement>('[aria-label="Register"]').element.value).toBe('stays')
  await button('Apply').trigger('click')
  await settled()
  expect(page.emitted('apply')).toEqual([[{ field: 'order', test: 'not in', register: 'stays' }]])
})

it('says in words what is asked of them, and keeps it', async () => {
  server.on('POST', '/api/registers/stays/statement', { statement: 'site is "North"', condition: WHERE })
  await at(registerOf(), { field: 'order', test: 'in', register: 'stays', where: WHERE })
  await settled()
  expect(server.to('POST', '/api/registers/stays/statement')[0]!.body).toMatchObject({ condition: WHERE })
  expect(page.get('[data-test="in"]').attributes('aria-checked')).toBe('true')
  await button('Apply').trigger('click')
  await settled()
  expect(page.emitted('apply')).toEqual([[{ field: 'order', test: 'in', register: 'stays', where: WHERE }]])
})

it('lets what was asked of one register go with it, and shows what cannot be said', async () => {
  server.on(
    'POST',
    '/api/registers/stays/statement',
    refusal(422, 'condition-unfit', 'Stays has no field “site”.'),
  )
  await at(registerOf(), { field: 'order', test: 'in', register: 'stays', where: WHERE })
  await settled()
  expect(page.get('[role=alert]').text()).toBe('Stays has no field “site”.')
  await page.get('[aria-label="Register"]').setValue('moves')
  await settled()
  await button('Apply').trigger('click')
  await settled()
  expect(page.emitted('apply')).toEqual([[{ field: 'order', test: 'in', register: 'moves' }]])
})

it('is not built of what cannot be read', () => {
  const register = registerOf() as never
  const draft = draftOf(register, { field: 'order', test: 'in', register: 'stays' })
  draft.unread = true
  expect(() => built(register, draft)).toThrow('cannot be read yet')
  Object.assign(draft, { unread: false, register: '', places: [{ field: 'order' }] })
  expect(() => built(register, draft)).toThrow('Choose the register')
})
