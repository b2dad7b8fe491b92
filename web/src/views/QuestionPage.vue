<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, provide, ref, watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import {
  api,
  data,
  Problem,
  sentence,
  type Finding,
  type Outline,
  type Pin,
  type Register,
  type View,
} from '@/api/client'
import { day, number } from '@/platform/format'
import { calmly, onChanges } from '@/platform/live'
import { useSession } from '@/people/session'
import EdgesPanel from '@/rows/EdgesPanel.vue'
import OrderPhrase from '@/rows/OrderPhrase.vue'
import RecordPanel from '@/rows/RecordPanel.vue'
import RecordTable from '@/rows/RecordTable.vue'
import WhyPanel from '@/rows/WhyPanel.vue'
import AskRow from '@/statements/AskRow.vue'
import { DESK, type Opened } from '@/statements/desk'
import FilterDialog from '@/statements/FilterDialog.vue'
import StatementPanel from '@/statements/StatementPanel.vue'
import * as trees from '@/statements/tree'
import type { Node } from '@/statements/tree'
import ConflictDialog from './ConflictDialog.vue'
import HistoryDialog from './HistoryDialog.vue'
import KeepDialog from './KeepDialog.vue'
import ShareDialog from './ShareDialog.vue'
import { sharing, useViews } from './store'
import { READERS_ZONE, useQuestion } from './useQuestion'

const q = useQuestion()
const {
  register,
  view,
  read,
  unreadable,
  missing,
  where,
  order,
  columns,
  asOf,
  chosenZone,
  answers,
  changed,
  steps,
  answer,
} = q
const { rows, count, parts, slow, trouble, done, stopped, news } = answer

const compare = calmly(() => answer.compare())
onChanges((registers) => {
  if (register.value && registers.includes(register.value.key)) compare()
})
/** The view that the reader's team begins this register with. */
const beginning = ref<Pin>()
watch(
  () => (view.value ? undefined : register.value?.key),
  async (key) => {
    beginning.value = undefined
    if (!key) return
    try {
      const { view: start } = await data(api.GET('/api/registers/{key}/start', { params: { path: { key } } }))
      if (register.value?.key === key) beginning.value = start ?? undefined
    } catch {
      // The register opens without it.
    }
  },
  { immediate: true },
)
/** What others changed, in words. */
const newsWords = computed(() => {
  if (!news.value) return ''
  const { fresh, gone, changed: altered } = news.value
  return [fresh && `${fresh} new`, gone && `${gone} gone`, altered && `${altered} changed`]
    .filter(Boolean)
    .join(', ')
})
const session = useSession()
const views = useViews()
const route = useRoute()
const router = useRouter()

const scroller = ref<HTMLElement>()
const opened = ref<Opened>()
const writing = ref(false)
const mishap = ref('')
const said = ref('')
const zone = computed(() => q.zone.value ?? session.zone)
const zones = Intl.supportedValuesOf('timeZone')
const tree = computed(() => (read.value?.condition ?? trees.EVERYTHING) as Node)

watch([where, () => route.path], () => {
  opened.value = undefined
  writing.value = false
  mishap.value = ''
})
// An address whose statement cannot be read is opened for writing, with the text as it came.
watch(unreadable, (now) => {
  if (now) writing.value = true
})

async function change(make: () => Node | undefined) {
  const changedTree = make()
  if (!changedTree) return
  mishap.value = ''
  try {
    await q.rewrite(changedTree)
    opened.value = undefined
  } catch (e) {
    mishap.value = sentence(e)
  }
}

provide(DESK, {
  // The statement is drawn only once the register is there.
  register: register as Ref<Register>,
  opened,
  asOf,
  zone,
  findings: computed(() => {
    const found = new Map<string, Finding[]>()
    for (const f of read.value?.findings ?? []) found.set(f.path, [...(found.get(f.path) ?? []), f])
    return found
  }),
  mend: (mend) => void q.step({ where: mend.statement }),
  parts,
  matching: computed(() => (count.value?.exact ? count.value.matching : undefined)),
  open: (what) => (opened.value = what),
  close: () => (opened.value = undefined),
  apply: (node) =>
    void change(() => {
      const at = opened.value!
      return at.adds
        ? trees.add(tree.value, at.path, at.adds, node)
        : trees.replace(tree.value, at.path, node)
    }),
  toggleOff: (path) => void change(() => trees.toggleOff(tree.value, path)),
  remove: (path) => void change(() => trees.remove(tree.value, path)),
  regroup: (path, kind) => void change(() => trees.regroup(tree.value, path, kind)),
  joinNext: (path) => void change(() => trees.joinNext(tree.value, path, 'any')),
  move: (path, by) => void change(() => trees.move(tree.value, path, by)),
})

/** The fields that the statement tests, for the marks under the column heads. */
const tested = computed(() => {
  const found: string[] = []
  const walk = (part: Outline) => {
    if (part.kind === 'off') return
    if (part.field) found.push(part.field)
    part.parts.forEach(walk)
  }
  if (read.value) walk(read.value.outline)
  return found
})

/** The fields held against a list of several values, whose order the records can follow. */
const listedFields = computed(() => {
  const found: string[] = []
  const walk = (part: Outline) => {
    if (part.kind === 'off') return
    const node = part.node as Node
    if (part.field && node.test === 'is in' && (node.values as unknown[]).length > 2) found.push(part.field)
    part.parts.forEach(walk)
  }
  if (read.value) walk(read.value.outline)
  return found
})

const matching = computed(() => {
  if (!count.value) return ''
  return `${number(count.value.matching)}${count.value.exact ? '' : '+'} of ${number(count.value.total)}`
})

const selected = computed(() =>
  typeof route.query.record === 'string' ? Number(route.query.record) : undefined,
)
function select(id?: number) {
  void router.replace({
    query: { ...route.query, record: id === undefined ? undefined : String(id) },
    state: { step: steps.value },
  })
}

/** The panel on the right: one record, and why it is in the answer or is not. */
const side = ref<'record' | 'why' | 'edges'>('record')
const whyOpen = computed(() => side.value === 'why')
const beside = computed(() => selected.value !== undefined || side.value !== 'record')
const asked = computed(() => ({
  register: register.value?.key ?? '',
  statement: where.value,
  order: order.value,
  columns: columns.value,
  asOf: asOf.value,
  zone: q.zone.value,
  answers: answers.value,
}))
function closeSide() {
  side.value = 'record'
  if (selected.value !== undefined) select()
}

/** The answers as a link carries them. */
const filledIn = computed(() =>
  Object.fromEntries(Object.entries(answers.value).map(([label, value]) => ['ask.' + label, value])),
)
const exportUrl = computed(() => {
  if (!register.value) return ''
  if (view.value && !changed.value) {
    return (
      `/api/views/${view.value.id}/export.csv?` +
      new URLSearchParams({
        ...(asOf.value ? { asOf: asOf.value } : {}),
        ...(chosenZone.value === READERS_ZONE ? { readerZone: zone.value } : {}),
        ...filledIn.value,
      })
    )
  }
  const query = new URLSearchParams({
    ...filledIn.value,
    statement: where.value,
    order: order.value.join(),
    columns: columns.value.join(),
  })
  if (asOf.value) query.set('asOf', asOf.value)
  if (q.zone.value) query.set('zone', q.zone.value)
  if (view.value) query.set('name', view.value.name)
  return `/api/registers/${register.value.key}/export.csv?${query}`
})

// ------------------------------------------------------------------ keeping

const keepOpen = ref(false)
const keepAs = ref<'new' | 'copy' | 'rename'>('new')
const shareOpen = ref(false)
const historyOpen = ref(false)
const filterOpen = ref(false)
const deleteOpen = ref(false)
const conflictOpen = ref(false)
const theirs = ref<View>()
const keepTrouble = ref('')
const busy = ref(false)

const question = () => ({
  statement: where.value,
  columns: columns.value,
  order: order.value,
  zone: chosenZone.value,
})

function startKeeping(as: 'new' | 'copy' | 'rename') {
  keepAs.value = as
  keepTrouble.value = ''
  keepOpen.value = true
}

async function keep(name: string, purpose: string) {
  busy.value = true
  keepTrouble.value = ''
  try {
    if (keepAs.value === 'rename') {
      await write({ name, purpose }, view.value!.version)
      keepOpen.value = false
      return
    }
    const kept = (await data(
      api.POST('/api/views', {
        body: { register: register.value!.key, name, purpose, ...question() },
      }),
    )) as View
    views.put(kept)
    keepOpen.value = false
    said.value = `Kept as “${kept.name}”.`
    await q.settle(kept)
  } catch (e) {
    keepTrouble.value = sentence(e)
  } finally {
    busy.value = false
  }
}

async function keepChanges(version = view.value!.version) {
  busy.value = true
  mishap.value = ''
  try {
    await write(question(), version)
    conflictOpen.value = false
    said.value = 'Changes kept.'
  } catch (e) {
    if (e instanceof Problem && e.code === 'changed-meanwhile') {
      theirs.value = e.details.current as View
      conflictOpen.value = true
    } else mishap.value = sentence(e)
  } finally {
    busy.value = false
  }
}

async function write(parts: Record<string, unknown>, version: number) {
  const fresh = (await data(
    api.PATCH('/api/views/{id}', {
      params: { path: { id: view.value!.id } },
      body: { version, ...parts },
    }),
  )) as View
  views.put(fresh)
  if ('statement' in parts) await q.settle(fresh)
  else view.value = fresh
}

async function openTheirs() {
  conflictOpen.value = false
  await q.settle(theirs.value!)
}

async function remove() {
  busy.value = true
  try {
    const gone = view.value!
    await api.DELETE('/api/views/{id}', {
      params: { path: { id: gone.id }, query: { version: gone.version } },
    })
    views.remove(gone.id)
    deleteOpen.value = false
    await router.push('/views')
  } catch (e) {
    deleteOpen.value = false
    mishap.value = sentence(e)
  } finally {
    busy.value = false
  }
}

function shared(fresh: View) {
  view.value = fresh
  views.put(fresh)
  said.value = 'Sharing is set.'
}

async function copyLink() {
  try {
    await navigator.clipboard.writeText(location.href)
    said.value = 'The link is copied. It carries the question as it stands.'
  } catch {
    said.value = 'Copy the address from the address bar: it carries the question as it stands.'
  }
}

function more(what: string) {
  if (what === 'copy') startKeeping('copy')
  else if (what === 'rename') startKeeping('rename')
  else if (what === 'history') historyOpen.value = true
  else if (what === 'delete') deleteOpen.value = true
  else if (what === 'why') side.value = 'why'
  else if (what === 'edges') side.value = 'edges'
  else if (what === 'filter') filterOpen.value = true
  else if (what === 'link') void copyLink()
  else if (what === 'pin') void pin()
  else if (what === 'discard') void q.settle(view.value!)
}

async function pin() {
  try {
    await views.togglePin(view.value!.id)
    said.value = views.isPinned(view.value!.id) ? 'Pinned to your list.' : 'No longer pinned.'
  } catch (e) {
    mishap.value = sentence(e)
  }
}

const isOwner = computed(
  () => view.value && (view.value.mine || session.current?.person.role === 'ADMINISTRATOR'),
)

// ------------------------------------------------------------------ columns

function toggleColumn(key: string) {
  const now = columns.value.includes(key) ? columns.value.filter((c) => c !== key) : [...columns.value, key]
  if (now.length) void q.step({ columns: now })
}

// ------------------------------------------------------------------ keys

function keys(event: KeyboardEvent) {
  const target = event.target as HTMLElement
  const typing = target.closest('input, textarea, select, [contenteditable="true"]')
  if ((event.ctrlKey || event.metaKey) && event.key === 'z' && !typing) {
    event.preventDefault()
    q.back()
    return
  }
  if (typing || target.closest('.el-dialog, .editor') || event.ctrlKey || event.metaKey || event.altKey) {
    return
  }
  if (event.key === 'a' && !writing.value) opened.value = { path: '', adds: 'all' }
  else if (event.key === 'w') writing.value = true
  else if (event.key === 'y') side.value = 'why'
  else if (event.key === 'e') side.value = 'edges'
  else if (event.key === 'u') q.back()
  else if (event.key === 'k' && session.mayWrite) {
    if (!view.value) startKeeping('new')
    else if (changed.value) {
      if (view.value.mayChange) void keepChanges()
      else startKeeping('copy')
    }
  } else if (event.key === 'Escape') {
    if (opened.value) opened.value = undefined
    else closeSide()
  } else return
  event.preventDefault()
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))

/** The criterion to doubt first when nothing is found. */
const nothing = computed(() => rows.value.length === 0 && done.value && !trouble.value && !unreadable.value)
/** The criteria without which something would be found. */
const shutters = computed(() => {
  const found: { path: string; words: string }[] = []
  const walk = (part: Outline) => {
    const counts = parts.value.get(part.path)
    if (part.kind === 'criterion' && counts && counts.without > 0) {
      found.push({
        path: part.path,
        words: [part.fieldWords, part.verb, part.object].filter(Boolean).join(' '),
      })
    }
    if (part.kind !== 'off') part.parts.forEach(walk)
  }
  if (nothing.value && read.value) walk(read.value.outline)
  return found.slice(0, 3)
})
const switchOff = (path: string) => void change(() => trees.toggleOff(tree.value, path))
const name = computed(() => view.value?.name ?? register.value?.label ?? '')
</script>

<template>
  <div v-if="missing" class="missing">
    <h1>It cannot be opened</h1>
    <p>{{ missing }}</p>
    <p><RouterLink to="/views">See all views</RouterLink> or choose a register on the left.</p>
  </div>
  <div v-else-if="register" class="question" :class="{ beside }">
    <Teleport defer to="#as-of-place">
      <ElPopover trigger="click" :width="300" placement="bottom-end">
        <template #reference>
          <button type="button" class="plain as-of-button" :class="{ moved: asOf }">
            As of {{ asOf ? day(asOf) : 'now' }}
          </button>
        </template>
        <label class="as-of-label">
          Read it as of another day
          <input
            class="field"
            type="date"
            :value="asOf"
            @change="q.step({ asOf: ($event.target as HTMLInputElement).value || null })"
          />
        </label>
        <p class="hint">
          Rolling windows are read against noon of that day. Records are shown as they are today.
        </p>
        <button v-if="asOf" type="button" class="quiet" @click="q.step({ asOf: null })">Back to now</button>
        <label class="as-of-label zone-label">
          Days are those of
          <select
            class="field"
            :value="chosenZone"
            @change="q.step({ zone: ($event.target as HTMLSelectElement).value })"
          >
            <option value="">the organisation ({{ session.zone }})</option>
            <option :value="READERS_ZONE">whoever reads</option>
            <option v-for="z in zones" :key="z" :value="z">{{ z }}</option>
          </select>
        </label>
      </ElPopover>
    </Teleport>
    <main ref="scroller" class="sheet">
      <div class="still">
        <header>
          <div class="title">
            <h1 :title="name">{{ name }}</h1>
            <span v-if="view" class="about">{{ sharing(view) }} · v{{ view.version + 1 }}</span>
            <span v-else class="about">
              register<template v-if="beginning">
                · your team begins with
                <RouterLink :to="`/views/${beginning.id}`">{{ beginning.name }}</RouterLink></template
              >
            </span>
          </div>
          <div class="acts">
            <button v-if="steps > 0" type="button" class="word" title="Step back (u)" @click="q.back()">
              Step back
            </button>
            <template v-if="session.mayWrite">
              <button v-if="!view" type="button" class="act" @click="startKeeping('new')">
                Keep as a view
              </button>
              <button
                v-else-if="changed && view.mayChange"
                type="button"
                class="act"
                :disabled="busy"
                @click="keepChanges()"
              >
                Keep changes
              </button>
              <button v-else-if="changed" type="button" class="act" @click="startKeeping('copy')">
                Keep a copy
              </button>
              <button v-if="view && isOwner" type="button" class="word" @click="shareOpen = true">
                Share
              </button>
            </template>
            <ElPopover trigger="click" :width="240" placement="bottom-end">
              <template #reference>
                <button type="button" class="word">Columns</button>
              </template>
              <div class="columns" role="group" aria-label="Columns">
                <label v-for="f in register.fields.filter((f) => f.type !== 'span')" :key="f.key">
                  <input type="checkbox" :checked="columns.includes(f.key)" @change="toggleColumn(f.key)" />
                  {{ f.label }}
                </label>
              </div>
            </ElPopover>
            <a class="word" :href="exportUrl" download>CSV</a>
            <ElDropdown trigger="click" @command="more">
              <button type="button" class="word">More</button>
              <template #dropdown>
                <ElDropdownMenu>
                  <ElDropdownItem command="edges">Edges: the last in, the first out</ElDropdownItem>
                  <ElDropdownItem command="why">Why is one not here?</ElDropdownItem>
                  <ElDropdownItem command="filter">As an open filter (CQL2)</ElDropdownItem>
                  <ElDropdownItem command="link">Copy the link</ElDropdownItem>
                  <ElDropdownItem v-if="view" command="pin">{{
                    views.isPinned(view.id) ? 'Unpin from my list' : 'Pin to my list'
                  }}</ElDropdownItem>
                  <template v-if="view">
                    <ElDropdownItem v-if="changed" command="discard">Drop my changes</ElDropdownItem>
                    <ElDropdownItem v-if="session.mayWrite" command="copy">Keep a copy</ElDropdownItem>
                    <ElDropdownItem v-if="view.mayChange" command="rename">Name and purpose</ElDropdownItem>
                    <ElDropdownItem command="history">History</ElDropdownItem>
                    <ElDropdownItem v-if="isOwner && session.mayWrite" divided command="delete"
                      >Delete</ElDropdownItem
                    >
                  </template>
                </ElDropdownMenu>
              </template>
            </ElDropdown>
          </div>
        </header>
        <p v-if="view?.purpose" class="purpose">{{ view.purpose }}</p>
        <p v-if="mishap" class="notice" role="alert">{{ mishap }}</p>
        <p class="hidden-text" role="status">{{ said }}</p>
        <p v-if="asOf" class="as-of-note">
          Read as of {{ day(asOf) }}, noon.
          <button type="button" class="word" @click="q.step({ asOf: null })">Back to now</button>
        </p>
        <AskRow
          v-if="read?.asks.length"
          :asks="read.asks"
          :answers="answers"
          @answer="q.step({ answers: $event })"
        />
        <div class="paragraph">
          <StatementPanel
            v-model:writing="writing"
            :register="register"
            :outline="read?.outline"
            :statement="where"
            @write="q.step({ where: $event }).then(() => (writing = false))"
          >
            <template #order>
              <OrderPhrase
                :register="register"
                :order="order"
                :listed="listedFields"
                @order="q.step({ order: $event })"
              />
            </template>
          </StatementPanel>
          <aside class="margin" aria-label="Counts">
            <strong v-if="matching" class="matching" role="status">{{ matching }}</strong>
          </aside>
        </div>
        <div class="wait" aria-live="polite">
          <template v-if="slow">
            <span class="bar" /><span>Reading…</span>
            <button type="button" class="word" @click="answer.stop()">Stop</button>
          </template>
          <template v-else-if="newsWords">
            <span>Since you opened it: {{ newsWords }}.</span>
            <button type="button" class="word bring" @click="answer.bringIn()">Show it now</button>
          </template>
        </div>
        <p v-if="trouble && !unreadable" class="notice" role="alert">
          {{ trouble }} <button type="button" class="quiet" @click="answer.again()">Try again</button>
        </p>
        <p v-else-if="stopped && !rows.length" class="empty">
          Stopped. <button type="button" class="quiet" @click="answer.again()">Ask again</button>
        </p>
        <div v-else-if="nothing" class="empty">
          <p>No {{ register.recordLabel }} fits this statement today.</p>
          <p v-if="shutters.length" class="hint">
            Without
            <template v-for="(s, i) in shutters" :key="s.path">
              <template v-if="i > 0"> or without </template>
              <button type="button" class="quiet" @click="switchOff(s.path)">{{ s.words }}</button>
            </template>
            there would be some.
          </p>
          <p v-else class="hint">
            No single criterion shuts everything out. Switch them off one by one to see.
          </p>
        </div>
      </div>
      <RecordTable
        v-if="rows.length && !unreadable"
        :register="register"
        :columns="columns"
        :order="order"
        :rows="rows"
        :total="count?.matching"
        :done="done"
        :selected="selected"
        :tested="tested"
        :scroller="scroller"
        :zone="zone"
        @order="q.step({ order: $event })"
        @select="select"
        @more="answer.more()"
      />
      <p v-if="done && rows.length > 20" class="end">That is all: {{ number(rows.length) }}.</p>
    </main>
    <aside v-if="beside" class="side" :aria-label="`One ${register.recordLabel}`">
      <div class="tabs">
        <div role="tablist" aria-label="About it">
          <button
            v-if="selected !== undefined"
            type="button"
            role="tab"
            :aria-selected="side === 'record'"
            @click="side = 'record'"
          >
            Record
          </button>
          <button type="button" role="tab" :aria-selected="whyOpen" @click="side = 'why'">Why</button>
          <button type="button" role="tab" :aria-selected="side === 'edges'" @click="side = 'edges'">
            Edges
          </button>
        </div>
        <button type="button" class="word close" aria-label="Close the panel" @click="closeSide">
          Close
        </button>
      </div>
      <WhyPanel
        v-if="whyOpen"
        :id="selected"
        :register="register"
        :statement="where"
        :as-of="asOf"
        :zone="zone"
        :answers="answers"
        :outline="read?.outline"
        @found="select"
      />
      <EdgesPanel
        v-else-if="side === 'edges'"
        :register="register"
        :question="asked"
        :zone="zone"
        :selected="selected"
        @select="select"
      />
      <RecordPanel
        v-else-if="selected !== undefined"
        :id="selected"
        :register="register"
        :zone="zone"
        @changed="compare"
      />
    </aside>
    <!-- Inside a section, so that the heads of dialogs are no banners of the page. -->
    <section>
      <KeepDialog
        v-model="keepOpen"
        :title="keepAs === 'new' ? 'Keep as a view' : keepAs === 'copy' ? 'Keep a copy' : 'Name and purpose'"
        :name="view ? (keepAs === 'copy' ? `${view.name}, copy` : view.name) : ''"
        :purpose="view?.purpose ?? ''"
        :trouble="keepTrouble"
        :busy="busy"
        :everything="where === ''"
        @keep="keep"
      />
      <FilterDialog
        v-model="filterOpen"
        :register-key="register.key"
        :statement="where"
        :as-of="asOf"
        :zone="q.zone.value"
        :answers="answers"
        @read="q.step({ where: $event })"
      />
      <template v-if="view">
        <ShareDialog v-model="shareOpen" :view="view" @shared="shared" />
        <HistoryDialog v-model="historyOpen" :view="view" />
        <ConflictDialog
          v-model="conflictOpen"
          :theirs="theirs"
          :mine="where"
          :busy="busy"
          @theirs="openTheirs"
          @overwrite="keepChanges(theirs!.version)"
          @copy="((conflictOpen = false), startKeeping('copy'))"
        />
        <ElDialog v-model="deleteOpen" :title="`Delete “${view.name}”?`" width="440px">
          <p>
            {{ view.shares.length ? 'Those it is shared with lose it too.' : 'It is shared with nobody.' }}
            It can be brought back for 30 days under All views.
          </p>
          <template #footer>
            <button type="button" class="word" @click="deleteOpen = false">Cancel</button>
            <button type="button" class="act" :disabled="busy" @click="remove">Delete</button>
          </template>
        </ElDialog>
      </template>
    </section>
  </div>
</template>

<style scoped>
.question {
  display: grid;
  grid-template-columns: 1fr;
  min-height: 0;
}

.question.beside {
  grid-template-columns: 1fr 288px;
}

.sheet {
  overflow: auto;
  min-width: 0;
  padding: 0 20px 30px 22px;
  scrollbar-gutter: stable;
}

/* Stays where it is while a wide table is scrolled sideways. */
.still {
  position: sticky;
  left: 0;
}

header {
  display: flex;
  gap: 16px;
  align-items: baseline;
  padding: 15px 0 9px;
  border-bottom: 1px solid var(--rule);
}

.title {
  flex: 1;
  min-width: 0;
  display: flex;
  gap: 12px;
  align-items: baseline;
}

h1 {
  flex: 0 1 auto;
  min-width: 0;
  font: 600 23px/1.25 var(--serif);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}

.about {
  color: var(--ink-2);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  flex: 0 1000 auto;
  min-width: 0;
}

.acts {
  display: flex;
  gap: 14px;
  align-items: baseline;
  white-space: nowrap;
}

.acts a.word {
  text-decoration: none;
}

.purpose {
  color: var(--ink-2);
  padding-top: 7px;
}

.paragraph {
  --margin: 150px;
  display: grid;
  grid-template-columns: minmax(0, 1fr) var(--margin);
  padding: 8px 0 6px;
}

.margin {
  border-left: 1px solid var(--rule);
  margin-left: 14px;
  display: flex;
  flex-direction: column;
  justify-content: flex-end;
  align-items: flex-end;
  gap: 2px;
}

.matching {
  white-space: nowrap;
  line-height: 29px;
}

.columns {
  display: grid;
  gap: 3px;
  max-height: 50vh;
  overflow: auto;
}

.wait {
  display: flex;
  gap: 10px;
  align-items: center;
  height: 22px;
  color: var(--ink-2);
  font-size: 13.5px;
}

.wait .bring {
  color: var(--act);
  text-decoration: underline;
}

.wait .word {
  padding: 0;
}

.bar {
  width: 120px;
  height: 3px;
  border-radius: 2px;
  background: linear-gradient(90deg, var(--rule) 0 40%, var(--act) 50%, var(--rule) 60%) 0 / 300% 100%;
  animation: run 1.2s linear infinite;
}

@keyframes run {
  from {
    background-position: 100% 0;
  }

  to {
    background-position: -50% 0;
  }
}

@media (prefers-reduced-motion: reduce) {
  .bar {
    animation: none;
  }
}

.empty {
  padding: 22px 0;
  font: 400 18px/1.5 var(--serif);
}

.hint {
  color: var(--ink-2);
  font: 400 14px/1.4 var(--sans);
}

.end {
  color: var(--ink-3);
  padding: 10px 6px;
}

.side {
  background: var(--side);
  border-left: 1px solid var(--rule);
  padding: 18px 16px;
  overflow: auto;
}

.tabs {
  display: flex;
  gap: 18px;
  border-bottom: 1px solid var(--rule);
  margin: -6px 0 12px;
}

.tabs [role='tablist'] {
  display: flex;
  gap: 18px;
}

.tabs [role='tab'] {
  border: 0;
  background: none;
  padding: 4px 0 7px;
  cursor: pointer;
  color: var(--ink-2);
  border-bottom: 3px solid transparent;
}

.tabs [aria-selected='true'] {
  color: var(--ink);
  font-weight: 600;
  border-bottom-color: var(--act);
}

.tabs .close {
  margin-left: auto;
  font-weight: 400;
}

.as-of-button {
  color: #f2d492;
  font-weight: 600;
  white-space: nowrap;
}

.as-of-button.moved {
  background: #f2d492;
  color: #21343a;
  border-radius: 3px;
  padding: 1px 8px;
}

.as-of-label {
  display: grid;
  gap: 4px;
  font-weight: 600;
}

.as-of-note {
  background: var(--time-bg);
  color: var(--time);
  padding: 4px 10px;
  margin-top: 8px;
}

.as-of-note .word {
  color: var(--time);
  text-decoration: underline;
}

.missing {
  padding: 26px;
}

.notice {
  margin: 8px 0;
}

@media (max-width: 1000px) {
  .question.beside {
    grid-template-columns: 1fr;
  }

  .beside .side {
    position: fixed;
    right: 0;
    top: 40px;
    bottom: 0;
    width: min(320px, 100%);
    box-shadow: var(--shadow);
    z-index: 4;
  }

  header {
    flex-wrap: wrap;
  }
}
</style>
