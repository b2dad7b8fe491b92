import { expect, it } from 'vitest'
import { mount } from '@vue/test-utils'
import { defineComponent, nextTick, ref } from 'vue'
import { useFieldError } from './useFieldError'

const message = ref('')
const Form = defineComponent({
  setup() {
    const field = ref<HTMLElement>()
    const id = useFieldError(
      () => [field.value!],
      () => message.value,
    )
    return { field, id, message }
  },
  template: `<div><input ref="field" class="one" /><input class="two" /><p v-if="message" :id="id">{{ message }}</p></div>`,
})

it('says of a field what is wrong with it, until nothing is', async () => {
  const pages = [mount(Form), mount(Form)]
  const one = () => pages[0]!.get('.one').attributes()
  message.value = 'Give it a name.'
  await nextTick()
  expect(one()['aria-invalid']).toBe('true')
  expect(pages[0]!.get('p').attributes('id')).toBe(one()['aria-describedby'])
  expect(pages[0]!.get('.two').attributes('aria-invalid')).toBeUndefined()
  message.value = ''
  await nextTick()
  expect(one()['aria-invalid']).toBeUndefined()
  expect(one()['aria-describedby']).toBeUndefined()
  pages.forEach((page) => page.unmount())
})
