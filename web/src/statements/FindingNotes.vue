<script setup lang="ts">
import { inject } from 'vue'
import type { Finding } from '@/api/client'
import { DESK } from './desk'

defineProps<{
  findings: Finding[]
  /** whether something stands before them on the line */
  after?: boolean
}>()
const desk = inject(DESK)!
const KINDS: Record<string, string> = { error: 'Cannot be right', warning: 'Look again', hint: '' }
</script>

<template>
  <span
    v-for="(f, i) in findings"
    :key="f.code + f.path + f.message"
    class="finding"
    :class="f.level"
    :role="f.level === 'error' ? 'alert' : undefined"
  >
    <template v-if="f.level === 'hint' && (after || i > 0)"> · </template>
    <strong v-if="KINDS[f.level]">{{ KINDS[f.level] }}: </strong>{{ f.message.replace(/\.$/, '') }}
    <button v-if="f.mend" type="button" class="mend" @click="desk.mend(f.mend)">
      {{ f.mend.label }}
    </button>
  </span>
</template>

<style scoped>
.finding {
  font: 400 13.5px/20px var(--sans);
  color: var(--ink-2);
}

.finding.error,
.finding.warning {
  display: block;
  padding-left: 2px;
  color: var(--alert);
}

.mend {
  border: 0;
  background: none;
  padding: 2px 3px;
  margin-left: 2px;
  font: inherit;
  line-height: 20px;
  color: var(--act);
  text-decoration: underline;
  text-underline-offset: 2px;
  cursor: pointer;
}
</style>
