import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { h, type Component } from 'vue'
import { createRouter, createWebHistory, type Router } from 'vue-router'
import type { Register, View } from '@/api/client'
import { settled } from './server'
import TESTS from './tests.json'

/**
 * A field as a described register has it, with the tests that the server gives for its type.
 *
 * @param others the fields that can be held against it, for every test that compares two
 */
export function field(key: string, type = 'text', more: Record<string, unknown> = {}, others: string[] = []) {
  const tests = (TESTS[type as keyof typeof TESTS] ?? []).filter(
    (t) => t.takes !== 'RECORDS' && (t.takes !== 'BANDS' || more.bands !== undefined),
  )
  const dated = type === 'date' || type === 'moment'
  return {
    key,
    label: key[0]!.toUpperCase() + key.slice(1),
    type,
    useful: true,
    options: [],
    bands: [],
    tests: tests.map((t) => t.words),
    others: others.length
      ? Object.fromEntries(tests.filter((t) => t.compares).map((t) => [t.words, others]))
      : {},
    groupings: type === 'span' || type === 'tags' ? [] : dated ? ['month', 'day'] : ['value'],
    measures: measuresOf(type),
    viewerValues: [],
    ...more,
  }
}

function measuresOf(type: string) {
  const measure = (does: string, words: string, is = type) => ({ function: does, words, type: is })
  const different = measure('distinct', 'different values of', 'number')
  if (['number', 'money', 'duration'].includes(type))
    return [
      measure('sum', 'sum of'),
      measure('average', 'average of'),
      measure('median', 'median of'),
      measure('percentile', 'percentile of'),
      measure('min', 'least'),
      measure('max', 'most'),
      different,
    ]
  if (type === 'date' || type === 'moment')
    return [measure('min', 'earliest'), measure('max', 'latest'), different]
  return type === 'text' || type === 'choice' ? [different] : []
}

/** The tests of each type, as the server's description of a register has them. */
export const TESTS_OF_TYPES = TESTS

/** A small register of defects. */
export const DEFECTS = {
  key: 'defects',
  register: 'defects',
  label: 'Defects',
  recordLabel: 'defect',
  recordsLabel: 'defects',
  origin: 'OWN',
  capabilities: ['records', 'fields', 'trail', 'counts', 'indexes', 'guarded'],
  columns: ['number', 'severity', 'due'],
  order: [{ field: 'due', descending: false, emptiesFirst: false }],
  limits: [],
  limitsInWords: [],
  hiddenFields: 0,
  added: [] as string[],
  tests: TESTS,
  fields: [
    field('number'),
    field('severity', 'number'),
    field('due', 'date'),
    field('raised', 'moment'),
    field('stay', 'span'),
  ],
} as unknown as Register

/** A view of it, owned by the reader unless something else is said. */
export function viewOf(id: string, more: Partial<View> = {}): View {
  return {
    id,
    register: 'defects',
    reads: more.register ?? 'defects',
    registerLabel: 'Defects',
    name: `View ${id}`,
    purpose: '',
    statement: 'severity >= 4',
    condition: { field: 'severity', test: '>=', value: '4' },
    columns: ['number', 'severity'],
    order: ['due'],
    zone: null,
    shape: {},
    labels: [],
    locked: [],
    owner: { id: 2, name: 'ines', fullName: 'Ines Marlow' },
    shares: [],
    mine: true,
    may: 'MANAGE',
    mayChange: true,
    version: 3,
    createdAt: '2026-11-01T09:00:00Z',
    changedAt: '2026-11-02T09:00:00Z',
    changedBy: { id: 2, name: 'ines', fullName: 'Ines Marlow' },
    ...more,
  } as unknown as View
}

const NOWHERE: Component = { render: () => null }

/** The application's addresses as far as pages of questions go, at a first address. */
export async function routerAt(path: string): Promise<Router> {
  sessionStorage.clear()
  window.history.replaceState({}, '', path)
  const router = createRouter({
    history: createWebHistory(),
    routes: [
      { path: '/registers/:key', name: 'register', component: NOWHERE },
      { path: '/views/:id(\\d+)', name: 'view', component: NOWHERE },
      { path: '/:rest(.*)*', name: 'other', component: NOWHERE },
    ],
  })
  await router.push(path)
  return router
}

/** Uses a composable on a page of its own, at an address; it is put away when `leave` is called. */
export async function using<T>(path: string, use: () => T) {
  setActivePinia(createPinia())
  const router = await routerAt(path)
  let made: T
  const page = mount(
    {
      setup() {
        made = use()
        return () => h('div')
      },
    },
    { global: { plugins: [router] } },
  )
  await settled()
  return { made: made!, router, leave: () => page.unmount() }
}

/**
 * Draws a component as a page has it, at an address.
 *
 * @param provided what the page around it provides, by its keys
 * @param first is done before it is drawn, such as finding out who is signed in
 */
export async function drawn(
  component: Component,
  props: Record<string, unknown> = {},
  path = '/',
  provided: Record<symbol, unknown> = {},
  first: () => Promise<unknown> = () => Promise.resolve(),
) {
  setActivePinia(createPinia())
  const router = await routerAt(path)
  await first()
  const page = mount(component, {
    props,
    global: { plugins: [router], provide: provided },
    attachTo: document.body,
  })
  await settled()
  return { page, router }
}
