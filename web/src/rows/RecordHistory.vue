<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import {
  api,
  data,
  Problem,
  type FieldDescription,
  type RecordChange,
  type Register,
  type Row,
} from '@/api/client'
import { cell, moment } from '@/platform/format'
import { staying } from '@/platform/staying'
import { useActing } from '@/platform/useActing'
import { differing, stepsBack, told } from './story'

/** What was done to a record, and the way back to what it was after any of it. */
const props = defineProps<{
  register: Register
  record: Row
  zone: string
  /** whether the reader may write the field */
  mayCorrect: (field: FieldDescription) => boolean
}>()
const emit = defineEmits<{ back: [words: string] }>()

const { busy, trouble, refused, act } = useActing()
const steps = ref<RecordChange[]>()
const marked = staying(() => `${props.register.key}/${props.record.id}`)
const path = computed(() => ({ key: props.register.key, id: props.record.id }))

async function load() {
  const stays = marked()
  const found = await data(
    api.GET('/api/registers/{key}/records/{id}/history', { params: { path: path.value } }),
  )
  if (!stays()) return
  // What was done meanwhile is so many steps more to go back.
  if (back.value !== undefined) back.value += found.length - steps.value!.length
  steps.value = found
}
onMounted(() => act(load))
watch(
  () => props.record,
  () => load().catch(refused),
)

// ------------------------------------------------------------------ going back

/** how many steps are to be gone back */
const back = ref<number>()
const asking = ref<HTMLElement[]>()

/** What was done, and what there is to go back to: the latest is as it is now, and before all of them there may have been something. */
const stops = computed(() => {
  const done = (steps.value ?? []).map((step, at) => ({ step: step as RecordChange | undefined, at }))
  return stepsBack(steps.value ?? []) === done.length ? [...done, { step: undefined, at: done.length }] : done
})
/** Whether anything can be put back at all: the reader may write some field of the record as it is now. */
const mayGoBack = computed(() =>
  props.register.fields.some((f) => f.origin === 'COLUMN' && props.mayCorrect(f)),
)
const differences = computed(() =>
  steps.value && back.value !== undefined
    ? differing(props.register, props.record.values, steps.value, back.value)
    : [],
)
const written = computed(() => differences.value.filter((d) => props.mayCorrect(d.field)))
const left = computed(() => differences.value.filter((d) => !props.mayCorrect(d.field)))

/** When the record was as it is to be. */
function then(at: number): string {
  const step = steps.value![at]
  return step
    ? `after ${moment(step.at, props.zone)}`
    : `before ${moment(steps.value!.at(-1)!.at, props.zone)}`
}

async function look(at: number) {
  back.value = at
  await nextTick()
  asking.value?.[0]?.focus()
}

/** Closes the question, and goes with the keys to what opened it. */
async function leave(at: number) {
  back.value = undefined
  await nextTick()
  document.querySelector<HTMLElement>(`[data-back="${at}"]`)?.focus()
}

async function putBack() {
  const words = then(back.value!)
  const stays = marked()
  const done = await act(
    async () => {
      await api.PATCH('/api/registers/{key}/records/{id}', {
        params: { path: path.value },
        body: {
          values: Object.fromEntries(written.value.map((d) => [d.field.key, d.then])),
          was: Object.fromEntries(written.value.map((d) => [d.field.key, d.now])),
          reason: `As it was ${words}`,
        } as never,
      })
    },
    (e) => {
      if (!(e instanceof Problem && e.code === 'changed-meanwhile')) return
      trouble.value = 'Somebody changed it meanwhile. Nothing was written; look at what is otherwise now.'
      emit('back', '')
    },
  )
  if (!done || !stays()) return
  back.value = undefined
  emit('back', `It is as it was ${words}.`)
}
</script>

<template>
  <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
  <template v-if="steps">
    <p v-if="!steps.length" class="small">Nobody yet.</p>
    <ol v-else class="steps">
      <li v-for="{ step, at } in stops" :key="at">
        <template v-if="step">
          <strong>{{ step.who ?? 'The system' }}</strong> {{ step.action }}, {{ moment(step.at, zone) }}
          <p v-if="step.reason" class="small">“{{ step.reason }}”</p>
          <p class="small">{{ told(register, step, zone) }}</p>
        </template>
        <p v-else class="small">Before all that</p>
        <form v-if="back === at" class="back" @submit.prevent="putBack" @keydown.esc.stop="leave(at)">
          <p v-if="!differences.length">It is now as it was {{ then(at) }}.</p>
          <template v-if="written.length">
            <p>As it was {{ then(at) }}, it would have:</p>
            <ul>
              <li v-for="d in written" :key="d.field.key">
                {{ d.field.label }}: {{ cell(d.field, d.now, zone) }} → {{ cell(d.field, d.then, zone) }}
              </li>
            </ul>
          </template>
          <p v-if="left.length" class="small">
            Not open to correction by you, and left as it is: {{ left.map((d) => d.field.label).join(', ') }}.
          </p>
          <span class="acts">
            <button v-if="written.length" ref="asking" type="submit" class="act" :disabled="busy">
              Put it back
            </button>
            <button type="button" class="word" @click="leave(at)">Cancel</button>
          </span>
        </form>
        <button
          v-else-if="at && mayGoBack"
          type="button"
          class="word"
          :data-back="at"
          :aria-label="`Back to this: as it was ${then(at)}`"
          @click="look(at)"
        >
          Back to this…
        </button>
      </li>
    </ol>
  </template>
</template>

<style scoped>
.steps,
.back ul {
  list-style: none;
  padding: 0;
  margin: 4px 0 10px;
}

.steps > li {
  border-top: 1px solid var(--rule);
  padding: 5px 0;
}

.small {
  color: var(--ink-2);
}

.back {
  background: var(--act-soft);
  border-left: 3px solid var(--act);
  margin-top: 4px;
  padding: 6px 8px;
}

.acts {
  display: flex;
  gap: 10px;
  margin-top: 4px;
}
</style>
