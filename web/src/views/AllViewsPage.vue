<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, data, sentence, type View } from '@/api/client'
import SkipLink from '@/platform/SkipLink.vue'
import { counted, capitalised, day, localDay, moment } from '@/platform/format'
import { useSession } from '@/people/session'
import { useCatalogue } from '@/registers/catalogue'
import RegisterNotes from '@/registers/RegisterNotes.vue'
import CarePanel from './CarePanel.vue'
import { sharing, useViews } from './store'
import ViewCount from './ViewCount.vue'
import ViewFileDialog from './ViewFileDialog.vue'
import SaidLine from '@/platform/SaidLine.vue'
import { announceRested } from '@/platform/announcements'

const views = useViews()
const catalogue = useCatalogue()
const session = useSession()
const route = useRoute()
const router = useRouter()
const deleted = ref<View[]>([])
const trouble = ref('')
const said = ref('')
const chosen = ref<string[]>([])
const fileOpen = ref(false)
/** So many are drawn; the rest when they are wanted. */
const MOST = 60
const drawn = ref(MOST)

onMounted(async () => {
  document.title = 'All views · Deft Lens'
  try {
    await Promise.all([loadDeleted(), views.loaded ? views.refresh() : undefined])
  } catch (e) {
    trouble.value = sentence(e)
  }
})
async function loadDeleted() {
  deleted.value = await data(api.GET('/api/views', { params: { query: { deleted: true } } }))
}

// ------------------------------------------------------------------ finding; all of it is in the address

const text = (name: string) => (typeof route.query[name] === 'string' ? (route.query[name] as string) : '')
function part(name: string) {
  return computed({
    get: () => text(name),
    set: (value: string) => {
      drawn.value = MOST
      void router.replace({ query: { ...route.query, [name]: value || undefined } })
    },
  })
}
/** What is typed is held here and follows into the address, which is slower than a quick typist. */
const search = ref(text('search'))
const searched = part('search')
watch(search, (words) => {
  if (words !== searched.value) searched.value = words
})
watch(searched, (words, before) => {
  if (search.value === before) search.value = words
})
const whose = part('whose')
const register = part('register')
const label = part('label')
const team = part('team')
const only = part('only')
const by = part('by')

const owners = computed(() => {
  const found = new Map(views.all.map((v) => [v.owner.id, v.owner.fullName]))
  return [...found].sort((a, b) => a[1].localeCompare(b[1], 'en-GB'))
})
const labels = computed(() => [...new Set(views.all.flatMap((v) => v.labels))].sort())
const teams = computed(() =>
  [
    ...new Map(
      views.all.flatMap((v) => v.shares.filter((s) => s.team).map((s) => [s.team!, s.label ?? ''] as const)),
    ),
  ].sort((a, b) => a[1].localeCompare(b[1], 'en-GB')),
)
const registers = computed(() => [...new Map(views.all.map((v) => [v.register, v.registerLabel]))])

/** The registers' fields by key, so that a view is found by a field's name as people read it. */
const described = ref<Record<string, { labels: Record<string, string>; columns: string[]; several: string }>>(
  {},
)
watch(
  registers,
  async (all) => {
    for (const [key] of all) {
      if (described.value[key]) continue
      try {
        const found = await catalogue.describe(key)
        described.value = {
          ...described.value,
          [key]: {
            labels: Object.fromEntries(found.fields.map((f) => [f.key, f.label])),
            columns: found.columns,
            several: found.recordsLabel,
          },
        }
      } catch {
        // It is found by its other words.
      }
    }
  },
  { immediate: true },
)
function allWords(v: View): string {
  const known = described.value[v.register]
  // Columns that every view of the register has tell nothing of this one.
  const own = known && v.columns.join() !== known.columns.join() ? v.columns : []
  const fields = [...new Set([...own, ...(v.statement.match(/[a-z][a-z0-9_]*/g) ?? [])])]
    .map((f) => known?.labels[f])
    .filter(Boolean)
  return [
    v.name,
    v.purpose,
    v.owner.fullName,
    v.registerLabel,
    v.statement,
    ...v.labels,
    ...v.shares.map((s) => s.label),
    ...fields,
  ]
    .join(' ')
    .toLowerCase()
}
const haystack = computed(() => new Map(views.all.map((v) => [v.id, allWords(v)])))

const used = (v: View) => views.use[v.id]
const found = computed(() => {
  const words = search.value.trim().toLowerCase().split(/\s+/).filter(Boolean)
  return views.all.filter(
    (v) =>
      words.every((w) => haystack.value.get(v.id)!.includes(w)) &&
      (!whose.value || (whose.value === 'mine' ? v.mine : v.owner.id === whose.value)) &&
      (!register.value || v.register === register.value) &&
      (!label.value || v.labels.includes(label.value)) &&
      (!team.value || v.shares.some((s) => s.team === team.value)) &&
      (only.value !== 'attention' || Boolean(used(v)?.attention.length)) &&
      (only.value !== 'pinned' || views.isPinned(v.id)) &&
      (only.value !== 'manage' || v.may === 'MANAGE'),
  )
})
const ordered = computed(() => {
  const list = [...found.value]
  if (by.value === 'opened') list.sort((a, b) => (used(b)?.mineAt ?? '').localeCompare(used(a)?.mineAt ?? ''))
  else if (by.value === 'used') list.sort((a, b) => (used(b)?.readers ?? 0) - (used(a)?.readers ?? 0))
  else if (by.value === 'unused')
    list.sort((a, b) => (used(a)?.lastOpenedAt ?? '').localeCompare(used(b)?.lastOpenedAt ?? ''))
  else if (by.value === 'changed') list.sort((a, b) => b.changedAt.localeCompare(a.changedAt))
  return list
})
const shown = computed(() => ordered.value.slice(0, drawn.value))
// What is seen is counted, if it was not yet.
watch(shown, (now) => void views.countSome(now.map((v) => v.id).filter((id) => !(id in views.counts))), {
  immediate: true,
})
/** What the views that are seen ask, in words; of one that cannot be read today, nothing is known. */
const asked = ref<Record<string, string[] | undefined>>({})
watch(
  shown,
  async (now) => {
    const missing = now.map((v) => v.id).filter((id) => !(id in asked.value))
    if (!missing.length) return
    try {
      const found = await data(api.GET('/api/views/words', { params: { query: { views: missing } } }))
      asked.value = {
        ...asked.value,
        ...Object.fromEntries(found.map((w) => [w.view, w.lines ?? undefined])),
      }
    } catch {
      // The list says the rest; the words come with the next look at it.
    }
  },
  { immediate: true },
)
function askedWords(v: View): string {
  const lines = asked.value[v.id]
  const several = capitalised(described.value[v.register]?.several ?? v.registerLabel)
  if (!lines)
    return v.id in asked.value ? `${several}: it asks for something that is not there any more.` : several
  return lines.length ? `${several} whose ${lines.join(' and ')}` : `${several}, every one of them`
}
const narrowed = computed(() => [search, whose, register, label, team, only].some((p) => p.value !== ''))
function showAll() {
  void router.replace({ query: by.value ? { by: by.value } : {} })
}

// ------------------------------------------------------------------ many at once

const manageable = computed(() => new Set(views.all.filter((v) => v.may === 'MANAGE').map((v) => v.id)))
const choosing = computed(() => session.mayWrite && manageable.value.size > 0)
const picked = computed(() => views.all.filter((v) => chosen.value.includes(v.id)))
const allChosen = computed(() => {
  const may = ordered.value.filter((v) => manageable.value.has(v.id))
  return may.length > 0 && may.every((v) => chosen.value.includes(v.id))
})
function chooseAll() {
  const may = ordered.value.filter((v) => manageable.value.has(v.id)).map((v) => v.id)
  chosen.value = allChosen.value
    ? chosen.value.filter((id) => !may.includes(id))
    : [...new Set([...chosen.value, ...may])]
}
async function cared(words: string) {
  chosen.value = []
  said.value = words
  try {
    await Promise.all([views.load(), loadDeleted()])
  } catch (e) {
    trouble.value = sentence(e)
  }
}

async function restore(view: View) {
  try {
    const back = await data(api.POST('/api/views/{id}/restore', { params: { path: { id: view.id } } }))
    views.put(back as View)
    deleted.value = deleted.value.filter((v) => v.id !== view.id)
    said.value = `“${back.name}” is back.`
  } catch (e) {
    trouble.value = sentence(e)
  }
}

function usedWords(v: View): string {
  const use = used(v)
  if (!use?.lastOpenedAt) return 'not opened yet'
  const last = `last opened ${day(localDay(use.lastOpenedAt, session.zone))}`
  return use.readers ? `${last}, by ${use.readers} in 30 days` : last
}

announceRested(() => `${counted(found.value.length, 'view')} of ${views.all.length}`)
</script>

<template>
  <main class="views">
    <header>
      <h1>All views</h1>
      <input
        v-model="search"
        class="field"
        type="search"
        aria-label="Search views"
        placeholder="Name, purpose, field, person, team, words of the statement"
        title="Name, purpose, field, person, team, words of the statement"
      />
      <button type="button" class="word" @click="fileOpen = true">Export or import…</button>
    </header>
    <SkipLink v-if="shown.length" to="views-found">Skip to the views</SkipLink>
    <div class="finding" role="group" aria-label="Narrow the views">
      <select v-model="whose" class="field" aria-label="Whose">
        <option value="">anybody’s</option>
        <option value="mine">mine</option>
        <option v-for="[id, name] in owners" :key="id" :value="String(id)">{{ name }}</option>
      </select>
      <select v-model="register" class="field" aria-label="Register">
        <option value="">any register</option>
        <option v-for="[key, name] in registers" :key="key" :value="key">{{ name }}</option>
      </select>
      <select v-if="labels.length" v-model="label" class="field" aria-label="Label">
        <option value="">any label</option>
        <option v-for="l in labels" :key="l">{{ l }}</option>
      </select>
      <select v-if="teams.length" v-model="team" class="field" aria-label="Shared with the team">
        <option value="">any team</option>
        <option v-for="[id, name] in teams" :key="id" :value="String(id)">{{ name }}</option>
      </select>
      <select v-model="only" class="field" aria-label="Only those that">
        <option value="">all of them</option>
        <option value="attention">that need attention</option>
        <option value="pinned">that I pinned</option>
        <option value="manage">that I manage</option>
      </select>
      <select v-model="by" class="field" aria-label="Order">
        <option value="">by name</option>
        <option value="opened">I opened last</option>
        <option value="used">most read</option>
        <option value="unused">longest not opened</option>
        <option value="changed">changed last</option>
      </select>
      <span class="many"
        >{{ found.length }} of {{ views.all.length }}
        <button v-if="narrowed" type="button" class="word" @click="showAll">Show all</button></span
      >
    </div>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <SaidLine :words="said" />
    <RegisterNotes v-if="only === 'attention'" @looked="views.refresh()" />
    <CarePanel v-if="picked.length" :views="picked" @done="cared" @cancel="chosen = []" />
    <p v-if="choosing && ordered.length" class="choose-all">
      <label
        ><input type="checkbox" :checked="allChosen" @change="chooseAll" /> select all that I manage</label
      >
    </p>
    <ul v-if="shown.length" id="views-found">
      <li v-for="v in shown" :key="v.id" :class="{ chosen: chosen.includes(v.id) }">
        <input
          v-if="choosing"
          v-model="chosen"
          type="checkbox"
          :value="v.id"
          :disabled="!manageable.has(v.id)"
          :aria-label="`Select ${v.name}`"
        />
        <div class="one">
          <p class="name">
            <RouterLink :to="`/views/${v.id}`">{{ v.name }}</RouterLink>
            <button
              v-for="l in v.labels"
              :key="l"
              type="button"
              class="label"
              :title="`Only those labelled ${l}`"
              @click="label = l"
            >
              {{ l }}
            </button>
          </p>
          <p v-if="v.purpose">{{ v.purpose }}</p>
          <p class="statement">{{ askedWords(v) }}</p>
          <p class="about">
            {{ sharing(v) }} · {{ usedWords(v) }} · changed {{ moment(v.changedAt, session.zone) }} by
            {{ v.changedBy.fullName }}
          </p>
          <p v-for="n in used(v)?.attention" :key="n.message" class="finding-note">{{ n.message }}</p>
        </div>
        <ViewCount :id="v.id" />
      </li>
    </ul>
    <p v-if="ordered.length > drawn" class="about">
      <button type="button" class="quiet" @click="drawn += MOST">
        Show {{ Math.min(MOST, ordered.length - drawn) }} more of {{ ordered.length - drawn }}
      </button>
    </p>
    <p v-else-if="!found.length && narrowed" class="none">
      No view is like that.
      <button type="button" class="word" @click="showAll">Show all</button>
    </p>
    <p v-else-if="!views.all.length && views.loaded" class="none">
      There are no views yet. Open a register, put a question, and save it.
    </p>
    <section v-if="deleted.length">
      <h2>Deleted</h2>
      <p class="about">They can be restored for 30 days.</p>
      <ul class="deleted">
        <li v-for="v in deleted" :key="v.id">
          {{ v.name }} <span v-if="!v.mine" class="about">of {{ v.owner.fullName }}</span>
          <button type="button" class="word" @click="restore(v)">Restore</button>
        </li>
      </ul>
    </section>
    <section>
      <ViewFileDialog v-model="fileOpen" :chosen="picked" @done="cared" />
    </section>
  </main>
</template>

<style scoped>
.views {
  padding: 18px 26px 40px;
  overflow: auto;
  min-width: 0;
}

.views > * {
  max-width: 920px;
}

header {
  display: flex;
  gap: 20px;
  align-items: baseline;
}

h1 {
  font: 600 24px var(--serif);
  flex: 1;
}

h2 {
  font: 600 16px var(--sans);
  margin-top: 26px;
}

header .field {
  max-width: 420px;
}

.finding {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: baseline;
  margin-top: 10px;
}

.finding .field {
  width: auto;
  max-width: 190px;
}

.many {
  margin-left: auto;
  color: var(--ink-2);
}

.said {
  color: var(--act);
}

.choose-all {
  margin-top: 10px;
  color: var(--ink-2);
}

.choose-all label {
  display: inline-flex;
  gap: 10px;
  min-height: 24px;
  align-items: center;
}

ul {
  list-style: none;
  padding: 0;
  margin: 6px 0 0;
}

li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  border-bottom: 1px solid var(--rule);
  padding: 9px 0;
}

li > input {
  flex: none;
  width: 16px;
  height: 16px;
  position: relative;
  top: 2px;
}

li.chosen {
  background: var(--act-soft);
}

.one {
  flex: 1;
  min-width: 0;
}

.name a {
  font: 600 17px var(--serif);
  text-decoration: none;
}

.label {
  border: 1px solid var(--rule-strong);
  border-radius: 10px;
  background: none;
  padding: 0 8px;
  margin-left: 8px;
  min-height: 22px;
  color: var(--ink-2);
  font-size: 13.5px;
  cursor: pointer;
}

.statement {
  font-family: var(--serif);
  font-size: 16px;
  color: var(--ink-2);
  overflow-wrap: anywhere;
}

.finding-note {
  color: var(--alert);
  font-size: 13.5px;
}

.about,
.none {
  color: var(--ink-2);
  font-size: 13.5px;
}

.none {
  margin-top: 20px;
}

.deleted li {
  padding: 4px 0;
}
</style>
