<script setup lang="ts">
/** One thing that can be done with a part of a statement. */
export interface Tool {
  word: string
  /** what it does and the key that does it, for who points at it */
  title: string
  /** what it is done to, behind the word, for who hears it */
  about: string
  does: () => void
}

/** What can be done with a part of a statement: a toolbar that is gone along by arrows from its phrase. */
defineProps<{ tools: Tool[]; name: string }>()
</script>

<template>
  <span class="tools" role="toolbar" :aria-label="`What can be done: ${name}`">
    <button
      v-for="t in tools"
      :key="t.word"
      type="button"
      class="tool"
      tabindex="-1"
      :title="t.title"
      :aria-label="`${t.word}: ${t.about}`"
      @click="t.does"
    >
      {{ t.word }}
    </button>
  </span>
</template>

<style scoped>
/* Take no room from the words: where a line is full they lie over the margin while they are wanted. */
.tools {
  display: inline-flex;
  gap: 2px;
  width: 0;
  z-index: 1;
  opacity: 0;
  font: 400 13.5px var(--sans);
  white-space: nowrap;
}

.line:hover .tools,
.line:focus-within .tools {
  opacity: 1;
}

.tool {
  border: 0;
  background: var(--page);
  color: var(--ink-2);
  padding: 2px 6px;
  min-height: 24px;
  cursor: pointer;
  border-radius: 3px;
}

.tool:hover {
  background: var(--act-soft);
  color: var(--act);
}

@media (max-width: 1000px), (hover: none) {
  .tools {
    display: none;
  }

  .line:hover .tools,
  .line:focus-within .tools {
    display: inline-flex;
    flex-wrap: wrap;
    width: auto;
  }
}
</style>
