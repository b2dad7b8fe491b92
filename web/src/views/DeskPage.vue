<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { sentence } from '@/api/client'
import { number } from '@/platform/format'
import { calmly, onChanges, stopWatching, watchRegisters } from '@/platform/live'
import { useSession } from '@/people/session'
import { useCatalogue } from '@/registers/catalogue'
import { useViews } from './store'

const session = useSession()
const catalogue = useCatalogue()
const views = useViews()
const route = useRoute()
const router = useRouter()

const trouble = ref('')
const wanted = ref('')
const keysOpen = ref(false)
const menuOpen = ref(false)
const goTo = ref<{ focus(): void }>()
const asOf = computed(() => (typeof route.query.asOf === 'string' ? route.query.asOf : undefined))

onMounted(async () => {
  window.addEventListener('keydown', keys)
  try {
    await Promise.all([views.load(), catalogue.load()])
  } catch (e) {
    trouble.value = sentence(e)
  }
})
onBeforeUnmount(() => {
  window.removeEventListener('keydown', keys)
  stopWatching()
  views.clear()
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
  await views.recount(keys)
  for (const key of keys) await catalogue.recount(key)
}, 1500)
onChanges((registers, opened) => {
  // The counts were asked for a moment ago.
  if (opened === 'first') return
  registers.forEach((key) => dirty.add(key))
  recount()
})

function keys(event: KeyboardEvent) {
  const target = event.target as HTMLElement
  if (target.closest('input, textarea, select, [contenteditable="true"], .el-dialog')) return
  if (event.ctrlKey || event.metaKey || event.altKey) return
  if (event.key === '?') keysOpen.value = true
  else if (event.key === '/') goTo.value?.focus()
  else return
  event.preventDefault()
}

interface Place {
  value: string
  what: string
  to: string
}

const places = computed<Place[]>(() => [
  ...views.all.map((v) => ({ value: v.name, what: `view of ${v.registerLabel}`, to: `/views/${v.id}` })),
  ...catalogue.names.map((r) => ({ value: r.label, what: 'register', to: `/registers/${r.key}` })),
  { value: 'Catalogue', what: 'registers and their fields', to: '/catalogue' },
])

function go(to: string) {
  wanted.value = ''
  void router.push(to)
}

async function command(what: string) {
  if (what === 'account' || what === 'organisation') await router.push('/' + what)
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

const isHere = (path: string) => route.path === path
const total = (key: string) => (key in catalogue.totals ? number(catalogue.totals[key]!) : '')
</script>

<template>
  <div class="desk" :class="{ 'menu-open': menuOpen }">
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
      <div class="go-to">
        <ElSelect
          ref="goTo"
          v-model="wanted"
          filterable
          default-first-option
          placeholder="Go to a view or register…"
          aria-label="Go to a view or register"
          no-match-text="Nothing of this name"
          @change="go"
        >
          <ElOption v-for="p in places" :key="p.to" :value="p.to" :label="p.value">
            <span>{{ p.value }}</span> <span class="what">{{ p.what }}</span>
          </ElOption>
        </ElSelect>
      </div>
      <span id="as-of-place" class="as-of" :data-as-of="asOf" />
      <ElDropdown trigger="click" @command="command">
        <button type="button" class="plain who" aria-label="Account menu">
          {{ session.current?.person.fullName }}
        </button>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem command="account">Account</ElDropdownItem>
            <ElDropdownItem command="organisation">Organisation</ElDropdownItem>
            <ElDropdownItem command="keys">Keys</ElDropdownItem>
            <ElDropdownItem divided command="light">Light desk</ElDropdownItem>
            <ElDropdownItem command="dark">Dark desk</ElDropdownItem>
            <ElDropdownItem command="system">As the system</ElDropdownItem>
            <ElDropdownItem divided command="out">Sign out</ElDropdownItem>
          </ElDropdownMenu>
        </template>
      </ElDropdown>
    </header>
    <nav class="list" aria-label="Views and registers" @click="menuOpen = false">
      <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
      <template v-if="views.pins.length">
        <h2>Pinned</h2>
        <ul>
          <li v-for="p in views.pins" :key="p.id">
            <RouterLink
              :to="`/views/${p.id}`"
              :class="{ here: isHere(`/views/${p.id}`) }"
              :title="`${p.name}. Alt with the arrows moves it.`"
              @keydown.alt.up.prevent="views.movePin(p.id, -1)"
              @keydown.alt.down.prevent="views.movePin(p.id, 1)"
            >
              <span class="name">{{ p.name }}</span><span class="count">{{ views.counts[p.id] }}</span>
            </RouterLink>
          </li>
        </ul>
      </template>
      <template v-if="views.mine.length">
        <h2>Mine</h2>
        <ul>
          <li v-for="v in views.mine" :key="v.id">
            <RouterLink :to="`/views/${v.id}`" :class="{ here: isHere(`/views/${v.id}`) }" :title="v.name">
              <span class="name">{{ v.name }}</span><span class="count">{{ views.counts[v.id] }}</span>
            </RouterLink>
          </li>
        </ul>
      </template>
      <template v-if="views.fromColleagues.length">
        <h2>From colleagues</h2>
        <ul>
          <li v-for="v in views.fromColleagues" :key="v.id">
            <RouterLink
              :to="`/views/${v.id}`"
              :class="{ here: isHere(`/views/${v.id}`) }"
              :title="`${v.name}, from ${v.owner.fullName}`"
            >
              <span class="name">{{ v.name }}</span><span class="count">{{ views.counts[v.id] }}</span>
            </RouterLink>
          </li>
        </ul>
      </template>
      <h2>Registers</h2>
      <ul>
        <li v-for="r in catalogue.names" :key="r.key">
          <RouterLink :to="`/registers/${r.key}`" :class="{ here: isHere(`/registers/${r.key}`) }">
            <span class="name">{{ r.label }}</span><span class="count">{{ total(r.key) }}</span>
          </RouterLink>
        </li>
      </ul>
      <ul class="foot">
        <li><RouterLink to="/views" :class="{ here: isHere('/views') }">All views</RouterLink></li>
        <li>
          <RouterLink to="/catalogue" :class="{ here: route.path.startsWith('/catalogue') }"
            >Catalogue</RouterLink
          >
        </li>
      </ul>
    </nav>
    <div id="page" class="page" tabindex="-1">
      <RouterView />
    </div>
    <section>
      <ElDialog v-model="keysOpen" title="Keys" width="520px">
        <table class="keys">
          <tbody>
            <tr>
              <td><kbd>/</kbd></td>
              <td>go to a view or register</td>
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
              <td><kbd>u</kbd></td>
              <td>step back through what was done</td>
            </tr>
            <tr>
              <td><kbd>k</kbd></td>
              <td>keep the view, or keep its changes</td>
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
              <td>on a phrase: move it</td>
            </tr>
            <tr>
              <td><kbd>↑</kbd> <kbd>↓</kbd></td>
              <td>in the records: up and down</td>
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
  grid-template: 40px 1fr / 204px 1fr;
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

.list {
  background: var(--paper);
  border-right: 1px solid var(--rule);
  padding: 12px 10px 20px 14px;
  overflow: auto;
}

.list h2 {
  font: 600 13px var(--sans);
  color: var(--ink-2);
  margin: 12px 0 3px;
}

.list h2:first-child {
  margin-top: 0;
}

.list ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

.list a {
  display: flex;
  gap: 8px;
  color: var(--ink);
  text-decoration: none;
  padding: 3px 8px;
  border-left: 3px solid transparent;
  border-radius: 2px;
}

.list a:hover {
  background: var(--head);
}

.list a.here {
  background: var(--act-soft);
  border-left-color: var(--act);
  font-weight: 600;
}

.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  flex: 1;
}

.count {
  color: var(--ink-3);
  font-weight: 400;
}

.here .count {
  color: var(--ink-2);
}

.foot {
  margin-top: 22px !important;
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
    grid-template-columns: 1fr;
  }

  .organisation,
  .go-to {
    display: none;
  }

  .brand {
    flex: 1;
  }

  .menu {
    display: block;
  }

  .list {
    display: none;
  }

  .menu-open .list {
    display: block;
    position: absolute;
    z-index: 5;
    top: 40px;
    bottom: 0;
    width: 250px;
    box-shadow: var(--shadow);
  }
}
</style>
