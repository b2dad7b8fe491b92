<script setup lang="ts">
import { computed, defineAsyncComponent, onMounted, ref, watch } from 'vue'
import { api, data, sentence } from '@/api/client'
import { overRecords, type Language } from './language'
import type { Node } from './tree'
import type { Place } from './usePlaces'

const WordsEditor = defineAsyncComponent(() => import('./WordsEditor.vue'))

/** Which other records have the value: their register, and what is asked of them, in words. */
const props = defineProps<{ places: Place[] }>()
/** the key of the register */
const other = defineModel<string>('register', { required: true })
/** what is asked there; every record where it is absent */
const where = defineModel<Node | undefined>('where', { required: true })
/** whether what is typed cannot be read, or is not read yet */
const unread = defineModel<boolean>('unread', { required: true })

const words = ref<string>()
const trouble = ref('')
const listed = computed(() => {
  const there = props.places.some((p) => p.register === other.value)
  return there || !other.value
    ? props.places
    : [...props.places, { register: other.value, label: other.value } as Place]
})

/** The statement over the other register, whose tree is kept as it is read. */
const language = computed<Language>(() => ({
  ...overRecords(other.value),
  read: async (text, signal) => {
    const read = await data(
      api.POST('/api/registers/{key}/statement', {
        params: { path: { key: other.value } },
        body: { statement: text },
        signal,
      }),
    )
    where.value = read.statement ? (read.condition as Node) : undefined
    return read.statement
  },
  example: 'every one of them',
}))

function typed(statement?: string) {
  unread.value = statement === undefined
}

/** Says what is asked already in words; what cannot be said is left as it is. */
async function say() {
  trouble.value = ''
  words.value = undefined
  if (!where.value) {
    words.value = ''
    return
  }
  try {
    const read = await data(
      api.POST('/api/registers/{key}/statement', {
        params: { path: { key: other.value } },
        body: { condition: where.value },
      }),
    )
    words.value = read.statement
  } catch (e) {
    trouble.value = sentence(e)
  }
}
onMounted(() => {
  if (!other.value && props.places.length) other.value = props.places[0]!.register
  void say()
})
watch(other, (_, before) => {
  // What was asked of other records means nothing to these.
  if (before) where.value = undefined
  unread.value = false
  void say()
})
</script>

<template>
  <label class="register">
    <span class="hidden-text">Register</span>
    <select v-model="other" class="field" aria-label="Register">
      <option v-for="p in listed" :key="p.register" :value="p.register">{{ p.label }}</option>
    </select>
  </label>
  <p class="hint">whose</p>
  <WordsEditor
    v-if="words !== undefined && other"
    :key="other"
    :language="language"
    :statement="words"
    label="What is asked of them"
    live
    @typed="typed"
  />
  <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
  <p class="hint">Left empty, it is every one of them.</p>
</template>

<style scoped>
.register select {
  width: 100%;
}

.hint {
  color: var(--ink-2);
  font-size: 13px;
  margin: 6px 0 4px;
}

.trouble {
  color: var(--bad);
  margin: 4px 0;
}
</style>
