<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { api, data, isAborted, latest, type Register, type Schemas } from '@/api/client'
import { cell, counted, day, localDay, moment, number } from '@/platform/format'
import { shiftDay } from '@/platform/days'
import { useRefusal } from '@/platform/useRefusal'
import { askedOf, type Question } from '@/rows/useRows'
import { told } from '@/rows/story'
import { byKind, daysCounted } from './since'

/** Which records entered a question, left it and changed in it since a day, by whom and why; and how many there were meanwhile. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  register: Register
  question: Question
  zone: string
  /** the day that it is */
  today: string
}>()
const emit = defineEmits<{ record: [id: string] }>()
const NumberLine = defineAsyncComponent(() => import('./NumberLine.vue'))

/** How many days are looked back at first. */
const DAYS = 7
const earliest = computed(() => shiftDay(props.register.pastSince!.slice(0, 10), 1))
const since = ref('')
const answer = ref<Schemas['ChangedSince']>()
const numbers = ref<Schemas['NumberAt'][]>([])
const waiting = ref(false)
const asking = latest()
const { trouble, refused } = useRefusal()

watch(open, (now) => {
  if (!now) return
  const week = shiftDay(props.today, -DAYS)
  since.value = week < earliest.value ? earliest.value : week
  void ask()
})

async function ask() {
  if (!since.value) return
  trouble.value = ''
  answer.value = undefined
  numbers.value = []
  waiting.value = true
  const path = { key: props.register.key }
  const body = askedOf(props.question)
  try {
    await asking.ask(async (signal) => {
      const found = await data(
        api.POST('/api/registers/{key}/changed-since', {
          params: { path },
          body: { ...body, since: since.value },
          signal,
        }),
      )
      answer.value = found
      // Where windows are read as of another day, a line of days up to now is of nothing.
      if (props.question.asOf || props.question.recordsAt) return
      numbers.value = await data(
        api.POST('/api/registers/{key}/numbers-at', {
          params: { path },
          body: { ...body, moments: daysCounted(since.value, props.today) },
          signal,
        }),
      )
    })
  } catch (e) {
    if (!isAborted(e)) refused(e)
  } finally {
    waiting.value = false
  }
}

const title = computed(() => props.register.fields.find((f) => f.key === props.register.titleField)!)
const parts = computed(() => byKind(answer.value?.records ?? []))
const many = (kind: string) =>
  ({ ENTERED: answer.value!.entered, LEFT: answer.value!.left, CHANGED: answer.value!.changed })[kind]!
const record = (n: number) => counted(n, props.register.recordLabel, props.register.recordsLabel)
const points = computed(() =>
  numbers.value.length
    ? [
        ...numbers.value.map((n) => ({ words: day(localDay(n.at, props.zone)), value: n.records })),
        { words: 'now', value: answer.value!.now },
      ]
    : [],
)
const lineWords = computed(() => {
  const values = points.value.map((p) => p.value)
  return `How many there were: ${number(values[0]!)} at first, ${number(values.at(-1)!)} now, between ${number(
    Math.min(...values),
  )} and ${number(Math.max(...values))}.`
})

function show(id: string) {
  open.value = false
  emit('record', id)
}
</script>

<template>
  <ElDialog v-model="open" title="What changed here since" width="680px">
    <label class="since">
      Since the beginning of
      <input v-model="since" class="field" type="date" :min="earliest" :max="today" @change="ask" />
    </label>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-if="waiting && !answer" role="status">Looking at what was kept then…</p>
    <template v-if="answer">
      <p class="sum" role="status">
        <strong>{{ record(answer.now) }}</strong> now,
        {{ number(answer.now - answer.entered + answer.left) }} then: {{ number(answer.entered) }} entered,
        {{ number(answer.left) }} left, {{ number(answer.changed) }} changed.
      </p>
      <NumberLine v-if="points.length" :points="points" :label="lineWords" />
      <p v-if="!parts.length" class="small">Nothing of it is otherwise than on {{ day(since) }}.</p>
      <section v-for="part in parts" :key="part.kind">
        <h3>
          {{ part.words }}
          <span class="small">{{
            many(part.kind) > part.records.length
              ? `${number(part.records.length)} of ${number(many(part.kind))}`
              : number(many(part.kind))
          }}</span>
        </h3>
        <ul>
          <li v-for="r in part.records" :key="r.id">
            <button v-if="r.became !== 'LEFT'" type="button" class="plain title" @click="show(r.id)">
              {{ cell(title, r.title, zone) }}
            </button>
            <strong v-else class="title">{{ cell(title, r.title, zone) }}</strong>
            <p v-if="!r.changes.length" class="small">Nobody changed it; time went by.</p>
            <p v-for="(c, i) in r.changes" :key="i" class="small">
              {{ c.who ?? 'The system' }} {{ c.action }}, {{ moment(c.at, zone)
              }}<template v-if="c.reason">: “{{ c.reason }}”</template>
              <span v-if="c.before && c.after" class="values">{{ told(register, c, zone) }}</span>
            </p>
          </li>
        </ul>
      </section>
    </template>
  </ElDialog>
</template>

<style scoped>
.since {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 10px;
}

.since .field {
  width: auto;
}

.sum {
  margin: 12px 0 6px;
}

h3 {
  font: 600 15px var(--sans);
  margin: 14px 0 2px;
}

ul {
  list-style: none;
  padding: 0;
  margin: 0;
}

li {
  border-top: 1px solid var(--rule);
  padding: 4px 0;
}

.title {
  font-weight: 600;
}

button.title {
  color: var(--act);
  min-height: 24px;
}

.small {
  color: var(--ink-2);
  overflow-wrap: anywhere;
}

.values {
  display: block;
}
</style>
