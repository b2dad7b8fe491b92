<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Attribute, PersonEntry, Profile, TeamEntry } from '@/api/client'
import PersonPanel from './PersonPanel.vue'
import { ROLES } from './roles'
import { useSession } from './session'
import SaidLine from '@/platform/SaidLine.vue'
import { announceRested } from '@/platform/announcements'
import { counted } from '@/platform/format'

const props = defineProps<{ people: Profile[]; teams: TeamEntry[]; known: Attribute[] }>()
const emit = defineEmits<{ changed: [] }>()
const session = useSession()

const wanted = ref('')
const leftToo = ref(false)
/** the id of the person that is open, or `new` */
const opened = ref<string>()
const said = ref('')

const shown = computed(() => {
  const words = wanted.value.trim().toLowerCase().split(/\s+/).filter(Boolean)
  return props.people.filter(
    (p) =>
      (p.active || leftToo.value) &&
      words.every((w) =>
        [p.name, p.fullName, ROLES[p.role], ...p.teams.map((t) => t.name), ...Object.values(p.values).flat()]
          .join(' ')
          .toLowerCase()
          .includes(w),
      ),
  )
})
/** What is known of others is told to those who keep it, and to auditors. */
const told = computed(() => (session.readsEverything ? props.known : []))
const left = computed(() => props.people.filter((p) => !p.active).length)

function changed(words: string, entry?: PersonEntry) {
  said.value = words
  if (entry) opened.value = entry.person.id
  emit('changed')
}

announceRested(() => `${shown.value.length} of ${counted(props.people.length, 'person', 'people')}`)
</script>

<template>
  <div class="find">
    <input
      v-model="wanted"
      class="field"
      type="search"
      aria-label="Find people"
      placeholder="Name, role, team or attribute"
      title="Name, role, team or attribute"
    />
    <label v-if="left" class="tick"
      ><input v-model="leftToo" type="checkbox" /> show deactivated ({{ left }})</label
    >
    <span class="many">{{ shown.length }} of {{ people.length }}</span>
    <button v-if="session.isAdministrator" type="button" class="act" @click="((opened = 'new'), (said = ''))">
      Add a person
    </button>
  </div>
  <SaidLine :words="said" />
  <PersonPanel
    v-if="opened === 'new'"
    :teams="teams"
    :known="known"
    :people="people"
    @changed="changed"
    @close="opened = undefined"
  />
  <table v-if="shown.length" class="lines">
    <thead>
      <tr>
        <th scope="col">Name</th>
        <th scope="col">Signs in as</th>
        <th scope="col">Role</th>
        <th scope="col">Teams</th>
        <th v-for="k in told" :key="k.key" scope="col">{{ k.label }}</th>
      </tr>
    </thead>
    <tbody>
      <template v-for="p in shown" :key="p.id">
        <tr :class="{ left: !p.active }">
          <td>
            <button
              v-if="session.readsEverything"
              type="button"
              class="plain who"
              :aria-expanded="opened === p.id"
              @click="((opened = opened === p.id ? undefined : p.id), (said = ''))"
            >
              {{ p.fullName }}
            </button>
            <template v-else>{{ p.fullName }}</template>
            <span v-if="!p.active" class="small"> deactivated</span>
          </td>
          <td>{{ p.name }}</td>
          <td>{{ ROLES[p.role] }}</td>
          <td>{{ p.teams.map((t) => t.name).join(', ') || '—' }}</td>
          <td v-for="k in told" :key="k.key">{{ p.values[k.key]?.join(', ') || '—' }}</td>
        </tr>
        <tr v-if="opened === p.id">
          <td :colspan="4 + told.length" class="panel">
            <PersonPanel
              :id="p.id"
              :teams="teams"
              :known="known"
              :people="people"
              @changed="changed"
              @close="opened = undefined"
            />
          </td>
        </tr>
      </template>
    </tbody>
  </table>
  <p v-else class="hint">
    Nobody is like that.
    <button type="button" class="word" @click="wanted = ''">Show all</button>
  </p>
</template>

<style scoped>
.find {
  display: flex;
  gap: 16px;
  align-items: center;
}

.find .field {
  max-width: 320px;
}

.many {
  color: var(--ink-2);
  margin-left: auto;
}

.who {
  font-weight: 600;
  color: var(--act);
  min-height: 24px;
}

td {
  vertical-align: baseline !important;
}

.left td {
  color: var(--ink-3);
}

.panel {
  background: var(--side);
}
</style>
