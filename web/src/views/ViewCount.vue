<script setup lang="ts">
import { computed } from 'vue'
import { useViews } from './store'

/** How many records a view shows its reader now; drawn by itself, so that a count that comes in draws nothing else again. */
const props = defineProps<{ id: string }>()
const views = useViews()
const count = computed(() => views.counts[props.id])
</script>

<template>
  <span class="count" :title="count ? 'matches now, for you' : ''">{{ count }}</span>
</template>
