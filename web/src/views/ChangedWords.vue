<script setup lang="ts">
import { computed } from 'vue'
import { changedWords } from '@/platform/wording'

/** Two statements as one text, with what is gone and what is new marked; never by colour alone. */
const props = defineProps<{ before: string; after: string }>()
const stretches = computed(() => changedWords(props.before || 'every record', props.after || 'every record'))
</script>

<template>
  <p class="changed-words">
    <template v-for="(s, i) in stretches" :key="i">
      <del v-if="s.kind === 'gone'">{{ s.text.trim() }}</del>
      <ins v-else-if="s.kind === 'new'">{{ s.text.trim() }}</ins>
      <template v-else>{{ s.text.trim() }}</template>
      {{ ' ' }}
    </template>
  </p>
</template>

<style scoped>
.changed-words {
  font: 400 16.5px/1.5 var(--serif);
  overflow-wrap: anywhere;
}

del {
  color: var(--ink-3);
  text-decoration: line-through;
}

ins {
  text-decoration: none;
  font-weight: 600;
  background: var(--act-soft);
  border-bottom: 1.5px solid var(--act-line);
}
</style>
