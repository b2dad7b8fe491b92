<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { counted } from '@/platform/format'
import { computed, onMounted, ref } from 'vue'
import { api, data, sentence, type May, type Profile, type TeamEntry, type View } from '@/api/client'
import { useSession } from '@/people/session'
import { MAY_WORDS } from './store'

/** Doing the same to all chosen views: share, label, hand over, delete; all of them, or none. */
const props = defineProps<{ views: View[] }>()
const emit = defineEmits<{ done: [words: string]; cancel: [] }>()

const session = useSession()
const people = ref<Profile[]>([])
const teams = ref<TeamEntry[]>([])
const what = ref<'share' | 'unshare' | 'label' | 'unlabel' | 'hand' | 'delete'>('share')
const whom = ref('')
const may = ref<May>('LOOK')
const label = ref('')
const heir = ref<string>()
const { busy, trouble, act } = useActing()

onMounted(async () => {
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
const labels = computed(() => [...new Set(props.views.flatMap((v) => v.labels))].sort())
const ready = computed(
  () =>
    what.value === 'delete' ||
    (what.value === 'hand'
      ? heir.value !== undefined
      : what.value.endsWith('label')
        ? label.value.trim() !== ''
        : whom.value !== ''),
)
const many = computed(() => counted(props.views.length, 'view'))

function share() {
  const id = whom.value.slice(1)
  return {
    person: whom.value[0] === 'p' ? id : undefined,
    team: whom.value[0] === 't' ? id : undefined,
    may: may.value,
  }
}

const askOpen = ref(false)
const others = computed(() => props.views.filter((v) => v.owner.id !== session.current?.person.id))
const shared = computed(() => props.views.filter((v) => v.shares.length))

/** Others may lean on what is deleted, so that is asked first. */
function actOrAsk() {
  if (what.value === 'delete') askOpen.value = true
  else void care()
}

async function care() {
  askOpen.value = false
  await act(async () => {
    const done = await data(
      api.POST('/api/views/care', {
        body: {
          views: props.views.map((v) => ({ view: v.id, version: v.version })),
          wanted: {
            share: what.value === 'share' ? [share()] : undefined,
            unshare: what.value === 'unshare' ? [share()] : undefined,
            addLabels: what.value === 'label' ? [label.value] : undefined,
            removeLabels: what.value === 'unlabel' ? [label.value] : undefined,
            handOverTo: what.value === 'hand' ? heir.value : undefined,
            delete: what.value === 'delete',
          },
        },
      }),
    )
    const verbs = {
      share: 'shared',
      unshare: 'no longer shared',
      label: 'labelled',
      unlabel: 'label removed',
      hand: 'handed over',
      delete: 'deleted; they can be restored for 30 days',
    }
    const renamed = done.renamed.map((r) => `“${r.from}” is called “${r.to}” now`).join('; ')
    emit('done', `${many.value} ${verbs[what.value]}.${renamed && ` ${renamed}.`}`)
  })
}
</script>

<template>
  <form class="care" :aria-label="`Do the same to ${many}`" @submit.prevent="actOrAsk">
    <strong>{{ many }}:</strong>
    <select v-model="what" class="field" aria-label="What to do">
      <option value="share">share with</option>
      <option value="unshare">stop sharing with</option>
      <option value="label">add the label</option>
      <option value="unlabel">remove the label</option>
      <option value="hand">hand over to</option>
      <option value="delete">delete</option>
    </select>
    <template v-if="what === 'share' || what === 'unshare'">
      <ElSelect
        v-model="whom"
        filterable
        default-first-option
        placeholder="Whom"
        aria-label="Whom"
        class="wide"
      >
        <ElOption value="e" label="Everyone" />
        <ElOption v-for="t in teams" :key="t.id" :value="`t${t.id}`" :label="t.name" />
        <ElOption v-for="p in active" :key="`p${p.id}`" :value="`p${p.id}`" :label="p.fullName" />
      </ElSelect>
      <select v-if="what === 'share'" v-model="may" class="field" aria-label="What they may do">
        <option v-for="(words, key) in MAY_WORDS" :key="key" :value="key">{{ words }}</option>
      </select>
    </template>
    <input
      v-else-if="what === 'label'"
      v-model="label"
      class="field wide"
      maxlength="40"
      placeholder="month end"
      aria-label="Label"
    />
    <select v-else-if="what === 'unlabel'" v-model="label" class="field wide" aria-label="Label">
      <option value="">choose a label</option>
      <option v-for="l in labels" :key="l">{{ l }}</option>
    </select>
    <ElSelect
      v-else-if="what === 'hand'"
      v-model="heir"
      filterable
      default-first-option
      placeholder="Who takes over"
      aria-label="Who takes over"
      class="wide"
    >
      <ElOption v-for="p in active" :key="p.id" :value="p.id" :label="p.fullName" />
    </ElSelect>
    <button type="submit" class="act" :disabled="!ready || busy">Do it</button>
    <button type="button" class="word" @click="emit('cancel')">Select none</button>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
  </form>
  <section>
    <ElDialog v-model="askOpen" :title="`Delete ${many}?`" width="480px">
      <p v-if="others.length">
        {{ counted(others.length, 'of them is', 'of them are') }} somebody else’s:
        {{
          others
            .slice(0, 5)
            .map((v) => `“${v.name}” (${v.owner.fullName})`)
            .join(', ')
        }}{{ others.length > 5 ? ` and ${others.length - 5} more` : '' }}.
      </p>
      <p v-if="shared.length">
        {{ counted(shared.length, 'is', 'are') }} shared; those who read
        {{ shared.length === 1 ? 'it lose it' : 'them lose them' }} too.
      </p>
      <p>They can be restored for 30 days, below on this page.</p>
      <template #footer>
        <button type="button" class="word" @click="askOpen = false">Cancel</button>
        <button type="button" class="act" :disabled="busy" @click="care">Delete</button>
      </template>
    </ElDialog>
  </section>
</template>

<style scoped>
.care {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  background: var(--card);
  border: 1px solid var(--rule-strong);
  border-left: 3px solid var(--act);
  padding: 8px 12px;
  margin-top: 10px;
  position: sticky;
  top: 0;
  z-index: 2;
}

.field {
  width: auto;
}

.wide {
  width: 200px;
}

.notice {
  flex: 1 0 100%;
}
</style>
