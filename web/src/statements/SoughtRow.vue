<script setup lang="ts">
import { computed, inject, nextTick, onBeforeUnmount, ref, watch } from 'vue'
import { api, data, isAborted, latest, sentence, type SoughtPart } from '@/api/client'
import { counted, number } from '@/platform/format'
import { DESK } from './desk'
import type { Node } from './tree'
import { announceRested } from '@/platform/announcements'

/**
 * A few typed words become proposed criteria, each with its number of records; what is meant is chosen, and taken with Enter.
 */
const desk = inject(DESK)!
const text = ref('')
const proposals = ref<SoughtPart[]>([])
/** which meaning of each part is chosen; -1 for none of them */
const chosen = ref<number[]>([])
/** how many records each meaning has, by its statement */
const counts = ref(new Map<string, string>())
/** what was typed and read last */
const read = ref('')
const trouble = ref('')
const reading = latest()
const counting = latest()
const RESTS = 180
let timer = 0
let pending: Promise<void> = Promise.resolve()

watch(text, (now) => {
  window.clearTimeout(timer)
  if (!now.trim()) clear()
  else timer = window.setTimeout(() => (pending = look(now)), RESTS)
})
onBeforeUnmount(() => {
  window.clearTimeout(timer)
  reading.stop()
  counting.stop()
})

function clear() {
  reading.stop()
  counting.stop()
  proposals.value = []
  read.value = trouble.value = ''
}

const asked = () => ({ asOf: desk.asOf.value, zone: desk.zone.value })
const key = () => ({ path: { key: desk.register.value.key } })

async function look(now: string) {
  try {
    const found = await reading.ask((signal) =>
      data(
        api.POST('/api/registers/{key}/proposals', {
          params: key(),
          body: { text: now, ...asked() },
          signal,
        }),
      ),
    )
    // What was chosen of a part that stands there still stays chosen.
    const before = new Map(proposals.value.map((p, i) => [p.typed, chosen.value[i]]))
    chosen.value = found.map((p) => before.get(p.typed) ?? 0)
    proposals.value = found
    read.value = now
    trouble.value = ''
    void count()
  } catch (e) {
    if (isAborted(e)) return
    trouble.value = sentence(e)
  }
}

/** Counts all meanings in one pass. */
async function count() {
  const meanings = proposals.value.flatMap((p) => p.meanings)
  if (!meanings.length) return
  try {
    const found = await counting.ask((signal, name) =>
      data(
        api.POST('/api/registers/{key}/parts', {
          params: { ...key(), header: { 'X-Question': name } },
          body: { condition: { any: meanings.map((m) => m.condition) }, ...asked() },
          signal,
        }),
      ),
    )
    const alone = new Map(found.parts.map((p) => [p.path, number(p.alone) + (p.aloneMore ? '+' : '')]))
    counts.value = new Map(
      meanings.map((m, i) => [m.statement, alone.get(meanings.length === 1 ? '' : `/any/${i}`) ?? '']),
    )
  } catch {
    // They can be taken without their numbers.
  }
}

const meant = computed(() =>
  proposals.value.flatMap((p, i) => (chosen.value[i]! < 0 ? [] : [p.meanings[chosen.value[i]!]!])),
)

async function take() {
  // What was typed a moment ago is read first: nothing is taken that nobody has seen.
  if (read.value !== text.value) {
    window.clearTimeout(timer)
    pending = look(text.value)
    await pending
    return
  }
  if (!meant.value.length) return
  desk.take(meant.value.map((m) => m.condition as Node))
  text.value = ''
  clear()
}
const box = ref<HTMLInputElement>()
function leave(event: KeyboardEvent) {
  if (event.key !== 'Escape' || !text.value) return
  event.stopPropagation()
  text.value = ''
  void nextTick(() => box.value?.focus())
}

announceRested(() =>
  proposals.value.length
    ? `${counted(proposals.value.length, 'meaning')} found. Enter adds what is chosen.`
    : read.value && read.value === text.value
      ? 'Nothing of this is known here.'
      : '',
)
</script>

<template>
  <form class="sought" aria-label="Type what you look for" @submit.prevent="take" @keydown="leave">
    <input
      ref="box"
      v-model="text"
      type="search"
      class="field"
      maxlength="200"
      aria-label="Type what you look for"
      placeholder="type what you look for"
      autocomplete="off"
    />
    <div v-if="proposals.length" class="found" aria-label="What it may mean" role="group">
      <fieldset v-for="(p, i) in proposals" :key="p.typed + i">
        <legend>{{ p.typed }}</legend>
        <div class="meanings">
          <label v-for="(m, j) in p.meanings" :key="m.statement">
            <input v-model="chosen[i]" type="radio" :name="`sought-${i}`" :value="j" />
            <span class="words">{{ m.words }}</span>
            <span class="count">{{ counts.get(m.statement) ?? '' }}</span>
          </label>
          <label class="none">
            <input v-model="chosen[i]" type="radio" :name="`sought-${i}`" :value="-1" /> leave it out
          </label>
        </div>
      </fieldset>
      <p class="acts">
        <button type="submit" class="act" :disabled="!meant.length">
          Add {{ meant.length === 1 ? 'this criterion' : `these ${meant.length} criteria` }}
        </button>
        <button type="button" class="word" @click="text = ''">Cancel</button>
        <span class="hint">Enter adds, Esc leaves</span>
      </p>
    </div>
    <p v-else-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-else-if="read && read === text" class="hint">
      Nothing of this is known here. Try a value, a name, a number, or a time such as “last month”.
    </p>
  </form>
</template>

<style scoped>
.sought {
  display: contents;
  font-family: var(--sans);
}

.sought > .field {
  flex: 1 1 220px;
  min-width: 200px;
  max-width: 400px;
  font: 400 14.5px/20px var(--sans);
}

.found,
.sought > .notice,
.sought > .hint {
  order: 9;
  flex-basis: 100%;
  font: 400 14.5px/21px var(--sans);
}

.found {
  border: 1px solid var(--rule-strong);
  border-left: 3px solid var(--act);
  background: var(--card);
  padding: 8px 14px 10px;
  margin: 4px 0 8px;
}

fieldset {
  border: 0;
  padding: 3px 0;
  margin: 0;
  display: grid;
  grid-template-columns: 150px 1fr;
}

legend {
  float: left;
  grid-row: 1 / span 9;
  padding: 1px 10px 1px 0;
  color: var(--ink-2);
  overflow-wrap: anywhere;
}

label {
  display: flex;
  gap: 7px;
  align-items: baseline;
  min-height: 24px;
}

.meanings {
  grid-column: 2;
  display: flex;
  flex-wrap: wrap;
  gap: 0 24px;
}

.words {
  font-family: var(--serif);
  font-size: 16.5px;
}

.count {
  color: var(--ink-2);
  font-variant-numeric: tabular-nums;
}

.none {
  color: var(--ink-2);
}

.acts {
  display: flex;
  gap: 10px;
  align-items: center;
  margin: 8px 0 0;
}
</style>
