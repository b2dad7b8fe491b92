import { expect, it } from 'vitest'
import { mount } from '@vue/test-utils'
import { defineComponent, nextTick } from 'vue'
import { Problem } from '@/api/client'
import { useRefusal } from './useRefusal'

const Form = defineComponent({
  setup: () => useRefusal(),
  template: `<main>
    <p v-if="trouble" :id="troubleId" role="alert">{{ trouble }}</p>
    <input name="label" /><input name="fields/a/label" /></main>`,
})

it('points at the field that a refusal is about, and at none where it is about something else', async () => {
  const page = mount(Form, { attachTo: document.body })
  const invalid = () => page.findAll('input').map((i) => i.attributes('aria-invalid'))
  page.vm.refused(new Problem(422, 'no-name', 'Give it a name.', { at: 'label' }))
  await nextTick()
  expect(page.get('p').text()).toBe('Give it a name.')
  expect(invalid()).toEqual(['true', undefined])
  expect(page.get('input').attributes('aria-describedby')).toBe(page.get('p').attributes('id'))

  page.vm.refused(new Problem(422, 'no-name', 'Each field needs a name.', { at: 'fields/a/label' }))
  await nextTick()
  expect(invalid()).toEqual([undefined, 'true'])

  page.vm.refused(new Error('The server cannot be reached.'))
  await nextTick()
  expect(page.get('p').text()).toBe('The server cannot be reached.')
  expect(invalid()).toEqual([undefined, undefined])

  page.vm.refused(new Problem(422, 'gone', 'It is gone.', { at: 'elsewhere' }))
  await nextTick()
  expect(invalid()).toEqual([undefined, undefined])
  page.unmount()
})
