<script setup lang="ts">
/** How the file of an answer is written, and the link to it. */
import { fileForm } from './fileForm'

defineProps<{ url: string; zone: string; asTotals?: boolean }>()
const emit = defineEmits<{ fetch: [event: Event] }>()
</script>

<template>
  <div class="file">
    <p class="hint">
      {{
        asTotals
          ? 'The innermost rows with the figures of each column, and the total of all; rows above others are left out, so that nobody adds them up twice.'
          : 'All matching records, or the part that is shown; the view’s columns, and what they are grouped by.'
      }}
    </p>
    <fieldset>
      <legend>Times</legend>
      <label
        ><input v-model="fileForm.times" type="radio" value="local" /> by the clock of {{ zone }}, which
        stands in the head</label
      >
      <label
        ><input v-model="fileForm.times" type="radio" value="offset" /> with their offset in each cell</label
      >
    </fieldset>
    <label class="mark"
      ><input v-model="fileForm.mark" type="checkbox" /> for spreadsheets: with a byte order mark, by which
      they know that it is UTF-8</label
    >
    <a class="act" :href="url" download @click="emit('fetch', $event)">Download CSV</a>
  </div>
</template>

<style scoped>
.file {
  display: grid;
  gap: 10px;
}

.hint {
  margin: 0;
  color: var(--ink-2);
  font-size: 13.5px;
}

fieldset {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 0;
  border: 0;
}

legend {
  padding: 0;
  color: var(--ink-2);
  font-size: 13.5px;
}

label {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 7px;
  align-items: baseline;
}

.act {
  justify-self: start;
  text-decoration: none;
}
</style>
