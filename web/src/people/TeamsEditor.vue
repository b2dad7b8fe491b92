<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, onMounted, ref } from 'vue'
import { api, data, type Profile, type TeamEntry, type TeamList } from '@/api/client'
import { useViews } from '@/views/store'
import { useSession } from './session'
import SaidLine from '@/platform/SaidLine.vue'

/** Teams: their names, their members, and the views that are on their lists. */
const props = defineProps<{ people: Profile[]; teams: TeamEntry[] }>()
const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const views = useViews()

const fresh = ref('')
const opened = ref<string>()
const name = ref('')
const members = ref<string[]>([])
const listed = ref<string[]>([])
/** what stands on the lists of teams; absent until it is known */
const lists = ref<TeamList[]>()
const { busy, trouble, troubleId, said, act } = useActing()
const mayChange = computed(() => session.isAdministrator && session.mayWrite)

let loading: Promise<unknown> = Promise.resolve()
onMounted(() => (loading = attempt('', loadLists)))
async function loadLists() {
  lists.value = await data(api.GET('/api/team-lists', { params: { query: { all: true } } }))
}

const attempt = (words: string, what: () => Promise<void>) =>
  act(async () => {
    await what()
    return words
  })

const listOf = (team: string) => lists.value?.find((l) => l.team === team)?.views ?? []
async function open(team: TeamEntry) {
  // What stands on its list has to be known first, or keeping the team would empty it.
  await loading
  opened.value = opened.value === team.id ? undefined : team.id
  name.value = team.name
  members.value = [...team.members]
  listed.value = listOf(team.id).map((v) => v.id)
  trouble.value = said.value = ''
}
/** Views that the whole team may look at. */
const forTeam = computed(() =>
  views.all.filter((v) => v.shares.some((s) => !s.person && (!s.team || s.team === opened.value))),
)
const nameOf = (id: string) => views.all.find((v) => v.id === id)?.name ?? String(id)

const add = () =>
  attempt(`The team ${fresh.value} is added.`, async () => {
    await api.POST('/api/teams', { body: { name: fresh.value } })
    fresh.value = ''
    emit('changed')
  })
const keep = (team: TeamEntry) =>
  attempt(`${name.value} is kept.`, async () => {
    if (name.value !== team.name || members.value.join() !== team.members.join())
      await api.PUT('/api/teams/{id}', {
        params: { path: { id: team.id } },
        body: { version: team.version, name: name.value, members: members.value },
      })
    // Read anew now, so that a list that is refused can be mended and kept again.
    emit('changed')
    if (
      lists.value &&
      listed.value.join() !==
        listOf(team.id)
          .map((v) => v.id)
          .join()
    ) {
      await api.PUT('/api/team-lists/{team}', {
        params: { path: { team: team.id } },
        body: { views: listed.value },
      })
      await loadLists()
    }
    opened.value = undefined
  })
const remove = (team: TeamEntry) =>
  attempt(`The team ${team.name} is gone.`, async () => {
    await api.DELETE('/api/teams/{id}', {
      params: { path: { id: team.id }, query: { version: team.version } },
    })
    opened.value = undefined
    emit('changed')
  })
function moveUp(id: string) {
  const at = listed.value.indexOf(id)
  const moved = [...listed.value]
  moved.splice(at - 1, 0, ...moved.splice(at, 1))
  listed.value = moved
}
const who = (ids: string[]) =>
  props.people
    .filter((p) => ids.includes(p.id))
    .map((p) => p.fullName)
    .join(', ')
</script>

<template>
  <p class="hint">
    People who work together: views are shared with a team, its limits hold for its records, and its members
    find the views of its list on their own from the first day.
  </p>
  <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
  <SaidLine :words="said" />
  <table v-if="teams.length" class="lines">
    <thead>
      <tr>
        <th scope="col">Team</th>
        <th scope="col">Members</th>
        <th scope="col">On its list</th>
      </tr>
    </thead>
    <tbody>
      <template v-for="t in teams" :key="t.id">
        <tr>
          <td>
            <button
              v-if="mayChange"
              type="button"
              class="plain name"
              :aria-expanded="opened === t.id"
              @click="open(t)"
            >
              {{ t.name }}
            </button>
            <template v-else>{{ t.name }}</template>
          </td>
          <td>{{ who(t.members) || 'nobody' }}</td>
          <td>
            {{
              listOf(t.id)
                .map((v) => v.name)
                .join(', ') || '—'
            }}
          </td>
        </tr>
        <tr v-if="opened === t.id">
          <td colspan="3" class="panel">
            <form @submit.prevent="keep(t)">
              <fieldset :disabled="busy">
                <div class="pair">
                  <label
                    >Name <input v-model="name" name="name" class="field" required maxlength="120"
                  /></label>
                </div>
                <label class="wide"
                  >Members
                  <ElSelect
                    v-model="members"
                    multiple
                    filterable
                    aria-label="Members"
                    placeholder="Add people"
                  >
                    <ElOption v-for="p in people" :key="p.id" :value="p.id" :label="p.fullName" />
                  </ElSelect>
                </label>
                <label class="wide"
                  >Views on its list
                  <ElSelect
                    v-model="listed"
                    multiple
                    filterable
                    aria-label="Views on its list"
                    placeholder="Views that are shared with the team"
                    no-data-text="No view is shared with this team yet"
                  >
                    <ElOption v-for="v in forTeam" :key="v.id" :value="v.id" :label="v.name" />
                  </ElSelect>
                </label>
                <ol v-if="listed.length > 1" class="order">
                  <li v-for="(id, i) in listed" :key="id">
                    {{ nameOf(id) }}
                    <button
                      v-if="i"
                      type="button"
                      class="word"
                      :aria-label="`Move ${nameOf(id)} up`"
                      @click="moveUp(id)"
                    >
                      up
                    </button>
                  </li>
                </ol>
                <p class="acts">
                  <button type="submit" class="act">Save</button>
                  <button type="button" class="word" @click="opened = undefined">Close</button>
                  <button type="button" class="word" @click="remove(t)">Delete the team</button>
                </p>
              </fieldset>
            </form>
          </td>
        </tr>
      </template>
    </tbody>
  </table>
  <p v-else class="hint">There are no teams yet.</p>
  <form v-if="mayChange" class="row" @submit.prevent="add">
    <input
      v-model="fresh"
      name="name"
      class="field"
      required
      maxlength="120"
      placeholder="Night watch"
      aria-label="A new team"
    />
    <button class="quiet" :disabled="busy">Add a team</button>
  </form>
</template>

<style scoped>
.name {
  font-weight: 600;
  color: var(--act);
  min-height: 24px;
}

td {
  vertical-align: baseline !important;
}

.panel {
  background: var(--side);
}

.wide {
  display: block;
  margin-top: 10px;
}

.order {
  margin: 6px 0 0;
  padding-left: 22px;
}

.row {
  display: grid;
  grid-template-columns: minmax(0, 320px) auto;
  justify-content: start;
  gap: 10px;
  margin-top: 14px;
}
</style>
