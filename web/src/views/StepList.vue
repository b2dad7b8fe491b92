<script setup lang="ts">
import { ref } from 'vue'
import { useSession } from '@/people/session'
import PanelButton from '@/platform/PanelButton.vue'

defineProps<{ steps: number; done: string[] }>()
const emit = defineEmits<{ back: []; forward: []; go: [count: number] }>()
const session = useSession()
const open = ref(false)

function go(count: number) {
  open.value = false
  emit('go', count)
}
</script>

<template>
  <span class="steps">
    <button
      type="button"
      class="word"
      :title="session.letterKeys ? 'Step back (u)' : 'Step back'"
      :disabled="steps === 0"
      @click="emit('back')"
    >
      Step back
    </button>
    <PanelButton
      v-model:open="open"
      name="What was done"
      :width="380"
      class="word count"
      :aria-label="`${steps}/${done.length}: what was done, ${done.length === 1 ? '1 step' : `${done.length} steps`}`"
    >
      <template #button>{{ steps }}/{{ done.length }}</template>
      <ol class="list" aria-label="What was done">
        <li>
          <button type="button" :aria-current="steps === 0 ? 'step' : undefined" @click="go(0)">
            as it was opened
          </button>
        </li>
        <li v-for="(words, i) in done" :key="i" :class="{ ahead: i >= steps }">
          <button
            type="button"
            :aria-current="steps === i + 1 ? 'step' : undefined"
            :title="words"
            @click="go(i + 1)"
          >
            {{ words }}
          </button>
        </li>
      </ol>
    </PanelButton>
    <button
      v-if="steps < done.length"
      type="button"
      class="word"
      :title="session.letterKeys ? 'Step forward (r)' : 'Step forward'"
      @click="emit('forward')"
    >
      Forward
    </button>
  </span>
</template>

<style scoped>
.steps {
  display: inline-flex;
  gap: 8px;
  align-items: baseline;
}

.steps :deep(.count) {
  color: var(--ink-2);
  font-weight: 400;
  padding: 2px;
}

.word:disabled {
  color: var(--ink-3);
  font-weight: 400;
}

.list {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 50vh;
  overflow: auto;
}

.list button {
  width: 100%;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  text-align: left;
  padding: 3px 8px;
  min-height: 26px;
  cursor: pointer;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.list button:hover {
  background: var(--head);
}

.list [aria-current] {
  background: var(--act-soft);
  border-left-color: var(--act);
  font-weight: 600;
}

.ahead button {
  color: var(--ink-3);
}
</style>
