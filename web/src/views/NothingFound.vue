<script setup lang="ts">
import { computed } from 'vue'
import type { Outline, PartCount, Register } from '@/api/client'
import { partWords } from '@/statements/words'

/** Says that nothing fits, and which criterion shuts everything out. */
const props = defineProps<{
  register: Register
  outline?: Outline
  /** the moment it is read at, where that is not now */
  asOf?: string
  /** the margin counts by path */
  parts: Map<string, PartCount>
  /** how far counting them is: not done yet, done, or given up */
  counted: 'counting' | 'counted' | 'uncounted'
}>()
const emit = defineEmits<{ switchOff: [path: string] }>()

/** The criteria without which something would be found; three are enough to begin with. */
const shutters = computed(() => {
  const found: { path: string; words: string }[] = []
  const walk = (part: Outline) => {
    const counts = props.parts.get(part.path)
    if (part.kind === 'criterion' && counts && counts.without > 0)
      found.push({ path: part.path, words: partWords(part) })
    if (part.kind !== 'off') part.parts.forEach(walk)
  }
  if (props.outline) walk(props.outline)
  return found.slice(0, 3)
})

/** Whether every criterion that is switched on was counted; those that take too long are not. */
const complete = computed(() => {
  const isCounted = (part: Outline): boolean =>
    part.kind === 'off' ||
    ((part.kind !== 'criterion' || props.parts.has(part.path)) && part.parts.every(isCounted))
  return props.counted === 'counted' && (!props.outline || isCounted(props.outline))
})
</script>

<template>
  <div class="empty">
    <p>No {{ register.recordLabel }} fits this statement {{ asOf ? 'as of then' : 'today' }}.</p>
    <p v-if="shutters.length" class="hint">
      Without
      <template v-for="(s, i) in shutters" :key="s.path">
        <template v-if="i > 0"> or without </template>
        <button type="button" class="quiet" @click="emit('switchOff', s.path)">{{ s.words }}</button>
      </template>
      there would be some.
    </p>
    <p v-else-if="counted === 'counting'" class="hint">Looking for what shuts everything out…</p>
    <p v-else-if="!complete" class="hint">
      It took too long to look for what shuts everything out. Switch the criteria off one by one to see.
    </p>
    <p v-else class="hint">No single criterion shuts everything out. Switch them off one by one to see.</p>
  </div>
</template>

<style scoped>
.empty {
  padding: 22px 0;
  font: 400 18px/1.5 var(--serif);
}

.hint {
  color: var(--ink-2);
  font: 400 14px/1.4 var(--sans);
}
</style>
