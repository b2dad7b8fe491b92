<script setup lang="ts">
import { computed } from 'vue'
import type { FieldDescription, Register } from '@/api/client'
import { cell, counted } from '@/platform/format'
import type { useChosen } from './useChosen'

/** How many records are chosen, in sight wherever the page is scrolled to, and what can be done with them. */
const props = defineProps<{
  register: Register
  chosen: ReturnType<typeof useChosen>
  /** the columns of the page */
  fields: FieldDescription[]
  zone: string
  /** whether the reader may change many records at once */
  mayChange: boolean
}>()
const emit = defineEmits<{ change: []; compare: []; common: []; said: [words: string] }>()

/** The most that are looked at for what they have in common. */
const MOST_READ = 30
/** The most that are opened beside each other. */
const MOST_COMPARED = 6
const { number, all, rows } = props.chosen
const words = computed(
  () =>
    `${counted(number.value, props.register.recordLabel, props.register.recordsLabel)} chosen${
      all.value ? ', all that match' + (rows.value.size ? ` but ${rows.value.size}` : '') : ''
    }`,
)
const readable = computed(() => !all.value && number.value > 1 && number.value <= MOST_READ)
const comparable = computed(() => !all.value && number.value > 1 && number.value <= MOST_COMPARED)

/** The chosen as a table: for a spreadsheet cells between tabs, for a letter a real one. */
async function copy() {
  const heads = props.fields.map((f) => f.label)
  const lines = [...rows.value.values()].map((row) =>
    props.fields.map((f) => (row.values[f.key] == null ? '' : cell(f, row.values[f.key], props.zone))),
  )
  const text = [heads, ...lines].map((line) => line.map(oneLine).join('\t')).join('\n')
  const html = `<table>${row('th', heads)}${lines.map((line) => row('td', line)).join('')}</table>`
  await navigator.clipboard.write([
    new ClipboardItem({
      'text/plain': new Blob([text], { type: 'text/plain' }),
      'text/html': new Blob([html], { type: 'text/html' }),
    }),
  ])
  emit('said', `${counted(lines.length, props.register.recordLabel, props.register.recordsLabel)} copied.`)
}
const oneLine = (text: string) => text.replace(/[\t\r\n]+/g, ' ')
function row(tag: string, cells: string[]): string {
  return `<tr>${cells.map((c) => `<${tag}>${escaped(c)}</${tag}>`).join('')}</tr>`
}
function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;')
}
</script>

<template>
  <div class="chosen" role="toolbar" aria-label="Chosen records">
    <strong role="status">{{ words }}</strong>
    <button v-if="mayChange" type="button" class="act" @click="emit('change')">Change these…</button>
    <button v-if="comparable" type="button" class="word" @click="emit('compare')">Where they differ</button>
    <button v-if="readable" type="button" class="word" @click="emit('common')">In common</button>
    <button v-if="!all" type="button" class="word" @click="copy">Copy as a table</button>
    <button v-if="!all || rows.size" type="button" class="word" @click="chosen.everything()">
      All that match
    </button>
    <button type="button" class="word" @click="chosen.invert()">The others</button>
    <button type="button" class="word" @click="chosen.none()">Let go</button>
  </div>
</template>

<style scoped>
.chosen {
  position: sticky;
  bottom: -30px;
  z-index: 3;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 14px;
  background: var(--act-soft);
  border-top: 2px solid var(--act);
  padding: 8px 10px;
}
</style>
