<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, ref, watch } from 'vue'
import {
  api,
  data,
  Problem,
  sentence,
  type Audience,
  type May,
  type Outline,
  type Profile,
  type Share,
  type TeamEntry,
  type View,
} from '@/api/client'
import { partWords } from '@/statements/words'
import AccessCheck from './AccessCheck.vue'
import { granted, MAY_WORDS } from './store'
import { announceRested } from '@/platform/announcements'

/** With whom a view is shared and what they may do; what they would not see of it; which parts stay as they are. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  view: View
  /** the statement as it is kept; absent while the page asks something else */
  outline?: Outline
}>()
const emit = defineEmits<{ shared: [view: View] }>()

const people = ref<Profile[]>([])
const teams = ref<TeamEntry[]>([])
const shares = ref<Share[]>([])
const locked = ref<number[]>([])
const audience = ref<Audience>()
const version = ref(0)
const adding = ref('')
const { busy, trouble, act } = useActing()

watch(open, async (now) => {
  if (!now) return
  shares.value = props.view.shares.map((s) => ({ ...s, may: granted(s), mayChange: undefined }))
  locked.value = [...props.view.locked]
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
const active = computed(() => people.value.filter((p) => p.active))
watch([open, shares], () => void reach(), { deep: true })

/** Whom the shares reach, and who of them would see less than all. */
async function reach() {
  if (!open.value) return
  const asked = shares.value
  if (!asked.length) {
    audience.value = undefined
    return
  }
  try {
    const found = await data(
      api.POST('/api/views/{id}/audience', { params: { path: { id: props.view.id } }, body: sent() }),
    )
    if (asked === shares.value) audience.value = found as Audience
  } catch {
    // It is a help, not a condition.
  }
}
const sent = () => shares.value.map(({ person, team, may }) => ({ person, team, may }))

const key = (s: Share) => (s.person ? `p${s.person}` : s.team ? `t${s.team}` : 'e')
const left = computed(() => {
  const taken = new Set(shares.value.map(key))
  return {
    everyone: !taken.has('e'),
    teams: teams.value.filter((t) => !taken.has(`t${t.id}`)),
    people: active.value.filter((p) => !taken.has(`p${p.id}`) && p.id !== props.view.owner.id),
  }
})

function add(what: string) {
  if (!what) return
  const id = what.slice(1)
  const share: Share =
    what === 'e'
      ? { label: 'Everyone' }
      : what[0] === 't'
        ? { team: id, label: teams.value.find((t) => t.id === id)?.name }
        : { person: id, label: people.value.find((p) => p.id === id)?.fullName }
  shares.value = [...shares.value, { ...share, may: 'LOOK' }]
  adding.value = ''
}

/** The lines of the statement, of which each can be locked. */
const lines = computed(() => {
  if (!props.outline) return []
  const parts = props.outline.kind === 'all' ? props.outline.parts : [props.outline]
  return parts.map(partWords)
})
const names = (list: string[]) =>
  list.slice(0, 5).join(', ') + (list.length > 5 ? ` and ${list.length - 5} more` : '')

async function save() {
  const path = { id: props.view.id }
  await act(
    async () => {
      let view = (await data(
        api.PUT('/api/views/{id}/shares', {
          params: { path },
          body: { version: version.value, shares: sent() },
        }),
      )) as View
      version.value = view.version
      // The page goes on from here, also where the locks are refused.
      emit('shared', view)
      const wanted = [...locked.value].sort((a, b) => a - b)
      if (props.outline && wanted.join() !== props.view.locked.join()) {
        view = (await data(
          api.PATCH('/api/views/{id}', {
            params: { path },
            body: { version: view.version, locked: wanted },
          }),
        )) as View
        emit('shared', view)
      }
      open.value = false
    },
    (e) => {
      if (e instanceof Problem && e.code === 'changed-meanwhile') {
        version.value = (e.details.current as View).version
        trouble.value += ' Press Share again to set these shares all the same.'
      }
    },
  )
}

announceRested(() =>
  audience.value
    ? `It reaches ${audience.value.people} ${audience.value.people === 1 ? 'person' : 'people'} beside its owner.`
    : '',
)
</script>

<template>
  <ElDialog v-model="open" :title="`Share “${view.name}”`" width="600px">
    <p class="hint">
      Each reader gets today’s answer for themselves: “my site” is theirs. To look: they may refine it for
      themselves and keep copies. To change: they may change this one. To manage: they may also share and
      delete it.
    </p>
    <ul v-if="shares.length">
      <li v-for="(s, i) in shares" :key="key(s)">
        <span class="name">{{ s.label }}</span>
        <select v-model="s.may" class="field" :aria-label="`What ${s.label} may do`">
          <option v-for="(text, may) in MAY_WORDS" :key="may" :value="may as May">{{ text }}</option>
        </select>
        <button
          type="button"
          class="word"
          :aria-label="`remove ${s.label}: stop sharing`"
          @click="shares = shares.filter((_, j) => j !== i)"
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
    <section v-if="audience" class="audience" aria-label="Whom it reaches">
      <p>
        It reaches {{ audience.people }} {{ audience.people === 1 ? 'person' : 'people' }} beside its owner.
      </p>
      <p v-if="audience.closed.length" class="less">
        Not open to {{ names(audience.closed) }}: the register is closed to them, and sharing does not open
        it.
      </p>
      <p v-for="l in audience.limited" :key="l.people.join()" class="less">
        {{ names(l.people) }} {{ l.people.length > 1 ? 'see' : 'sees' }} less:
        <template v-if="l.limits.length">only records for which {{ l.limits.join(', or ') }}</template
        ><template v-if="l.limits.length && l.hidden.length">; </template
        ><template v-if="l.hidden.length">without {{ l.hidden.join(', ') }}</template
        >. Sharing does not change that.
      </p>
    </section>
    <fieldset v-if="lines.length" class="locks">
      <legend>Parts that readers may not change</legend>
      <label v-for="(l, i) in lines" :key="i">
        <input v-model="locked" type="checkbox" :value="i" /> <span class="line">{{ l }}</span>
      </label>
    </fieldset>
    <p v-else-if="!outline" class="hint locks">
      Save or discard the changes on the page to say which parts readers may not change.
    </p>
    <AccessCheck :view="view" :people="active" />
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
  max-height: 30vh;
  overflow: auto;
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

.audience {
  margin-top: 8px;
}

.less {
  border-left: 3px solid var(--viewer-line);
  padding-left: 10px;
  margin-top: 4px;
}

.locks {
  border: 0;
  padding: 0;
  margin: 14px 0 0;
}

legend {
  font-weight: 600;
  padding: 0;
}

.locks label {
  display: flex;
  gap: 8px;
  align-items: baseline;
  min-height: 26px;
}

.line {
  font: 400 16.5px/1.4 var(--serif);
}

.notice {
  margin-top: 10px;
}

.act {
  margin-left: 12px;
}
</style>
