<script setup lang="ts">
import { computed, inject, onBeforeUnmount, ref, watch } from 'vue'
import { api, data, latest, type FieldDescription } from '@/api/client'
import { counted } from '@/platform/format'
import { pastedValues } from './criterion'
import { DESK } from './desk'
import { announceRested } from '@/platform/announcements'

/** What a list holds that somebody wrote or pasted: how many values, how many stand there twice, and which no record has. */
const props = defineProps<{ field: FieldDescription; text: string }>()
const emit = defineEmits<{ without: [unknown: string[]] }>()
const desk = inject(DESK)!

/** how many of the unknown ones are named */
const NAMED = 4
/** how long a list rests before it is looked for, in milliseconds */
const RESTS = 350

const values = computed(() => pastedValues(props.text))
const found = ref<{ of: string; repeated: number; missing: string[] }>()
const looking = latest()
let timer = 0

watch(
  () => props.text,
  (text) => {
    window.clearTimeout(timer)
    if (!values.value.length) {
      found.value = undefined
      return
    }
    timer = window.setTimeout(() => void look(text), RESTS)
  },
  { immediate: true },
)
onBeforeUnmount(() => {
  window.clearTimeout(timer)
  looking.stop()
})

async function look(text: string) {
  try {
    const { repeated, missing } = await looking.ask((signal) =>
      data(
        api.POST('/api/registers/{key}/pasted', {
          params: { path: { key: desk.register.value.key } },
          body: { field: props.field.key, text },
          signal,
        }),
      ),
    )
    found.value = { of: text, repeated, missing }
  } catch {
    // The list stands without it; what cannot be in the field is said when it is applied.
    found.value = undefined
  }
}

const words = computed(() => {
  const said = [counted(values.value.length, 'value')]
  const known = found.value?.of === props.text ? found.value : undefined
  if (known?.repeated) said.push(`${counted(known.repeated, 'repetition')} left out`)
  if (known && !known.missing.length) said.push('all of them in some record')
  return said.join(', ')
})
const missing = computed(() => (found.value?.of === props.text ? found.value.missing : []))
const named = computed(
  () =>
    missing.value.slice(0, NAMED).join(', ') +
    (missing.value.length > NAMED ? ` and ${missing.value.length - NAMED} more` : ''),
)

announceRested(() => words.value + (missing.value.length ? `; in no record: ${named.value}` : ''))
</script>

<template>
  <p class="hint">
    {{ words }}<template v-if="missing.length">; in no record: {{ named }}</template
    >.
    <button v-if="missing.length" type="button" class="word" @click="emit('without', missing)">
      Leave {{ missing.length === 1 ? 'it' : 'them' }} out
    </button>
  </p>
</template>
