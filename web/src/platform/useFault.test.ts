import { expect, it } from 'vitest'
import { nextTick, ref } from 'vue'
import { useFault } from './useFault'

it('says of a field what is wrong with it, until nothing is', async () => {
  document.body.innerHTML = '<input class="one" /><input class="two" />'
  const one = document.querySelector('.one')!
  const message = ref('')
  useFault(
    () => [one],
    () => message.value,
    'trouble',
  )
  message.value = 'Give it a name.'
  await nextTick()
  expect(one.getAttribute('aria-invalid')).toBe('true')
  expect(one.getAttribute('aria-describedby')).toBe('trouble')
  expect(document.querySelector('.two')!.hasAttribute('aria-invalid')).toBe(false)
  message.value = ''
  await nextTick()
  expect(one.hasAttribute('aria-invalid')).toBe(false)
  expect(one.hasAttribute('aria-describedby')).toBe(false)
})
