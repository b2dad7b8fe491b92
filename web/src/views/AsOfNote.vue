<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { api, data, latest } from '@/api/client'
import type { components } from '@/api/schema'
import { number } from '@/platform/format'
import { askedOf, type Question } from '@/rows/useRows'
import { asOfWords, recordsAtWords } from '@/platform/readAt'
import { SIDES, type Side } from './asof'

/** Says which of the two is not of now, the windows or the records, and what enters and leaves between then and now. */
const props = defineProps<{ question: Question; side?: Side; ready: boolean }>()
const emit = defineEmits<{ now: []; recordsNow: []; side: [side: Side | null] }>()

const asking = latest()
const found = ref<components['schemas']['Comparison']>()
onBeforeUnmount(() => asking.stop())

watch(
  () => {
    const { register, asOf } = props.question
    return props.ready && asOf ? JSON.stringify({ register, ...askedOf(props.question) }) : ''
  },
  async (key) => {
    if (!key) return
    found.value = undefined
    try {
      found.value = await asking.ask((signal, name) =>
        data(
          api.POST('/api/registers/{key}/comparison', {
            params: { path: { key: props.question.register }, header: { 'X-Question': name } },
            body: askedOf(props.question),
            signal,
          }),
        ),
      )
    } catch {
      // The records are there without it.
    }
  },
  { immediate: true },
)

const ahead = computed(() => found.value !== undefined && found.value.asOf > found.value.against)
const words = computed<Record<Side, string>>(() =>
  ahead.value
    ? { here: 'will have come in', there: 'will have gone', both: 'in both' }
    : { here: 'gone since', there: 'come in since', both: 'in both' },
)
</script>

<template>
  <p class="as-of-note">
    <template v-if="question.asOf">
      Windows are read as of {{ asOfWords(question.asOf) }}{{ question.asOf.includes('T') ? '' : ', noon' }},
      not as of now{{ question.recordsAt ? '' : '; records are as they are kept now' }}.
      <button type="button" class="word" @click="emit('now')">Back to now</button>
    </template>
    <template v-if="question.recordsAt">
      Records are as they were kept at {{ recordsAtWords(question.recordsAt) }}, not as they are now{{
        question.asOf ? '' : '; windows are read as of now'
      }}.
      <button type="button" class="word" @click="emit('recordsNow')">Records as they are now</button>
    </template>
    <span v-if="found" class="sides" role="group" aria-label="Compared with now">
      Compared with now:
      <button
        v-for="s in SIDES"
        :key="s"
        type="button"
        class="word"
        :aria-pressed="side === s"
        @click="emit('side', side === s ? null : s)"
      >
        {{ number(found[s]) }} {{ words[s] }}
      </button>
      <span v-if="side" class="only">only these are shown</span>
    </span>
  </p>
</template>

<style scoped>
.as-of-note {
  background: var(--time-bg);
  color: var(--time);
  padding: 4px 10px;
  margin-top: 8px;
}

.word {
  color: var(--time);
  text-decoration: underline;
  padding: 0 3px;
}

.word[aria-pressed='true'] {
  background: var(--time);
  color: var(--time-bg);
  text-decoration: none;
  border-radius: 3px;
}

.sides {
  margin-left: 14px;
}

.only {
  font-weight: 600;
  margin-left: 4px;
}
</style>
