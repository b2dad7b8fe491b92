<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { sentence } from '@/api/client'
import { focusHeading } from '@/platform/focusKeeper'
import { allActions } from '@/platform/actions'
import { onDefinitions } from '@/platform/definitions'
import { findAll } from '@/platform/finding'
import { calmly, onChanges, stopWatching, watchRegisters } from '@/platform/live'
import LetterKeys from '@/people/LetterKeys.vue'
import { useSession } from '@/people/session'
import { useCatalogue } from '@/registers/catalogue'
import { useSetup } from '@/setup/setup'
import { useArrangement } from './arrangement'
import SideList from './SideList.vue'
import { useViews } from './store'

const session = useSession()
const catalogue = useCatalogue()
const setup = useSetup()
const views = useViews()
const route = useRoute()
const router = useRouter()
const arrangement = useArrangement()

const trouble = ref('')
const wanted = ref('')
const keysOpen = ref(false)
const menuOpen = ref(false)
const goTo = ref<{ focus(): void }>()
const asOf = computed(() => (typeof route.query.asOf === 'string' ? route.query.asOf : undefined))

onMounted(() => window.addEventListener('keydown', keys))
// Nothing is told to somebody who has to choose a password first.
watch(
  () => session.current?.mustChangePassword,
  async (due) => {
    if (due) return
    try {
      await Promise.all([views.load(), catalogue.load(), setup.load()])
    } catch (e) {
      trouble.value = sentence(e)
    }
  },
  { immediate: true },
)
onBeforeUnmount(() => {
  window.removeEventListener('keydown', keys)
  stopWatching()
  views.clear()
  catalogue.clear()
})
// A register that comes or goes is watched from then on, or no more.
watch(
  () => catalogue.names,
  (names) => watchRegisters(names.map((r) => r.key)),
)

const dirty = new Set<string>()
const recount = calmly(async () => {
  const keys = [...dirty]
  dirty.clear()
  await Promise.all([views.recount(keys), catalogue.recount(keys)])
}, 1500)
onChanges((registers) => {
  registers.forEach((key) => dirty.add(key))
  recount()
})

/** Names, statements and the clock of the page's frame, as they are now; what cannot be had stays as it was. */
const reread = calmly(async () => {
  await Promise.allSettled([catalogue.load(), views.refresh(), session.refresh(), setup.load()])
})
// Other fields, rights or days give other numbers, and perhaps another register. What was known of this one is of before,
// whether or not a page shows it now.
onDefinitions((register) => {
  catalogue.forgetOne(register)
  dirty.add(register)
  recount()
  reread()
})

function keys(event: KeyboardEvent) {
  const target = event.target as HTMLElement
  if (target.closest('input, textarea, select, [contenteditable="true"], .el-dialog')) return
  if (event.ctrlKey || event.metaKey || event.altKey || !session.letterKeys) return
  if (event.key === '?') keysOpen.value = true
  else if (event.key === '/') {
    before = target === document.body ? undefined : target
    goTo.value?.focus()
  } else return
  event.preventDefault()
}

interface Place {
  value: string
  what: string
  /** the address, or the name of what is done */
  to: string
  key?: string
  /** further words by which it is found */
  about?: string
  run?: () => void
}

/** The views that the reader opened last stand first where one looks for them. */
const latestFirst = computed(() =>
  [...views.all].sort((a, b) => (views.use[b.id]?.mineAt ?? '').localeCompare(views.use[a.id]?.mineAt ?? '')),
)

/** A key as it is told: not at all where it does nothing. */
const letter = (key?: string) => (session.letterKeys ? key : undefined)

const places = computed<Place[]>(() => [
  ...latestFirst.value.map((v) => ({
    value: v.name,
    what: `view of ${v.registerLabel}`,
    about: [v.purpose, ...v.labels, v.owner.fullName].join(' '),
    to: `/views/${v.id}`,
  })),
  ...catalogue.names.map((r) => ({ value: r.label, what: 'register', to: `/registers/${r.key}` })),
  { value: 'Catalogue', what: 'registers and their fields', to: '/catalogue' },
  ...(setup.steps.length ? [{ value: 'Set up', what: 'page', to: '/setup' }] : []),
  { value: 'All views', what: 'page', to: '/views' },
  { value: 'Account', what: 'page', to: '/account' },
  { value: 'Organisation', what: 'page', to: '/organisation' },
  ...(session.isAdministrator ? [{ value: 'Jobs', what: 'page', to: '/jobs' }] : []),
  { value: 'People', what: 'page', to: '/people' },
  { value: 'Teams', what: 'page', to: '/people/teams' },
  { value: 'Views that need attention', what: 'page', to: '/views?only=attention' },
  { value: 'Keys', what: 'sheet', to: 'keys', key: letter('?'), run: () => (keysOpen.value = true) },
  { value: 'Light desk', what: 'look', to: 'light', run: () => theme('light') },
  { value: 'Dark desk', what: 'look', to: 'dark', run: () => theme('dark') },
  ...allActions()
    .filter((a) => a.words)
    .map((a, i) => ({
      value: a.words,
      what: a.what,
      to: `act-${i}`,
      key: letter(a.key),
      run: a.run,
    })),
])

/** As many as anybody looks through. */
const MOST_PLACES = 80
const typed = ref('')
const found = computed(() =>
  findAll(
    places.value.map((p) => ({ ...p, name: p.value, about: `${p.what} ${p.about ?? ''}` })),
    typed.value,
  ).slice(0, MOST_PLACES),
)
/** Where the keys were before, and go back to when nothing was chosen. */
let before: HTMLElement | undefined
function opened(now: boolean) {
  if (now) return
  typed.value = ''
  const back = before
  before = undefined
  if (back?.isConnected) back.focus()
  else (document.activeElement as HTMLElement | null)?.blur()
}

function go(to: string) {
  before = undefined
  const place = places.value.find((p) => p.to === to)
  wanted.value = ''
  if (place?.run) {
    ;(document.activeElement as HTMLElement | null)?.blur()
    place.run()
  } else {
    if (router.resolve(to).path === route.path) void focusHeading(true)
    void router.push(to)
  }
}

async function command(what: string) {
  if (what === 'account' || what === 'organisation' || what === 'people') await router.push('/' + what)
  else if (what === 'keys') keysOpen.value = true
  else if (what === 'out') {
    await session.signOut()
    await router.push('/sign-in')
  } else theme(what)
}

function theme(wantedTheme: string) {
  localStorage.setItem('deft-theme', wantedTheme)
  const dark =
    wantedTheme === 'dark' || (wantedTheme === 'system' && matchMedia('(prefers-color-scheme: dark)').matches)
  document.documentElement.classList.toggle('dark', dark)
}
</script>

<template>
  <div class="desk" :class="{ 'menu-open': menuOpen }" :style="{ '--list': arrangement.width + 'px' }">
    <a class="skip" href="#page">Skip to the page</a>
    <header class="top">
      <button
        type="button"
        class="plain menu"
        aria-label="Views and registers"
        :aria-expanded="menuOpen"
        @click="menuOpen = !menuOpen"
      >
        ☰
      </button>
      <RouterLink to="/" class="brand">Deft Lens</RouterLink>
      <span class="organisation">{{ session.current?.organisation }}</span>
      <div class="go-to" title="Go to a view, register or action">
        <ElSelect
          ref="goTo"
          v-model="wanted"
          filterable
          default-first-option
          placeholder="Go to a view, register, action…"
          aria-label="Go to a view, register or action"
          no-match-text="Nothing of this name"
          no-data-text="Nothing of this name"
          :filter-method="(text: string) => (typed = text)"
          @visible-change="opened"
          @change="go"
        >
          <ElOption v-for="p in found" :key="p.to" :value="p.to" :label="p.value">
            <span>{{ p.value }}</span> <span class="what">{{ p.what }}</span>
            <kbd v-if="p.key" class="place-key">{{ p.key }}</kbd>
          </ElOption>
        </ElSelect>
      </div>
      <span id="as-of-place" class="as-of" :data-as-of="asOf" />
      <ElDropdown trigger="click" @command="command">
        <button
          type="button"
          class="plain who"
          :aria-label="`${session.current?.person.fullName}, account menu`"
        >
          {{ session.current?.person.fullName }}
        </button>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem command="account">Account</ElDropdownItem>
            <ElDropdownItem command="organisation">Organisation</ElDropdownItem>
            <ElDropdownItem command="people">People and teams</ElDropdownItem>
            <ElDropdownItem command="keys">Keys</ElDropdownItem>
            <ElDropdownItem divided command="light">Light desk</ElDropdownItem>
            <ElDropdownItem command="dark">Dark desk</ElDropdownItem>
            <ElDropdownItem command="system">As the system</ElDropdownItem>
            <ElDropdownItem divided command="out">Sign out</ElDropdownItem>
          </ElDropdownMenu>
        </template>
      </ElDropdown>
    </header>
    <SideList :trouble="trouble" @gone="menuOpen = false" />
    <div id="page" class="page" :class="{ watched: session.watcher }" tabindex="-1">
      <section v-if="session.watcher" class="watching" aria-label="Looking as somebody else">
        {{ session.watcher }}, you see what {{ session.current?.person.fullName }} sees, and change nothing.
        <button type="button" class="word" @click="session.lookAsOneself()">Be yourself again</button>
      </section>
      <RouterView />
    </div>
    <section>
      <ElDialog v-model="keysOpen" title="Keys" width="520px">
        <LetterKeys />
        <table class="keys">
          <tbody>
            <tr>
              <td><kbd>/</kbd></td>
              <td>go to a view, a register, a field or an action</td>
            </tr>
            <tr>
              <td><kbd>a</kbd></td>
              <td>add a criterion</td>
            </tr>
            <tr>
              <td><kbd>e</kbd></td>
              <td>Edges: the last records in, the first ones out</td>
            </tr>
            <tr>
              <td><kbd>y</kbd></td>
              <td>why is a record here, or not</td>
            </tr>
            <tr>
              <td><kbd>w</kbd></td>
              <td>write the statement as words</td>
            </tr>
            <tr>
              <td><kbd>p</kbd> <kbd>n</kbd></td>
              <td>the window before, the window after</td>
            </tr>
            <tr>
              <td><kbd>s</kbd></td>
              <td>shape: groups, figures, a part, running totals, density</td>
            </tr>
            <tr>
              <td><kbd>u</kbd></td>
              <td>step back through what was done; <kbd>r</kbd> forward again</td>
            </tr>
            <tr>
              <td><kbd>k</kbd></td>
              <td>save the view, or its changes</td>
            </tr>
            <tr>
              <td><kbd>Enter</kbd></td>
              <td>on a phrase: change it; on a record: open it</td>
            </tr>
            <tr>
              <td><kbd>Delete</kbd></td>
              <td>on a phrase: remove the criterion</td>
            </tr>
            <tr>
              <td><kbd>o</kbd></td>
              <td>on a phrase: switch it off or on</td>
            </tr>
            <tr>
              <td><kbd>Alt</kbd> <kbd>↑</kbd> <kbd>↓</kbd></td>
              <td>
                on a phrase: move it; with <kbd>→</kbd> into the next group, <kbd>←</kbd> out of its own
              </td>
            </tr>
            <tr>
              <td><kbd>g</kbd> <kbd>x</kbd> <kbd>d</kbd> <kbd>j</kbd></td>
              <td>on a phrase: into <em>any of</em>, into <em>none of</em>, duplicate it; ungroup a group</td>
            </tr>
            <tr>
              <td><kbd>↑</kbd> <kbd>↓</kbd></td>
              <td>
                on a phrase: to the one before, the one after; <kbd>→</kbd> to what can be done with it, and
                on
              </td>
            </tr>
            <tr>
              <td><kbd>↑</kbd> <kbd>↓</kbd> <kbd>←</kbd> <kbd>→</kbd></td>
              <td>
                in the records: from cell to cell, and up into the heads; <kbd>Home</kbd> <kbd>End</kbd> along
                the line, with <kbd>Ctrl</kbd> to the first and the last; <kbd>Shift</kbd> with ↑ ↓: from
                match to match where all are shown
              </td>
            </tr>
            <tr>
              <td><kbd>m</kbd></td>
              <td>on a cell: narrow by its value</td>
            </tr>
            <tr>
              <td><kbd>Esc</kbd></td>
              <td>close what is open</td>
            </tr>
            <tr>
              <td><kbd>?</kbd></td>
              <td>this sheet</td>
            </tr>
          </tbody>
        </table>
      </ElDialog>
    </section>
  </div>
</template>

<style scoped>
.desk {
  display: grid;
  grid-template: var(--top) 1fr / var(--list) minmax(0, 1fr);
  height: 100%;
}

.skip {
  position: absolute;
  left: -999px;
  top: 4px;
  z-index: 10;
  background: var(--card);
  padding: 4px 10px;
}

.skip:focus {
  left: 8px;
}

.top {
  grid-column: 1 / -1;
  background: var(--desk);
  color: var(--desk-ink);
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 0 16px;
}

.brand {
  white-space: nowrap;
  font: 600 17px var(--serif);
  letter-spacing: 0.2px;
  color: var(--desk-ink);
  text-decoration: none;
}

.organisation {
  color: var(--desk-quiet);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  flex: 1;
}

.menu {
  display: none;
  font-size: 18px;
}

.go-to {
  flex: 0 0 250px;
}

.go-to :deep(.el-select__wrapper) {
  background: var(--desk-field);
  box-shadow: none;
  min-height: 27px;
  padding: 1px 10px;
}

.go-to :deep(.el-select__wrapper.is-focused) {
  box-shadow: 0 0 0 2px var(--desk-quiet);
}

.go-to :deep(.el-select__input) {
  color: var(--desk-ink);
}

.go-to :deep(.el-select__placeholder) {
  color: var(--desk-quiet);
}

.go-to :deep(.el-select__suffix) {
  display: none;
}

.place-key {
  float: right;
  margin-left: 12px;
}

.what {
  color: var(--ink-3);
  margin-left: 8px;
}

.as-of:empty {
  display: none;
}

.who {
  color: var(--desk-ink);
  font-weight: 600;
  white-space: nowrap;
}

.top :focus-visible {
  outline-color: var(--desk-ink);
}

.watched {
  grid-template-rows: auto minmax(0, 1fr);
}

.watching {
  background: var(--viewer-bg);
  color: var(--viewer);
  font-weight: 600;
  padding: 5px 22px;
}

.watching .word {
  color: var(--viewer);
  text-decoration: underline;
  margin-left: 8px;
}

.page {
  min-width: 0;
  min-height: 0;
  display: grid;
  overflow: hidden;
}

.page:focus {
  outline: none;
}

.keys td {
  padding: 3px 14px 3px 0;
}

@media (max-width: 900px) {
  .desk {
    grid-template-columns: minmax(0, 1fr);
  }

  .organisation {
    display: none;
  }

  .go-to {
    flex: 1 1 120px;
  }

  .menu {
    display: block;
  }
}

/* What is looked for has a line of its own. */
@media (max-width: 560px) {
  .top {
    flex-wrap: wrap;
    align-content: center;
    gap: 4px 14px;
  }

  .brand {
    flex: 1;
  }

  .go-to {
    order: 1;
    flex: 1 1 100%;
  }
}
</style>
