<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, data, sentence, type Entered, type Profile } from '@/api/client'
import { moment } from '@/platform/format'
import { useSession } from './session'

/** Who signed in, and who changed what others may do; newest first. */
defineProps<{ people: Profile[] }>()
const session = useSession()
type Kind = 'sign-ins' | 'people' | 'views' | 'registers' | 'organisation'
const kind = ref<Kind>('sign-ins')
const person = ref<number>()
const entries = ref<Entered[]>([])
const next = ref<number>()
const trouble = ref('')
const busy = ref(false)

watch([kind, person], () => void load(), { immediate: true })
async function load(more = false) {
  busy.value = true
  trouble.value = ''
  try {
    const page = await data(
      api.GET('/api/trail', {
        params: {
          query: {
            kind: kind.value,
            person: person.value || undefined,
            before: more ? next.value : undefined,
          },
        },
      }),
    )
    entries.value = more ? [...entries.value, ...page.entries] : page.entries
    next.value = page.next ?? undefined
  } catch (e) {
    trouble.value = sentence(e)
  } finally {
    busy.value = false
  }
}

const KINDS: Record<Kind, string> = {
  'sign-ins': 'sign-ins and tokens',
  people: 'people, teams and rights',
  views: 'views',
  registers: 'registers and who sees what',
  organisation: 'the organisation',
}

/** What changed, as short as it can be said. */
function what(e: Entered): string {
  const after = plain(e.after)
  const before = plain(e.before)
  if (e.subject === 'sign-in') {
    const s = e.after as { by?: string; address?: string; name?: string } | null
    return s && typeof s === 'object'
      ? [s.name, s.by && `by ${s.by}`, s.address && `from ${s.address}`].filter(Boolean).join(', ')
      : after
  }
  if (e.before && e.after && typeof e.before === 'object' && typeof e.after === 'object') {
    const was = e.before as Record<string, unknown>
    const is = e.after as Record<string, unknown>
    return Object.keys({ ...was, ...is })
      .filter((k) => JSON.stringify(was[k]) !== JSON.stringify(is[k]))
      .map((k) => `${k}: ${plain(was[k]) || 'nothing'} → ${plain(is[k]) || 'nothing'}`)
      .join('; ')
  }
  return [before, after].filter(Boolean).join(' → ')
}
function plain(value: unknown): string {
  if (value == null) return ''
  if (typeof value !== 'object') return String(value)
  if (Array.isArray(value)) return value.map(plain).join(', ')
  const { name, fullName, label } = value as Record<string, unknown>
  if (name && typeof name === 'string') return name
  if (fullName || label) return String(fullName ?? label)
  return Object.entries(value)
    .map(([k, v]) => `${k} ${plain(v)}`)
    .join(', ')
}
</script>

<template>
  <div class="narrow" role="group" aria-label="Narrow the trail">
    <select v-model="kind" class="field" aria-label="What it is about">
      <option v-for="(words, key) in KINDS" :key="key" :value="key">{{ words }}</option>
    </select>
    <ElSelect v-model="person" filterable clearable placeholder="done by anybody" aria-label="Done by">
      <ElOption v-for="p in people" :key="p.id" :value="p.id" :label="p.fullName" />
    </ElSelect>
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
  gap: 12px;
  max-width: 560px;
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
