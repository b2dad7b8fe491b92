<script setup lang="ts">
import type { Difference } from '@/api/client'
import { counted, number } from '@/platform/format'
import { recordsOf } from '@/registers/added'

/** How many records enter and leave between two statements; the numbers lead to them. */
defineProps<{ difference: Difference }>()
</script>

<template>
  <p class="difference">
    <strong>{{ counted(difference.both + difference.leave, 'record') }}</strong>
    {{ difference.both + difference.leave === 1 ? 'becomes' : 'become' }}
    <strong>{{ number(difference.both + difference.enter) }}</strong>:
    <RouterLink
      v-if="difference.entering && difference.enter"
      target="_blank"
      :to="recordsOf(difference.register, difference.entering)"
      >{{ number(difference.enter) }} {{ difference.enter === 1 ? 'comes' : 'come' }} in</RouterLink
    >
    <template v-else>none comes in</template>,
    <RouterLink
      v-if="difference.leaving && difference.leave"
      target="_blank"
      :to="recordsOf(difference.register, difference.leaving)"
      >{{ number(difference.leave) }} {{ difference.leave === 1 ? 'goes' : 'go' }}</RouterLink
    >
    <template v-else>none goes</template>. Read as of now, for you.
  </p>
</template>

<style scoped>
.difference {
  color: var(--ink-2);
}

.difference strong {
  color: var(--ink);
}
</style>
