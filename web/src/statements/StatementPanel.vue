<script setup lang="ts">
import { computed, defineAsyncComponent, inject, ref, watch } from 'vue'
import type { Outline, Register } from '@/api/client'
import CriterionEditor from './CriterionEditor.vue'
import { capitalised } from '@/platform/format'
import { DESK } from './desk'
import FindingNotes from './FindingNotes.vue'
import { overRecords } from './language'
import SoughtRow from './SoughtRow.vue'
import StatementPart from './StatementPart.vue'
import type { Node } from './tree'
import { useFocusKept } from './useFocusKept'

const WordsEditor = defineAsyncComponent(() => import('./WordsEditor.vue'))

const props = defineProps<{
  register: Register
  outline?: Outline
  statement: string
  writing: boolean
  /** whether the statement is still being read */
  settling: boolean
  /** whether the records were not looked at to the end for what could be noticed */
  unchecked?: boolean
}>()
const emit = defineEmits<{ write: [statement: string]; 'update:writing': [writing: boolean]; check: [] }>()
const desk = inject(DESK)!

const tree = computed(() => (props.outline?.node ?? { all: [] }) as Node)
/** Nothing asked is known at once, so that no line comes in later and moves the records. */
const empty = computed(() =>
  props.outline ? props.outline.kind === 'all' && props.outline.parts.length === 0 : props.statement === '',
)
/** The lines of the paragraph: the parts of the outermost "all of", or the one part there is. */
const lines = computed(() =>
  !props.outline || empty.value ? [] : props.outline.kind === 'all' ? props.outline.parts : [props.outline],
)
/** Several of its records, as a sentence begins with them. */
const several = computed(() => capitalised(props.register.recordsLabel))
const lead = (i: number) => {
  if (i > 0) return 'and'
  const first = lines.value[0]
  const inner = first?.kind === 'off' ? first.parts[0] : first
  return `${several.value} ${inner?.kind === 'criterion' ? 'whose' : 'for which'}`
}
/** What is said of the whole; a statement of one criterion says it beside that. */
const whole = computed(() => (props.outline?.kind === 'criterion' ? [] : (desk.findings.value.get('') ?? [])))
const root = ref<HTMLElement>()
useFocusKept(
  root,
  () => props.outline,
  () => tree.value,
  () => desk.opened.value,
  () => props.settling,
)
const adding = computed(() => desk.opened.value?.path === '' && desk.opened.value.adds === 'all')

// What was written is left or taken: the keys go back to what opened it, if they are nowhere else.
watch(
  () => props.writing,
  (now) => {
    if (!now && document.activeElement === document.body)
      root.value?.querySelector<HTMLElement>('.write')?.focus()
  },
  { flush: 'post' },
)
</script>

<template>
  <section ref="root" class="statement" aria-label="Statement" :aria-busy="settling">
    <WordsEditor
      v-if="writing"
      :language="overRecords(register.key)"
      :statement="statement"
      :label="`Statement over ${register.label}`"
      @apply="emit('write', $event)"
      @cancel="emit('update:writing', false)"
    />
    <template v-else>
      <p v-if="empty" class="every">{{ several }}, <span class="all">every one of them</span></p>
      <p v-else-if="!outline" class="every all">{{ several }} where {{ statement }}</p>
      <StatementPart
        v-for="(part, i) in lines"
        :key="part.path"
        :part="part"
        :lead="lead(i)"
        :tree="tree"
        :last="i === lines.length - 1"
      />
      <FindingNotes v-if="whole.length" :findings="whole" />
      <p v-if="unchecked && !empty" class="unchecked">
        Not checked against the records: that took too long.
        <button type="button" class="word" @click="emit('check')">Check again</button>
      </p>
      <CriterionEditor
        v-if="adding"
        :key="desk.opened.value?.field"
        :about="desk.opened.value?.field"
        @apply="desk.apply"
        @cancel="desk.close"
      />
      <div class="last">
        <button
          v-if="!adding"
          type="button"
          class="add"
          aria-keyshortcuts="a"
          @click="desk.open({ path: '', adds: 'all' })"
        >
          {{ empty ? 'whose…' : 'and…' }}
        </button>
        <SoughtRow v-if="!adding" />
        <slot name="order" />
        <button type="button" class="write" aria-keyshortcuts="w" @click="emit('update:writing', true)">
          write it as words
        </button>
      </div>
    </template>
  </section>
</template>

<style scoped>
.unchecked {
  margin: 2px 0 0;
  font: 400 13.5px/20px var(--sans);
  color: var(--ink-2);
}

.every {
  font: 400 19.5px/29px var(--serif);
}

.all {
  color: var(--ink-2);
}

.last {
  display: flex;
  align-items: baseline;
  gap: 0 18px;
  flex-wrap: wrap;
}

.add {
  border: 0;
  background: none;
  padding: 0 2px;
  font: italic 400 18px/29px var(--serif);
  color: var(--act);
  cursor: pointer;
  border-bottom: 1px dashed var(--act-line);
  line-height: 24px;
}

.write {
  border: 0;
  background: none;
  margin-left: auto;
  padding: 2px;
  color: var(--ink-2);
  cursor: pointer;
}

.write:hover {
  color: var(--act);
}
</style>
