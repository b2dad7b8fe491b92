import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { defineComponent, h } from 'vue'
import { useDragOrder } from './useDragOrder'

const put: string[][] = []
const List = defineComponent(() => {
  const { line } = useDragOrder((key, on) => put.push([key, on]))
  return () => ['a', 'b', 'c'].map((key) => h('li', { key, id: key, ...line(key) }, key))
})

describe('lines that are dragged', () => {
  it('are put where another stands, which shows it meanwhile; onto themselves, and onto nothing, they stay', async () => {
    const page = mount(List)
    await page.get('#a').trigger('dragstart')
    await page.get('#a').trigger('dragover')
    expect(page.find('.over').exists()).toBe(false)
    await page.get('#c').trigger('dragover')
    expect(page.get('.over').text()).toBe('c')
    await page.get('#c').trigger('drop')
    expect(page.find('.over').exists()).toBe(false)
    await page.get('#b').trigger('dragstart')
    await page.get('#b').trigger('drop')
    await page.get('#b').trigger('dragstart')
    await page.get('#b').trigger('dragend')
    await page.get('#c').trigger('drop')
    expect(put).toEqual([['a', 'c']])
  })
})
