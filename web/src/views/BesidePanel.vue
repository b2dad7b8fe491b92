<script setup lang="ts">
import { computed, nextTick, onMounted } from 'vue'
import type { Register } from '@/api/client'
import { alongArrows } from '@/platform/arrows'
import EdgesPanel from '@/rows/EdgesPanel.vue'
import RecordPanel from '@/rows/RecordPanel.vue'
import WhyPanel from '@/rows/WhyPanel.vue'
import type { Question } from '@/rows/useRows'
import type { Side } from './useBeside'
import type { useQuestion } from './useQuestion'

/** What stands beside the records: one of them, why it is in the answer or not, and the edges. */
const props = defineProps<{
  register: Register
  question: ReturnType<typeof useQuestion>
  asked: Question
  zone: string
  /** the record that is looked at */
  selected?: string
}>()
const side = defineModel<Side>({ required: true })
const emit = defineEmits<{ select: [id: string]; close: []; changed: []; posted: [words: string] }>()

const tabs = computed(() => [
  ...(props.selected !== undefined ? [{ side: 'record' as const, words: 'Record' }] : []),
  { side: 'why' as const, words: 'Why' },
  { side: 'edges' as const, words: 'Edges' },
])
function keys(event: KeyboardEvent) {
  const to = alongArrows(
    event,
    tabs.value.map((t) => t.side),
    side.value,
  )
  if (!to) return
  event.preventDefault()
  side.value = to
  document.getElementById(`side-${to}`)?.focus()
}

/** Escape puts it away also from a box to type in; a correction that is being written has its own. */
function leave(event: KeyboardEvent) {
  if (side.value === 'record') return
  event.stopPropagation()
  emit('close')
}

// On a narrow page it stands in the place of the records (as QuestionPage's styles have it), and takes the keys from them.
onMounted(async () => {
  await nextTick()
  if (matchMedia('(max-width: 760px)').matches) document.getElementById(`side-${side.value}`)?.focus()
})
</script>

<template>
  <aside class="side" :aria-label="`One ${register.recordLabel}`" @keydown.escape="leave">
    <div class="tabs">
      <div role="tablist" aria-label="About it" @keydown="keys">
        <button
          v-for="t in tabs"
          :id="`side-${t.side}`"
          :key="t.side"
          type="button"
          role="tab"
          :aria-selected="side === t.side"
          aria-controls="side"
          :tabindex="side === t.side ? 0 : -1"
          @click="side = t.side"
        >
          {{ t.words }}
        </button>
      </div>
      <button type="button" class="word close" aria-label="Close the panel" @click="emit('close')">
        Close
      </button>
    </div>
    <div id="side" role="tabpanel" :aria-labelledby="`side-${side}`">
      <WhyPanel
        v-if="side === 'why'"
        :id="selected"
        :key="`why ${asked.putting}`"
        :register="register"
        :statement="question.where.value"
        :as-of="question.asOf.value"
        :records-at="question.recordsAt.value"
        :zone="zone"
        :answers="question.answers.value"
        :outline="question.read.value?.outline"
        @found="emit('select', $event)"
      />
      <EdgesPanel
        v-else-if="side === 'edges'"
        :key="`edges ${asked.putting}`"
        :register="register"
        :outline="question.read.value?.outline"
        :question="asked"
        :zone="zone"
        :selected="selected"
        @select="emit('select', $event)"
      />
      <RecordPanel
        v-else-if="selected !== undefined"
        :id="selected"
        :register="register"
        :records-at="question.recordsAt.value"
        :zone="zone"
        @changed="emit('changed')"
        @posted="emit('posted', $event)"
      />
    </div>
  </aside>
</template>

<style scoped>
.side {
  background: var(--side);
  border-left: 1px solid var(--rule);
  padding: 18px 16px;
  overflow: auto;
}

.tabs {
  display: flex;
  gap: 18px;
  border-bottom: 1px solid var(--rule);
  margin: -6px 0 12px;
}

.tabs [role='tablist'] {
  display: flex;
  gap: 18px;
}

.tabs [role='tab'] {
  border: 0;
  background: none;
  padding: 4px 0 7px;
  cursor: pointer;
  color: var(--ink-2);
  border-bottom: 3px solid transparent;
}

.tabs [aria-selected='true'] {
  color: var(--ink);
  font-weight: 600;
  border-bottom-color: var(--act);
}

.tabs .close {
  margin-left: auto;
  font-weight: 400;
}
</style>
