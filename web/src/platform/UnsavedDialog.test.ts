import { mount, type VueWrapper } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import { h, ref } from 'vue'
import { createRouter, createWebHistory, RouterView, type Router } from 'vue-router'
import { settled } from '@/testing/server'
import UnsavedDialog from './UnsavedDialog.vue'

const unsaved = ref(true)
let page: VueWrapper
let router: Router
afterEach(() => page.unmount())

async function at(path: string) {
  window.history.replaceState({}, '', path)
  const work = { render: () => h(UnsavedDialog, { unsaved: unsaved.value, what: 'Your changes' }) }
  router = createRouter({
    history: createWebHistory(),
    routes: [
      { path: '/work/:key', component: work },
      { path: '/sign-in', name: 'sign-in', component: { render: () => 'sign in' } },
      { path: '/:rest(.*)*', component: { render: () => 'elsewhere' } },
    ],
  })
  await router.push(path)
  page = mount({ render: () => h(RouterView) }, { global: { plugins: [router] }, attachTo: document.body })
  await settled()
}
const here = () => router.currentRoute.value.fullPath
const dialog = () => document.querySelector<HTMLElement>('.el-dialog')
const shown = () =>
  dialog() !== null && dialog()!.closest<HTMLElement>('.el-overlay')!.style.display !== 'none'
async function press(words: string) {
  ;[...document.querySelectorAll<HTMLButtonElement>('.el-dialog button')]
    .find((b) => b.textContent === words)!
    .click()
  await settled()
}

describe('a page with work that is not kept', () => {
  it('is left after it was asked, or stayed at', async () => {
    unsaved.value = true
    await at('/work/a')
    void router.push('/elsewhere')
    await settled()
    expect(dialog()!.textContent).toContain('Your changes would be lost.')
    await press('Stay here')
    expect(here()).toBe('/work/a')
    void router.push('/elsewhere')
    await settled()
    await press('Leave without saving')
    expect(here()).toBe('/elsewhere')
  })

  it('asks as well where the same page goes on to something else, not for another place on it', async () => {
    unsaved.value = true
    await at('/work/a')
    await router.push('/work/a?section=order')
    expect(here()).toBe('/work/a?section=order')
    void router.push('/work/b')
    await settled()
    expect(shown()).toBe(true)
    await press('Stay here')
    expect(here()).toBe('/work/a?section=order')
  })

  it('keeps nobody who was signed out', async () => {
    unsaved.value = true
    await at('/work/a')
    await router.push('/sign-in')
    expect(here()).toBe('/sign-in')
  })

  it('has the browser ask before it is closed', async () => {
    unsaved.value = true
    await at('/work/a')
    const close = new Event('beforeunload', { cancelable: true })
    window.dispatchEvent(close)
    expect(close.defaultPrevented).toBe(true)
  })
})

it('a page without such work is left at once', async () => {
  unsaved.value = false
  await at('/work/a')
  const close = new Event('beforeunload', { cancelable: true })
  window.dispatchEvent(close)
  expect(close.defaultPrevented).toBe(false)
  await router.push('/elsewhere')
  expect(here()).toBe('/elsewhere')
})
