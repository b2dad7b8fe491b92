import { mount } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import { defineComponent, nextTick, ref } from 'vue'
import { useBeside } from './useBeside'

const selected = ref<string>()
let asked: string[] = []
const Page = defineComponent({
  setup: () =>
    useBeside(
      selected,
      (id) => (selected.value = id),
      () => asked.push('records'),
    ),
  template: `<button id="phrase">severity</button>
    <div class="table"><button id="cell">D-1</button></div>
    <aside v-if="beside" class="side">
      <button v-for="s in ['record', 'why', 'edges']" :id="'side-' + s">{{ s }}</button>
      <input v-if="side === 'why'" id="why-named" />
    </aside>`,
})
const page = mount(Page, { attachTo: document.body })
const at = () => document.activeElement?.id
const focus = (id: string) => document.getElementById(id)!.focus()
// jsdom knows nothing of what is drawn; all of it is.
Element.prototype.checkVisibility ??= () => true

afterEach(() => {
  page.vm.close()
  selected.value = undefined
  asked = []
})

describe('the panel beside the records', () => {
  it('has the keys when it opens, and gives them back', async () => {
    focus('phrase')
    await page.vm.show('edges')
    expect(at()).toBe('side-edges')
    page.vm.close()
    await nextTick()
    expect(at()).toBe('phrase')
  })

  it('asks for a number where no record is chosen', async () => {
    await page.vm.show('why')
    expect(at()).toBe('why-named')
  })

  it('follows whoever walks along the records', async () => {
    selected.value = '1'
    await nextTick()
    focus('cell')
    await page.vm.show('why')
    expect(at()).toBe('cell')
    page.vm.close()
    expect(at()).toBe('cell')
  })

  it('gives the keys back to where they were first, and to the records where that is gone', async () => {
    focus('phrase')
    await page.vm.show('why')
    await page.vm.show('edges')
    page.vm.close()
    expect(at()).toBe('phrase')
    ;(document.activeElement as HTMLElement).blur()
    await page.vm.show('edges')
    page.vm.close()
    await nextTick()
    expect(asked).toEqual(['records'])
  })
})
