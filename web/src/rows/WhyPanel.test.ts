import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { VueWrapper } from '@vue/test-utils'
import type { Outline } from '@/api/client'
import { DEFECTS, drawn, field } from '@/testing/page'
import { refusal, settled, standIn, type Call } from '@/testing/server'
import WhyPanel from './WhyPanel.vue'

const WITH_LATE = { ...DEFECTS, fields: [...DEFECTS.fields, field('late', 'yes/no')] } as typeof DEFECTS
const server = standIn()
const WHY = '/api/registers/defects/why'
const part = (path: string, fieldWords: string, verb: string, object: string) =>
  ({ kind: 'criterion', path, fieldWords, verb, object, parts: [] }) as unknown as Outline
const OUTLINE = {
  kind: 'all',
  path: '',
  parts: [part('/all/0', 'due', 'is before', 'today'), part('/all/1', 'severity', 'is at least', '4')],
} as unknown as Outline

let page: VueWrapper
beforeEach(() => {
  server.on('POST', WHY, (call: Call) => ({
    record: { id: String((call.body as { record: string }).record).replace('D-', ''), values: {} },
    matches: false,
    outcome: {
      kind: 'all',
      path: '',
      verdict: 'OUT',
      parts: [
        {
          kind: 'criterion',
          path: '/all/0',
          field: 'due',
          verdict: 'IN',
          value: '2026-11-01',
          window: 'before 23 Nov 2026',
          from: [],
          parts: [],
        },
        {
          kind: 'criterion',
          path: '/all/1',
          field: 'severity',
          verdict: 'OUT',
          value: null,
          from: [],
          parts: [],
        },
      ],
    },
  }))
  server.on('DELETE', '/api/questions/*', undefined)
})
afterEach(() => page.unmount())

async function at(more: Record<string, unknown> = {}) {
  ;({ page } = await drawn(WhyPanel, {
    register: DEFECTS,
    statement: 'due before today and severity >= 4',
    zone: 'UTC',
    answers: {},
    outline: OUTLINE,
    ...more,
  }))
}
const asked = () => server.to('POST', WHY).map((c) => c.body as Record<string, unknown>)
const lines = () => page.findAll('li').map((l) => l.text().replace(/\s+/g, ' '))

describe('why', () => {
  it('says of each criterion whether the record passes it, with what it has and the window', async () => {
    await at({ id: '7' })
    expect(page.get('.verdict').text()).toBe('It is not in this answer.')
    expect(lines()).toEqual([
      'yes due is before today it has 1 Nov 2026; the window is before 23 Nov 2026',
      'no severity is at least 4 it has nothing there',
    ])
  })

  it('says what a calculated field comes from, and what it stands for', async () => {
    const criterion = { kind: 'criterion', from: [], parts: [] }
    server.on('POST', WHY, {
      record: { id: '7', values: {} },
      matches: false,
      outcome: {
        kind: 'criterion',
        path: '',
        field: 'late',
        words: 'late is yes',
        verdict: 'OUT',
        value: false,
        from: [{ field: 'severity', value: 3 }],
        parts: [
          {
            kind: 'all',
            path: '/means',
            verdict: 'OUT',
            parts: [
              {
                ...criterion,
                path: '/means/all/0',
                field: 'due',
                words: 'due is before today',
                verdict: 'IN',
                value: '2026-11-01',
              },
              {
                ...criterion,
                path: '/means/all/1',
                field: 'severity',
                words: 'severity is 5',
                verdict: 'OUT',
                value: 3,
              },
            ],
          },
        ],
      },
    })
    await at({ id: '7', outline: undefined, register: WITH_LATE })
    expect(lines()).toEqual([
      'no late is yes it has no, from Severity 3',
      'no all of',
      'yes due is before today it has 1 Nov 2026',
      'no severity is 5 it has 3',
    ])
  })

  it('tells of one of the others that has the value, in the fields of its register', async () => {
    const criterion = { kind: 'criterion', from: [], parts: [] }
    const outcome = (path: string, value: string | null, there: object[]) => ({
      ...criterion,
      path,
      field: 'title',
      words: 'title in (stays where length > 20)',
      verdict: 'OUT',
      value,
      other: there.length ? null : { register: 'stays', label: 'Stays', title: null },
      parts: there,
    })
    const length = {
      ...criterion,
      path: '/all/0/where',
      other: { register: 'stays', label: 'Stays', title: 'S-7' },
      field: 'length',
      words: 'length is more than 20',
      verdict: 'OUT',
      value: 12,
    }
    server.on('POST', WHY, {
      record: { id: '7', values: {} },
      matches: false,
      outcome: {
        kind: 'all',
        path: '',
        verdict: 'OUT',
        parts: [
          outcome('/all/0', 'S-7', [length]),
          outcome('/all/1', 'S-8', []),
          outcome('/all/2', null, []),
        ],
      },
    })
    server.on('GET', '/api/registers/stays', {
      ...DEFECTS,
      key: 'stays',
      fields: [field('length', 'number', { unit: 'm' })],
    })
    await at({
      id: '7',
      outline: undefined,
      register: { ...DEFECTS, fields: [...DEFECTS.fields, field('title')] },
    })
    const asked = 'no title in (stays where length > 20) it has'
    expect(lines()).toEqual([
      `${asked} S-7`,
      'no S-7 of Stays, which has it',
      'no length is more than 20 it has 12',
      `${asked} S-8; none of Stays has that`,
      `${asked} nothing there`,
    ])
  })

  it('finds one that is not here by its number, and asks once for it', async () => {
    await at()
    expect(asked()).toHaveLength(0)
    await page.get('input').setValue(' D-9 ')
    await page.get('form').trigger('submit')
    await settled()
    expect(asked()[0]!.record).toBe('D-9')
    expect(page.emitted('found')).toEqual([['9']])
    await page.setProps({ id: '9' })
    await settled()
    expect(asked()).toHaveLength(1)
    expect(page.find('.verdict').exists()).toBe(true)
  })

  it.each([
    ['the statement', { statement: 'severity >= 4' }],
    ['what was filled into a blank', { answers: { days: '3' } }],
    ['the time it is read at', { asOf: '2026-10-01' }],
    ['the zone', { zone: 'Europe/London' }],
    ['the record', { id: '8' }],
  ])('is asked anew when %s changes, and says nothing of before meanwhile', async (_, change) => {
    await at({ id: '7' })
    server.hold(WHY)
    await page.setProps(change)
    await settled()
    expect(page.find('.verdict').exists()).toBe(false)
    server.letGo()
    await settled()
    expect(page.find('.verdict').exists()).toBe(true)
    expect(asked()).toHaveLength(2)
    const [sent] = Object.entries(change)
    expect(asked()[1]).toMatchObject(sent![0] === 'id' ? { record: '8' } : change)
  })

  it('says that a number is of no record, and keeps it', async () => {
    server.on('POST', WHY, refusal(404, 'not-found', 'There is no defect “D-99999”.'))
    await at()
    await page.get('input').setValue('D-99999')
    await page.get('form').trigger('submit')
    await settled()
    expect(page.get('[role="alert"]').text()).toContain('There is no defect “D-99999”.')
    expect(page.get('input').element.value).toBe('D-99999')
  })
})
