import { mount, type VueWrapper } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { nextTick, reactive, ref } from 'vue'
import { useKeysKept, type Table } from './useKeysKept'

const route = reactive({ path: '/registers/moves' })
vi.mock('vue-router', () => ({ useRoute: () => route }))

const shown = ref<{ held: boolean }>()
const Sheet = {
  props: { held: Boolean },
  setup(_: unknown, { expose }: { expose: (it: object) => void }) {
    const head = ref<HTMLElement>()
    const cell = ref<HTMLElement>()
    const root = ref<HTMLElement>()
    expose({ table: () => root.value, focus: (stop?: string) => (stop ? head.value : cell.value)?.focus() })
    return { root, head, cell }
  },
  template: `<table ref="root"><thead><tr><th><button ref="head" data-stop="order:day">Day</button></th></tr></thead>
    <tbody :inert="held || undefined"><tr><td ref="cell" tabindex="0">1</td></tr></tbody></table>`,
}
const Page = {
  components: { Sheet },
  setup() {
    const table = ref<Table>()
    useKeysKept(shown, table)
    return { shown, table }
  },
  template: `<div><button id="before">Before</button><Sheet v-if="shown" ref="table" :held="shown.held" />
    <div role="menu"><button id="offer">Only these</button></div></div>`,
}

let page: VueWrapper
afterEach(() => page.unmount())
async function becomes(now: { held: boolean } | undefined) {
  shown.value = now
  await nextTick()
  await nextTick()
}
async function start(at: string) {
  route.path = '/registers/moves'
  shown.value = { held: false }
  page = mount(Page, { attachTo: document.body })
  await nextTick()
  page.find<HTMLElement>(at).element.focus()
}
const keysAt = (selector: string) => expect(document.activeElement).toBe(page.find(selector).element)

describe('the keys', () => {
  for (const place of ['thead button', 'td'])
    it(`come back to ${place} of a table that was taken away`, async () => {
      await start(place)
      await becomes({ held: true })
      await becomes(undefined)
      // Whatever the page has done with them meanwhile.
      page.find<HTMLElement>('#before').element.focus()
      await becomes({ held: false })
      keysAt(place)
    })

  it('come back from what floated over the table', async () => {
    await start('td')
    page.find<HTMLElement>('#offer').element.focus()
    await becomes({ held: true })
    page.find<HTMLElement>('#offer').element.blur()
    await becomes({ held: false })
    keysAt('td')
  })

  it('stay where somebody took them', async () => {
    await start('td')
    await becomes(undefined)
    page.find<HTMLElement>('#before').element.focus()
    await page.find('#before').trigger('keydown', { key: 'Tab' })
    await becomes({ held: false })
    keysAt('#before')
  })

  it('stay where they were before the question', async () => {
    await start('td')
    page.find<HTMLElement>('#before').element.focus()
    await becomes(undefined)
    await becomes({ held: false })
    keysAt('#before')
  })

  it('are not called back from another page', async () => {
    await start('td')
    await becomes(undefined)
    route.path = '/registers/berths'
    await nextTick()
    page.find<HTMLElement>('#before').element.focus()
    await becomes({ held: false })
    keysAt('#before')
  })
})
