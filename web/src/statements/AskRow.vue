<script setup lang="ts">
import { ref, watch } from 'vue'
import type { Ask } from '@/api/client'

const props = defineProps<{ asks: Ask[]; answers: Record<string, string>; trouble?: string }>()
const emit = defineEmits<{ answer: [answers: Record<string, string>] }>()

const written = ref<Record<string, string>>({})
watch(
  () => [props.asks, props.answers] as const,
  () => (written.value = Object.fromEntries(props.asks.map((a) => [a.label, props.answers[a.label] ?? '']))),
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
