<script setup lang="ts">
import { computed } from 'vue'
import type { Register } from '@/api/client'
import { beginWords, endsLater, endWords, type TotalsBalance } from './sheet'

/** What each figure of a balance is of: before the window, in it, at its end. */
const props = defineProps<{ register: Register; balance: TotalsBalance; zone: string; now: string }>()
const words = computed(() => {
  const { field, window, opening } = props.balance
  const label = (key: string) => props.register.fields.find((f) => f.key === key)?.label ?? key
  const begins = window.from && beginWords(window.from, props.zone)
  const before = !begins
    ? 'zero, since the question has no beginning'
    : opening === 'zero'
      ? `zero at ${begins}`
      : `everything before ${begins}`
  const coming = window.to && endsLater(window.to, props.now, props.zone) ? ', which has not come yet' : ''
  const end = window.to ? `at ${endWords(window.to, props.zone)}${coming}` : 'with all that there is'
  return `${label(field)} by ${label(window.field)}. Opening: ${before}. Closing: ${end}.`
})
</script>

<template>
  <p class="balance">{{ words }}</p>
</template>

<style scoped>
.balance {
  margin: 0;
  padding: 3px 0 5px;
}
</style>
