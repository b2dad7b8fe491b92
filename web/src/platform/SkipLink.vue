<script setup lang="ts">
import { FOCUSABLE } from './focusKeeper'

/** For the keys: takes them past what is long, and is seen when they come to it. */
const props = defineProps<{
  /** the id of what it leads to; where that cannot have the keys itself, the first thing in it that can has them */
  to: string
}>()

function go() {
  const place = document.getElementById(props.to)
  if (!place) return
  const at = place.matches(FOCUSABLE) ? place : place.querySelector<HTMLElement>(FOCUSABLE)
  at?.focus()
}
</script>

<template>
  <span class="place">
    <button type="button" class="quiet skip" @click="go"><slot /></button>
  </span>
</template>

<style scoped>
.place {
  position: relative;
}

.skip {
  position: absolute;
  z-index: 10;
  top: 0;
  left: 0;
  width: max-content;
  opacity: 0;
  pointer-events: none;
}

.skip:focus {
  opacity: 1;
  pointer-events: auto;
}
</style>
