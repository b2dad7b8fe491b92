import { describe, expect, it } from 'vitest'
import type { Outline, PartCount } from '@/api/client'
import { DEFECTS, drawn } from '@/testing/page'
import NothingFound from './NothingFound.vue'

const part = (path: string, words: string, kind = 'criterion', parts: Outline[] = []) =>
  ({ kind, path, words, text: words, parts, field: 'severity', node: {} }) as unknown as Outline
const weighed = (...counts: [string, number][]) =>
  new Map(counts.map(([path, without]) => [path, { path, alone: 0, without } as PartCount]))
const outline = part('', '', 'all', [
  part('/all/0', 'severity >= 9'),
  part('/all/1', 'due in today'),
  part('/all/2', '', 'off', [part('/all/2/off', 'number is "D-1"')]),
])

describe('when nothing fits', () => {
  it('the criteria that shut everything out are offered to be switched off', async () => {
    const { page } = await drawn(NothingFound, {
      register: DEFECTS,
      outline,
      parts: weighed(['/all/0', 12], ['/all/1', 0], ['/all/2/off', 5]),
      counted: 'counted',
    })
    expect(page.text()).toContain('No defect fits this statement today.')
    expect(page.findAll('button')).toHaveLength(1)
    await page.find('button').trigger('click')
    expect(page.emitted('switchOff')).toEqual([['/all/0']])
  })

  it('as of another moment, that is what is said', async () => {
    const { page } = await drawn(NothingFound, {
      register: DEFECTS,
      outline,
      asOf: '2026-01-01',
      parts: weighed(),
      counted: 'counting',
    })
    expect(page.text()).toContain('No defect fits this statement as of then.')
    // Nothing is said of the criteria while they are still being counted, or were not.
    expect(page.text()).not.toContain('No single criterion')
    await page.setProps({ counted: 'uncounted' })
    expect(page.text()).toContain('It took too long to look')
    expect(page.text()).not.toContain('No single criterion')
  })

  it('and no criterion does it alone, they are to be tried one by one', async () => {
    const { page } = await drawn(NothingFound, {
      register: DEFECTS,
      outline,
      parts: weighed(['/all/0', 0], ['/all/1', 0]),
      counted: 'counted',
    })
    expect(page.findAll('button')).toHaveLength(0)
    expect(page.text()).toContain('No single criterion shuts everything out.')
    // One that could not be counted may be what shuts everything out.
    await page.setProps({ parts: weighed(['/all/0', 0]) })
    expect(page.text()).toContain('It took too long to look')
  })
})
