<script setup lang="ts">
import type { Own } from '@/api/client'

/** Says that a view is shown as the reader refined it, and what of that could not be carried along. */
defineProps<{ refined?: NonNullable<Own['refined']>; asShared: boolean; has: boolean; owner: string }>()
const emit = defineEmits<{ asShared: [wanted: boolean]; drop: [] }>()
</script>

<template>
  <p v-if="refined" class="refined">
    Shown with your own refinement, which only you see.
    <button type="button" class="word" @click="emit('asShared', true)">Show it as shared</button>
    <button type="button" class="word" @click="emit('drop')">Discard mine</button>
    <span v-if="refined.lost.length" class="lost">
      {{ owner }} changed what you had changed, so theirs stands. Left aside of yours:
      <template v-for="(l, i) in refined.lost" :key="l"
        ><template v-if="i">; </template><q>{{ l }}</q></template
      >.
    </span>
  </p>
  <p v-else-if="asShared && has" class="refined">
    Shown as it is shared, without your own refinement.
    <button type="button" class="word" @click="emit('asShared', false)">Show mine</button>
  </p>
</template>

<style scoped>
.refined {
  background: var(--viewer-bg);
  color: var(--viewer);
  padding: 4px 10px;
  margin-top: 8px;
}

.word {
  color: var(--viewer);
  text-decoration: underline;
  padding: 0 3px;
}

.lost {
  display: block;
}

q {
  font-family: var(--serif);
  quotes: '“' '”';
}
</style>
