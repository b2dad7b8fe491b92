import { afterEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import { useSession } from '@/people/session'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import { useChosen } from '@/rows/useChosen'
import ManyChangeDialog from './ManyChangeDialog.vue'

const server = standIn()
const AT = '/api/registers/defects/changes'
let page: VueWrapper

const of = (key: string, type: string, more = {}) =>
  field(key, type, { origin: 'COLUMN', required: false, correctable: true, correctors: [], ...more }) as never
const register = {
  ...DEFECTS,
  mayChangeMany: true,
  fields: [of('severity', 'number'), of('due', 'date'), of('secret', 'text', { correctable: false })],
}
const PREVIEW = {
  records: 214,
  changed: 200,
  leaving: 7,
  fields: [
    {
      field: 'severity',
      steps: [{ before: 3, after: 5, records: 200 }],
      more: 2,
      changed: 200,
    },
  ],
  refused: [],
  mark: '214.ab',
}

afterEach(() => page.unmount())

async function open(more: object = {}) {
  ;({ page } = await drawn(ManyChangeDialog, {
    modelValue: false,
    register,
    question: { register: 'defects', statement: 'severity = 3', answers: {} },
    words: 'severity is 3',
    zone: 'Europe/London',
    ...more,
  }))
  useSession().current = {
    person: { role: 'MEMBER', teams: [], fullName: 'Tomas Rell' },
    zone: 'Europe/London',
  } as never
  await page.setProps({ modelValue: true })
  await settled()
}
const dialog = () => document.querySelector<HTMLElement>('[role=dialog]')!
const button = (words: string) =>
  [...dialog().querySelectorAll('button')].find((b) => b.textContent!.trim().startsWith(words))!
const labelled = (label: string) => dialog().querySelector<HTMLInputElement>(`[aria-label="${label}"]`)!
async function type(input: HTMLInputElement, value: string) {
  input.value = value
  input.dispatchEvent(new Event('input'))
  await settled()
}
async function press(words: string) {
  button(words).click()
  await settled()
}
async function passed() {
  await new Promise((over) => setTimeout(over, 350))
  await settled()
}

describe('changing many records', () => {
  it('is about those that are chosen, or all that match but some', async () => {
    const chosen = useChosen(
      () => '',
      () => 214,
    )
    chosen.toggle({ id: '7', values: {} } as never)
    server.on('POST', AT + '/preview', PREVIEW)
    await open({ chosen })
    expect(dialog().textContent).toContain('1 defect that is chosen')
    await press('Preview')
    expect((server.to('POST', AT + '/preview').at(-1) as Call).body).toMatchObject({ records: ['7'] })
    chosen.invert()
    await page.setProps({ modelValue: false })
    await page.setProps({ modelValue: true })
    await settled()
    await press('Preview')
    expect((server.to('POST', AT + '/preview').at(-1) as Call).body).toMatchObject({ except: ['7'] })
  })

  it('shows what would be, wants a reason, and sends what was looked at', async () => {
    server.on('POST', AT + '/preview', PREVIEW)
    server.on('POST', AT, { job: '9' })
    let asked = 0
    server.on('GET', AT + '/jobs/9', () => ({
      job: '9',
      state: asked++ ? 'DONE' : 'RUNNING',
      phase: 'changing',
      share: 0,
      message: asked > 1 ? '200 records changed' : '',
      change: asked > 1 ? { id: '31' } : null,
    }))
    await open()
    expect(dialog().textContent).toContain('Defects whose severity is 3')
    // Only what is open to correction.
    expect(dialog().querySelector('select')!.textContent).not.toContain('Secret')
    await type(labelled('The new Severity'), '5')
    await press('Preview')
    const body = {
      statement: 'severity = 3',
      answers: {},
      delete: false,
      set: [{ field: 'severity', act: 'SET', value: '5' }],
    }
    expect((server.to('POST', AT + '/preview')[0] as Call).body).toEqual(body)
    expect(dialog().textContent).toMatch(/214 defects\s*, of which\s*200\s*would change/)
    expect(dialog().textContent).toContain('7 would not be in this view any more')
    expect(dialog().textContent).toContain('and 2 other pairs of values')
    const change = button('Change 200 defects')
    expect(change.disabled).toBe(true)
    await type(dialog().querySelector<HTMLInputElement>('.why input')!, 'They were judged wrongly.')
    expect(change.disabled).toBe(false)
    await press('Change 200 defects')
    expect((server.to('POST', AT)[0] as Call).body).toEqual({
      change: body,
      mark: '214.ab',
      reason: 'They were judged wrongly.',
    })
    await passed()
    expect(dialog().textContent).toContain('Writing…')
    await passed()
    expect(page.emitted('changed')).toEqual([['200 records changed.', '31']])
    expect(page.emitted('update:modelValue')).toEqual([[false]])
  })

  it('is looked at anew when something else is to become of them', async () => {
    server.on('POST', AT + '/preview', PREVIEW)
    await open()
    await type(labelled('The new Severity'), '5')
    await press('Preview')
    expect(button('Change 200')).toBeDefined()
    await type(labelled('The new Severity'), '4')
    expect(button('Change 200')).toBeUndefined()
    expect(button('Preview')).toBeDefined()
  })

  it('says which cannot be, and changes nothing as long as there are any', async () => {
    server.on('POST', AT + '/preview', {
      ...PREVIEW,
      refused: [{ reason: 'CLOSED', field: 'due', message: 'It lies in the closed period.', records: 3 }],
    })
    await open()
    await type(labelled('The new Severity'), '5')
    await press('Preview')
    expect(dialog().querySelector('[role=alert]')!.textContent).toContain(
      '3 defects cannot be changed so. It lies in the closed period.',
    )
    expect(button('Change 200')).toBeUndefined()
  })

  it('says why nothing was written', async () => {
    server.on('POST', AT + '/preview', PREVIEW)
    server.on('POST', AT, { job: '9' })
    server.on('GET', AT + '/jobs/9', {
      job: '9',
      state: 'FAILED',
      phase: '',
      share: 0,
      message: 'Some of these defects were written after you looked. Nothing was written; look again.',
    })
    await open()
    await type(labelled('The new Severity'), '5')
    await press('Preview')
    await type(dialog().querySelector<HTMLInputElement>('.why input')!, 'x')
    await press('Change 200')
    await passed()
    expect(dialog().textContent).toContain('look again')
    expect(page.emitted('changed')).toBeUndefined()
    server.on('POST', AT + '/preview', refusal(422, 'bad-value', 'Severity holds a number.'))
    await type(labelled('The new Severity'), 'much')
    await press('Preview')
    expect(dialog().textContent).toContain('Severity holds a number.')
  })
})
