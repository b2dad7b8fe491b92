<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, data, isAborted, latest, type Register } from '@/api/client'
import { useRefusal } from '@/platform/useRefusal'
import { askedPath, manyOf, type Related } from './related'
import { askedOf, type Question } from './useRows'

/** What shares a value with the records of a question, in this register and in others, each to be opened there. */
const props = defineProps<{ register: Register; question: Question }>()
const open = defineModel<boolean>({ required: true })
const found = ref<Related[]>()
const asking = latest()
const { trouble, refused } = useRefusal()

watch(open, async (now) => {
  found.value = undefined
  trouble.value = ''
  if (!now) return
  try {
    found.value = await asking.ask((signal) =>
      data(
        api.POST('/api/registers/{key}/related', {
          params: { path: { key: props.register.key } },
          body: askedOf(props.question),
          signal,
        }),
      ),
    )
  } catch (e) {
    if (!isAborted(e)) refused(e)
  }
})

const lines = computed(() =>
  found.value?.map((r) => {
    const label = props.register.fields.find((f) => f.key === r.field)?.label ?? r.field
    return {
      ...r,
      words:
        r.register === props.register.register
          ? `Everything with the same ${label.toLowerCase()}`
          : `${r.label} with the same ${label.toLowerCase()}`,
      to: askedPath(r.register, r.statement, props.question.recordsAt),
    }
  }),
)
</script>

<template>
  <ElDialog v-model="open" title="Related records" width="560px">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-else-if="!lines" role="status">Looking…</p>
    <template v-else-if="lines.length">
      <ul>
        <li v-for="line in lines" :key="line.register + line.field">
          <RouterLink :to="line.to" @click="open = false">{{ line.words }}</RouterLink>
          <span class="count">{{ manyOf(line) }}</span>
        </li>
      </ul>
      <p class="hint">Each opens as a question that says so in words, which you can narrow and save.</p>
    </template>
    <p v-else>
      No field of {{ register.label }} is said to hold the values of another one. Who administers the register
      says so at the field, under “Also found in”.
    </p>
  </ElDialog>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0 0 10px;
  padding: 0;
}

li {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 12px;
  padding: 5px 0;
  border-top: 1px solid var(--rule);
}

li a {
  font-weight: 600;
}

.count,
.hint {
  color: var(--ink-2);
}
</style>
