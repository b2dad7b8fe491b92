import { afterEach, describe, expect, it } from 'vitest'
import { mount, type VueWrapper } from '@vue/test-utils'
import { defineComponent, nextTick } from 'vue'
import PanelButton from './PanelButton.vue'

const Two = defineComponent({
  components: { PanelButton },
  template: `
    <PanelButton name="Columns" :width="300" class="word"><template #button>Columns</template>
      <input aria-label="Find" /><label><input type="radio" name="a" /></label><button>last</button>
    </PanelButton>
    <PanelButton name="Shape" :width="300" class="word"><template #button>Shape</template>
      <p>Nothing to do here.</p>
    </PanelButton>
    <button class="elsewhere">elsewhere</button>`,
})
let page: VueWrapper
afterEach(() => page.unmount())
const settled = async () => {
  for (let i = 0; i < 6; i++) await nextTick()
}
const button = (words: string) => page.findAll('button').find((b) => b.text() === words)!
const dialogs = () =>
  [...document.querySelectorAll<HTMLElement>('[role=dialog]')].filter((d) => d.style.display !== 'none')
const open = async () => {
  page = mount(Two, { attachTo: document.body })
  await button('Columns').trigger('click')
  await settled()
}
const at = () => document.activeElement as HTMLElement

describe('a button with a panel', () => {
  it('closes with Escape also where nothing has the keys', async () => {
    await open()
    at().blur()
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true }))
    await settled()
    expect(dialogs()).toHaveLength(0)
    expect(document.activeElement).toBe(button('Columns').element)
  })

  it('opens a named dialog with the keys in it, and says that it is open', async () => {
    await open()
    expect(dialogs().map((d) => d.getAttribute('aria-label'))).toEqual(['Columns'])
    expect(button('Columns').attributes('aria-expanded')).toBe('true')
    expect(button('Columns').attributes('aria-haspopup')).toBe('dialog')
    expect(button('Columns').attributes('aria-describedby')).toBeUndefined()
    expect(dialogs()[0]!.contains(at())).toBe(true)
  })

  it('gives the keys back to its button', async () => {
    await open()
    at().dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true }))
    await settled()
    expect(at()).toBe(button('Columns').element)
    expect(button('Columns').attributes('aria-expanded')).toBe('false')
  })

  it('closes when another opens, which has something to be at even without a field', async () => {
    await open()
    await button('Shape').trigger('click')
    await settled()
    expect(button('Columns').attributes('aria-expanded')).toBe('false')
    expect(dialogs().some((d) => d.getAttribute('aria-label') === 'Shape' && d.contains(at()))).toBe(true)
  })

  it('closes when somebody presses elsewhere, and leaves the keys there', async () => {
    await open()
    const elsewhere = page.get<HTMLElement>('.elsewhere').element
    elsewhere.focus()
    elsewhere.dispatchEvent(new MouseEvent('pointerdown', { bubbles: true }))
    await settled()
    expect(button('Columns').attributes('aria-expanded')).toBe('false')
    expect(at()).toBe(elsewhere)
  })
})
