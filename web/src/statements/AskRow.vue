<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Ask } from '@/api/client'

const props = defineProps<{ asks: Ask[]; answers: Record<string, string>; trouble?: string }>()
const emit = defineEmits<{ answer: [answers: Record<string, string>] }>()

const given = computed(() =>
  Object.fromEntries(props.asks.map((a) => [a.label, props.answers[a.label] ?? ''])),
)
const written = ref<Record<string, string>>({})
let taken: Record<string, string> = {}
watch(
  () => JSON.stringify(given.value),
  () => {
    // What is being typed stays, whatever comes in meanwhile; a blank that nobody touches follows.
    const follows = (label: string) =>
      written.value[label] === undefined || written.value[label] === taken[label]
    written.value = Object.fromEntries(
      Object.entries(given.value).map(([label, answer]) => [
        label,
        follows(label) ? answer : written.value[label]!,
      ]),
    )
    taken = given.value
  },
  { immediate: true },
)
const EXAMPLES = { VALUE: 'a value', DATE: 'a date phrase', COUNT: 'a number' }
</script>

<template>
  <form class="asks" aria-label="For you to fill in" @submit.prevent>
    <label v-for="a in asks" :key="a.label">
      {{ a.label }}
      <input
        v-model="written[a.label]"
        class="field"
        :placeholder="a.preset ?? EXAMPLES[a.kind]"
        :aria-invalid="!a.preset && !answers[a.label]"
        @change="emit('answer', { ...written })"
      />
    </label>
    <span class="hint">{{
      asks.some((a) => !a.preset && !answers[a.label])
        ? 'Fill in what has no default; the records come then.'
        : 'Left empty, the default counts.'
    }}</span>
  </form>
</template>

<style scoped>
.asks {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
  border-left: 3px solid var(--viewer-line);
  padding: 4px 0 4px 12px;
  margin-bottom: 6px;
}

label {
  display: flex;
  gap: 8px;
  align-items: center;
  color: var(--viewer);
  font-weight: 600;
}

.field {
  width: 150px;
  font-weight: 400;
}

.hint {
  color: var(--ink-2);
  font-size: 13.5px;
}
</style>
