<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, data, sentence, type Step, type View } from '@/api/client'
import { moment } from '@/platform/format'
import { useSession } from '@/people/session'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ view: View }>()
const session = useSession()
const steps = ref<Step[]>([])
const trouble = ref('')

watch(open, async (now) => {
  if (!now) return
  trouble.value = ''
  try {
    steps.value = await data(api.GET('/api/views/{id}/history', { params: { path: { id: props.view.id } } }))
  } catch (e) {
    trouble.value = sentence(e)
  }
})

const NAMES: Record<string, string> = {
  name: 'name',
  purpose: 'purpose',
  statement: 'statement',
  columns: 'columns',
  order: 'order',
  zone: 'zone',
}

/** What differs between the two sides of a step. */
function changes(step: Step): { what: string; from: string; to: string }[] {
  const before = step.before as Record<string, unknown> | null
  const after = step.after as Record<string, unknown> | null
  if (!before || !after || Array.isArray(after)) return []
  return Object.keys(NAMES)
    .filter((key) => JSON.stringify(before[key]) !== JSON.stringify(after[key]))
    .map((key) => ({ what: NAMES[key]!, from: words(before[key]), to: words(after[key]) }))
}

function words(value: unknown): string {
  return Array.isArray(value) ? value.join(', ') : String(value ?? '') || '(nothing)'
}
</script>

<template>
  <ElDialog v-model="open" :title="`History of “${view.name}”`" width="640px">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <ol>
      <li v-for="(step, i) in steps" :key="i">
        <p>
          <strong>{{ step.action }}</strong> by {{ step.who?.fullName ?? 'the system' }},
          {{ moment(step.at, session.zone) }}
        </p>
        <p v-for="c in changes(step)" :key="c.what" class="change">
          {{ c.what }}: <del>{{ c.from }}</del> <ins>{{ c.to }}</ins>
        </p>
      </li>
    </ol>
  </ElDialog>
</template>

<style scoped>
ol {
  list-style: none;
  padding: 0;
  margin: 0;
  max-height: 55vh;
  overflow: auto;
}

li {
  border-bottom: 1px solid var(--rule);
  padding: 7px 0;
}

.change {
  font: 400 15.5px/1.4 var(--serif);
}

del {
  color: var(--ink-3);
}

ins {
  text-decoration: none;
  background: var(--act-soft);
}
</style>
