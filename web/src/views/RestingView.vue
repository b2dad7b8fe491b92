<script setup lang="ts">
import type { UsingView } from '@/api/client'
import RelianceNote from './RelianceNote.vue'

/** A view that rests on something that is to be changed: whose it is, what it asks, who opens it; and what becomes of it. */
defineProps<{ view: UsingView }>()
</script>

<template>
  <section class="resting">
    <h3>
      <RouterLink target="_blank" :to="`/views/${view.view}`">{{ view.name }}</RouterLink>
      <span class="owner">of {{ view.owner.fullName }}</span>
    </h3>
    <p v-if="view.criteria.length" class="asks">{{ view.criteria.join('; ') }}</p>
    <slot />
    <RelianceNote :reliance="view.reliance" />
  </section>
</template>

<style scoped>
.resting {
  border-top: 1px solid var(--rule);
  margin-top: 12px;
  padding-top: 10px;
}

h3 {
  font: 600 16px/1.3 var(--sans);
}

.owner {
  margin-left: 8px;
  font-weight: 400;
  color: var(--ink-2);
}

.asks {
  font-family: var(--serif);
}
</style>
