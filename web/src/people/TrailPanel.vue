<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, data, isAborted, latest, sentence, type Entered, type Profile } from '@/api/client'
import { moment } from '@/platform/format'
import { useSession } from './session'
import { what } from './trail'

/** Who signed in, and who changed what others may do; newest first. */
defineProps<{ people: Profile[] }>()
const session = useSession()
type Kind = 'sign-ins' | 'people' | 'views' | 'registers' | 'organisation'
const kind = ref<Kind>('sign-ins')
const person = ref<string>()
const days = ref<[string, string] | null>(null)
const from = computed(() => days.value?.[0] ?? '')
const to = computed(() => days.value?.[1] ?? '')
const entries = ref<Entered[]>([])
const next = ref<string>()
const trouble = ref('')
const busy = ref(false)
/** What was asked first may be answered last: only the last question counts. */
const asking = latest()

watch([kind, person, from, to], () => void load(), { immediate: true })
async function load(more = false) {
  busy.value = true
  trouble.value = ''
  try {
    const query = {
      kind: kind.value,
      person: person.value || undefined,
      from: from.value || undefined,
      to: to.value || undefined,
      before: more ? next.value : undefined,
    }
    const page = await asking.ask((signal) => data(api.GET('/api/trail', { params: { query }, signal })))
    entries.value = more ? [...entries.value, ...page.entries] : page.entries
    next.value = page.next ?? undefined
  } catch (e) {
    if (isAborted(e)) return
    trouble.value = sentence(e)
  }
  busy.value = false
}

const KINDS: Record<Kind, string> = {
  'sign-ins': 'sign-ins and tokens',
  people: 'people, teams and rights',
  views: 'views',
  registers: 'registers, access, linked servers',
  organisation: 'the organisation',
}

const file = computed(() => {
  const query = new URLSearchParams({ kind: kind.value })
  if (person.value) query.set('person', String(person.value))
  if (from.value) query.set('from', from.value)
  if (to.value) query.set('to', to.value)
  return `/api/trail/export.csv?${query}`
})
</script>

<template>
  <div class="narrow" role="group" aria-label="Narrow the trail">
    <select v-model="kind" class="field" aria-label="What it is about">
      <option v-for="(words, key) in KINDS" :key="key" :value="key">{{ words }}</option>
    </select>
    <ElSelect v-model="person" filterable clearable placeholder="done by anybody" aria-label="Done by">
      <ElOption v-for="p in people" :key="p.id" :value="p.id" :label="p.fullName" />
    </ElSelect>
    <ElDatePicker
      v-model="days"
      type="daterange"
      format="D MMM YYYY"
      value-format="YYYY-MM-DD"
      start-placeholder="first day"
      end-placeholder="last day"
      range-separator="to"
      unlink-panels
      aria-label="Done between"
    />
    <a class="word" :href="file" download>Export as CSV</a>
  </div>
  <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
  <table v-if="entries.length" class="lines">
    <thead>
      <tr>
        <th scope="col">When</th>
        <th scope="col">Who</th>
        <th scope="col">Did</th>
        <th scope="col">To</th>
        <th scope="col">What</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="e in entries" :key="e.id" :class="{ refused: e.action === 'refused' }">
        <td class="when">{{ moment(e.at, session.zone) }}</td>
        <td>{{ e.who ?? 'nobody signed in' }}</td>
        <td>{{ e.action }}</td>
        <td>{{ e.subject === 'sign-in' ? '' : (e.about ?? `${e.subject} ${e.subjectId || ''}`) }}</td>
        <td class="what">{{ what(e) }}</td>
      </tr>
    </tbody>
  </table>
  <p v-else-if="!busy && !trouble" class="hint">There is nothing of that in the trail.</p>
  <p v-if="next" class="acts">
    <button type="button" class="quiet" :disabled="busy" @click="load(true)">Show older ones</button>
  </p>
</template>

<style scoped>
.narrow {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 12px;
}

.narrow > .field,
.narrow :deep(.el-select) {
  width: 250px;
}

.narrow :deep(.el-date-editor) {
  flex: 0 0 290px;
}

.when {
  white-space: nowrap;
}

.what {
  overflow-wrap: anywhere;
}

.refused td {
  color: var(--alert);
}
</style>
