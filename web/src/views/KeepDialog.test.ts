import { ElDialog } from 'element-plus'
import { expect, it } from 'vitest'
import { drawn } from '@/testing/page'
import { settled, standIn } from '@/testing/server'
import KeepDialog from './KeepDialog.vue'

standIn()

it('begins at the name, and takes the keys from nobody who is at another field already', async () => {
  const { page } = await drawn(KeepDialog, {
    modelValue: true,
    title: 'Save as a new view',
    name: '',
    purpose: '',
    labels: [],
    busy: false,
    everything: false,
  })
  await settled()
  const dialog = page.getComponent(ElDialog)
  const at = (id: string) => document.getElementById(id)!
  dialog.vm.$emit('opened')
  expect(document.activeElement).toBe(at('view-name'))
  at('view-purpose').focus()
  dialog.vm.$emit('opened')
  expect(document.activeElement).toBe(at('view-purpose'))
  page.unmount()
})
