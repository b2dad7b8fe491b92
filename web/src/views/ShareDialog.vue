<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import {
  api,
  data,
  Problem,
  sentence,
  type Profile,
  type Share,
  type TeamName,
  type View,
} from '@/api/client'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ view: View }>()
const emit = defineEmits<{ shared: [view: View] }>()

const people = ref<Profile[]>([])
const teams = ref<TeamName[]>([])
const shares = ref<Share[]>([])
const version = ref(0)
const adding = ref('')
const trouble = ref('')
const busy = ref(false)

watch(open, async (now) => {
  if (!now) return
  shares.value = props.view.shares.map((s) => ({ ...s }))
  version.value = props.view.version
  trouble.value = ''
  try {
    ;[people.value, teams.value] = await Promise.all([
      data(api.GET('/api/people')),
      data(api.GET('/api/teams')),
    ])
  } catch (e) {
    trouble.value = sentence(e)
  }
})

const key = (s: Share) => (s.person ? `p${s.person}` : s.team ? `t${s.team}` : 'e')
const left = computed(() => {
  const taken = new Set(shares.value.map(key))
  return {
    everyone: !taken.has('e'),
    teams: teams.value.filter((t) => !taken.has(`t${t.id}`)),
    people: people.value.filter((p) => !taken.has(`p${p.id}`) && p.id !== props.view.owner.id),
  }
})

function add(what: string) {
  if (!what) return
  const id = Number(what.slice(1))
  if (what === 'e') shares.value.push({ mayChange: false, label: 'Everyone' })
  else if (what[0] === 't')
    shares.value.push({ team: id, mayChange: false, label: teams.value.find((t) => t.id === id)?.name })
  else
    shares.value.push({
      person: id,
      mayChange: false,
      label: people.value.find((p) => p.id === id)?.fullName,
    })
  adding.value = ''
}

async function save() {
  busy.value = true
  trouble.value = ''
  try {
    const view = await data(
      api.PUT('/api/views/{id}/shares', {
        params: { path: { id: props.view.id } },
        body: { version: version.value, shares: shares.value },
      }),
    )
    emit('shared', view as View)
    open.value = false
  } catch (e) {
    trouble.value = sentence(e)
    if (e instanceof Problem && e.code === 'changed-meanwhile') {
      version.value = (e.details.current as View).version
      trouble.value += ' Press Share again to set these shares all the same.'
    }
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <ElDialog v-model="open" :title="`Share “${view.name}”`" width="520px">
    <p class="hint">
      Each reader gets today’s answer for themselves: “my site” is theirs. To look: they may keep a copy. To
      change: they may change this one.
    </p>
    <ul v-if="shares.length">
      <li v-for="(s, i) in shares" :key="key(s)">
        <span class="name">{{ s.label }}</span>
        <select v-model="s.mayChange" class="field" :aria-label="`What ${s.label} may do`">
          <option :value="false">to look</option>
          <option :value="true">to change</option>
        </select>
        <button
          type="button"
          class="word"
          :aria-label="`Stop sharing with ${s.label}`"
          @click="shares.splice(i, 1)"
        >
          remove
        </button>
      </li>
    </ul>
    <p v-else class="nobody">Shared with nobody yet.</p>
    <ElSelect
      v-model="adding"
      filterable
      default-first-option
      placeholder="Add a person, a team or everyone"
      aria-label="Add a person, a team or everyone"
      class="adding"
      @change="add"
    >
      <ElOption v-if="left.everyone" value="e" label="Everyone" />
      <ElOptionGroup label="Teams">
        <ElOption v-for="t in left.teams" :key="t.id" :value="`t${t.id}`" :label="t.name" />
      </ElOptionGroup>
      <ElOptionGroup label="People">
        <ElOption v-for="p in left.people" :key="p.id" :value="`p${p.id}`" :label="p.fullName" />
      </ElOptionGroup>
    </ElSelect>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <template #footer>
      <button type="button" class="word" @click="open = false">Cancel</button>
      <button type="button" class="act" :disabled="busy" @click="save">Share</button>
    </template>
  </ElDialog>
</template>

<style scoped>
.hint,
.nobody {
  color: var(--ink-2);
}

.nobody {
  margin: 12px 0;
}

ul {
  list-style: none;
  padding: 0;
  margin: 12px 0;
}

li {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 3px 0;
}

.name {
  flex: 1;
}

li .field {
  width: 130px;
}

.adding {
  width: 100%;
}

.notice {
  margin-top: 10px;
}

.act {
  margin-left: 12px;
}
</style>
