<script setup lang="ts">
import { computed } from 'vue'
import { changedLines } from '@/platform/wording'

/** Two statements as one, a phrase a line, with what is gone and what is new marked; never by colour alone. */
const props = defineProps<{ before: string[]; after: string[] }>()
const whole = (lines: string[]) => (lines.length ? lines : ['every record'])
const lines = computed(() => changedLines(whole(props.before), whole(props.after)))
</script>

<template>
  <ul class="changed-words">
    <li v-for="(line, i) in lines" :key="i">
      <del v-if="line.kind === 'gone'">{{ line.text }}</del>
      <ins v-else-if="line.kind === 'new'">{{ line.text }}</ins>
      <template v-else>{{ line.text }}</template>
    </li>
  </ul>
</template>

<style scoped>
.changed-words {
  list-style: none;
  margin: 4px 0;
  padding: 0;
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
