<script setup lang="ts">
import { inject } from 'vue'
import type { Finding } from '@/api/client'
import { DESK } from './desk'

defineProps<{ findings: Finding[] }>()
const desk = inject(DESK)!
const KINDS: Record<string, string> = { error: 'Cannot be right', warning: 'Look again', hint: '' }
</script>

<template>
  <p v-for="f in findings" :key="f.code + f.path + f.message" class="finding" :class="f.level">
    <strong v-if="KINDS[f.level]">{{ KINDS[f.level] }}: </strong>{{ f.message }}
    <button v-if="f.mend" type="button" class="mend" :title="f.mend.statement" @click="desk.mend(f.mend)">
      {{ f.mend.label }}
    </button>
  </p>
</template>

<style scoped>
.finding {
  font: 400 13.5px/20px var(--sans);
  color: var(--ink-2);
  padding-left: 2px;
}

.finding.error,
.finding.warning {
  color: var(--alert);
}

.mend {
  border: 0;
  background: none;
  padding: 2px 3px;
  margin-left: 4px;
  font: inherit;
  color: var(--act);
  text-decoration: underline;
  text-underline-offset: 2px;
  cursor: pointer;
}
</style>
