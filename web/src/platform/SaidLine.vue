<script setup lang="ts">
import { announceEach } from './announcements'

/** What a page says of what was just done: it stands there to be seen, and is announced once. */
const props = defineProps<{ words: string }>()
announceEach(() => props.words)
</script>

<template>
  <p class="said">{{ words }}<slot /></p>
</template>
