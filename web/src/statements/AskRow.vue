<script setup lang="ts">
import { computed, ref, useId, watch } from 'vue'
import type { Ask, FieldDescription } from '@/api/client'
import { useDescribed } from '@/registers/useDescribed'
import { bandLines } from './criterion'

const props = defineProps<{
  asks: Ask[]
  answers: Record<string, string>
  /** the fields of the register: what may be chosen for a blank is read from its field */
  fields?: FieldDescription[]
}>()
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
const EXAMPLES = {
  VALUE: 'a value',
  DATE: 'a date phrase',
  COUNT: 'a number',
  TIME: 'a time, such as 14:30',
  BAND: 'a band',
}

const others = useDescribed(() => props.asks.flatMap((a) => a.register ?? []))

/** What is offered while a blank is filled in; something else can be typed all the same. */
function offered(ask: Ask): string[] {
  const fields = ask.register ? others.get(ask.register)?.fields : props.fields
  const field = fields?.find((f) => f.key === ask.field)
  if (ask.kind === 'BAND') return bandLines(field).map((b) => b.name)
  if (ask.kind !== 'VALUE' || !field) return []
  return field.type === 'yes/no' ? ['yes', 'no'] : field.options.map((o) => o.label)
}
const lists = useId()
</script>

<template>
  <form class="asks" aria-label="For you to fill in" @submit.prevent>
    <label v-for="(a, i) in asks" :key="a.label">
      {{ a.label }}
      <input
        v-model="written[a.label]"
        class="field"
        :placeholder="a.preset ?? EXAMPLES[a.kind]"
        :list="offered(a).length ? `${lists}-${i}` : undefined"
        :aria-invalid="!a.preset && !answers[a.label]"
        @change="emit('answer', { ...written })"
      />
      <datalist v-if="offered(a).length" :id="`${lists}-${i}`">
        <option v-for="o in offered(a)" :key="o" :value="o" />
      </datalist>
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
