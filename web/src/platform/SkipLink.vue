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
  <button type="button" class="quiet skip" @click="go"><slot /></button>
</template>

<style scoped>
.skip {
  position: absolute;
  left: -999px;
  z-index: 10;
}

/* Where it stands: what has the keys is looked for at its place. */
.skip:focus {
  left: auto;
}
</style>
