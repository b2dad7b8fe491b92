import { afterEach, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn } from '@/testing/server'
import RelatedDialog from './RelatedDialog.vue'

const server = standIn()
let page: VueWrapper
afterEach(() => page.unmount())
const AT = '/api/registers/defects/related'
const register = { ...DEFECTS, fields: [field('order', 'text')] }
const dialog = () => document.querySelector('.el-dialog')!

async function open() {
  ;({ page } = await drawn(RelatedDialog, {
    modelValue: false,
    register,
    question: { register: 'defects', statement: 'severity = 3', answers: {}, recordsAt: '2026-11-02' },
  }))
  await page.setProps({ modelValue: true })
  await settled()
}

it('opens what shares a value where it is, with how many there are', async () => {
  const statement = 'order in (defects where severity = 3)'
  server.on('POST', AT, [
    {
      field: 'order',
      register: 'moves',
      label: 'Moves',
      statement,
      condition: {},
      records: 1204,
      exact: true,
    },
    {
      field: 'order',
      register: 'defects',
      label: 'Defects',
      statement,
      condition: {},
      records: 10_000,
      exact: false,
    },
    {
      field: 'order',
      register: 'slow',
      label: 'Slow',
      statement,
      condition: {},
      records: null,
      exact: false,
    },
  ])
  await open()
  const lines = [...dialog().querySelectorAll('li')].map((li) => li.textContent!.trim())
  expect(lines).toEqual([
    'Moves with the same order1,204',
    'Everything with the same order10,000 or more',
    'Slow with the same order',
  ])
  expect(dialog().querySelector('a')!.getAttribute('href')).toBe(
    '/registers/moves?where=order+in+%28defects+where+severity+%3D+3%29&recordsAt=2026-11-02',
  )
})

it('says who can say what is related, and what went wrong', async () => {
  server.on('POST', AT, [])
  await open()
  expect(dialog().textContent).toContain('No field of Defects is said to hold')
  page.unmount()
  server.on('POST', AT, refusal(422, 'statement-unreadable', 'This cannot be read.'))
  await open()
  expect(dialog().querySelector('[role=alert]')!.textContent).toBe('This cannot be read.')
})
