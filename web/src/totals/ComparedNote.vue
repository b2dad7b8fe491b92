<script setup lang="ts">
import { computed } from 'vue'
import type { FieldDescription, Register } from '@/api/client'
import { windowWords, type TotalsComparison } from './sheet'

/** Which windows the figures are of that stand beside each other, and what is to be known about that. */
const props = defineProps<{ register: Register; compared: TotalsComparison; zone: string }>()
const field = computed<FieldDescription | undefined>(() =>
  props.register.fields.find((f) => f.key === props.compared.window?.field),
)
</script>

<template>
  <p class="compared">
    <template v-if="compared.window && compared.earlier"
      >{{ field?.label }} {{ windowWords(compared.window, zone) }}, beside
      <strong>{{ windowWords(compared.earlier, zone) }}</strong>. </template
    ><span v-for="note in compared.notes" :key="note">{{ note }} </span>
  </p>
</template>

<style scoped>
.compared {
  margin: 0;
  padding: 3px 0 5px;
  max-width: 900px;
}

.compared strong {
  font-weight: 600;
}
</style>
