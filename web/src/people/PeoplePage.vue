<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, data, sentence, type Attribute, type Profile, type TeamEntry } from '@/api/client'
import KnownEditor from './KnownEditor.vue'
import PeopleFilePanel from './PeopleFilePanel.vue'
import PeopleList from './PeopleList.vue'
import { useSession } from './session'
import TeamsEditor from './TeamsEditor.vue'
import TrailPanel from './TrailPanel.vue'

const session = useSession()
const route = useRoute()
const people = ref<Profile[]>([])
const teams = ref<TeamEntry[]>([])
const known = ref<Attribute[]>([])
const loaded = ref(false)
const trouble = ref('')

async function load() {
  trouble.value = ''
  try {
    ;[people.value, teams.value, known.value] = await Promise.all([
      data(api.GET('/api/people')),
      data(api.GET('/api/teams')),
      data(api.GET('/api/viewer-attributes')),
    ])
    loaded.value = true
  } catch (e) {
    trouble.value = sentence(e)
  }
}
onMounted(load)

const tab = computed(() => String(route.params.tab || 'people'))
const TITLES: Record<string, string> = {
  people: 'People',
  teams: 'Teams',
  known: 'Attributes',
  file: 'Import people',
  trail: 'Trail',
}
watch(tab, () => (document.title = `${TITLES[tab.value]} · Deft Lens`), { immediate: true })
const tabs = computed(() => [
  { key: 'people', to: '/people', words: 'People' },
  { key: 'teams', to: '/people/teams', words: 'Teams' },
  { key: 'known', to: '/people/known', words: 'Attributes' },
  ...(session.isAdministrator ? [{ key: 'file', to: '/people/file', words: 'Import' }] : []),
  ...(session.readsEverything ? [{ key: 'trail', to: '/people/trail', words: 'Trail' }] : []),
])
</script>

<template>
  <main class="paper">
    <h1>{{ TITLES[tab] }}</h1>
    <nav class="tabs" aria-label="People and teams">
      <RouterLink
        v-for="t in tabs"
        :key="t.key"
        :to="t.to"
        :aria-current="tab === t.key ? 'page' : undefined"
        >{{ t.words }}</RouterLink
      >
    </nav>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <template v-if="loaded">
      <TeamsEditor v-if="tab === 'teams'" :people="people" :teams="teams" @changed="load" />
      <KnownEditor v-else-if="tab === 'known'" :known="known" @changed="load" />
      <PeopleFilePanel v-else-if="tab === 'file'" :known="known" @changed="load" />
      <TrailPanel v-else-if="tab === 'trail'" :people="people" />
      <PeopleList v-else :people="people" :teams="teams" :known="known" @changed="load" />
    </template>
  </main>
</template>

<style scoped>
.tabs {
  display: flex;
  gap: 20px;
  border-bottom: 1px solid var(--rule);
  margin: 8px 0 12px;
}

.tabs a {
  color: var(--ink-2);
  text-decoration: none;
  padding: 4px 0 6px;
  border-bottom: 3px solid transparent;
}

.tabs [aria-current] {
  color: var(--ink);
  font-weight: 600;
  border-bottom-color: var(--act);
}
</style>
