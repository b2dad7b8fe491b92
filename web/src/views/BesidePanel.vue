<script setup lang="ts">
import type { Register } from '@/api/client'
import EdgesPanel from '@/rows/EdgesPanel.vue'
import RecordPanel from '@/rows/RecordPanel.vue'
import WhyPanel from '@/rows/WhyPanel.vue'
import type { Question } from '@/rows/useRows'
import type { useQuestion } from './useQuestion'

/** What stands beside the records: one of them, why it is in the answer or not, and the edges. */
defineProps<{
  register: Register
  question: ReturnType<typeof useQuestion>
  asked: Question
  zone: string
  /** the record that is looked at */
  selected?: string
}>()
const side = defineModel<'record' | 'why' | 'edges'>({ required: true })
const emit = defineEmits<{ select: [id: string]; close: []; changed: [] }>()
</script>

<template>
  <aside class="side" :aria-label="`One ${register.recordLabel}`">
    <div class="tabs">
      <div role="tablist" aria-label="About it">
        <button
          v-if="selected !== undefined"
          type="button"
          role="tab"
          :aria-selected="side === 'record'"
          @click="side = 'record'"
        >
          Record
        </button>
        <button type="button" role="tab" :aria-selected="side === 'why'" @click="side = 'why'">Why</button>
        <button type="button" role="tab" :aria-selected="side === 'edges'" @click="side = 'edges'">
          Edges
        </button>
      </div>
      <button type="button" class="word close" aria-label="Close the panel" @click="emit('close')">
        Close
      </button>
    </div>
    <WhyPanel
      v-if="side === 'why'"
      :id="selected"
      :key="`why ${asked.putting}`"
      :register="register"
      :statement="question.where.value"
      :as-of="question.asOf.value"
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
      :zone="zone"
      @changed="emit('changed')"
    />
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

@media (max-width: 1000px) {
  .side {
    position: fixed;
    right: 0;
    top: 40px;
    bottom: 0;
    width: min(320px, 100%);
    box-shadow: var(--shadow);
    z-index: 4;
  }
}
</style>
