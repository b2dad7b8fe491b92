<script setup lang="ts">
import { ref } from 'vue'
import { FOCUSABLE } from './focusKeeper'

/** For the keys: takes them past what is long, and is seen when they come to it. */
const props = defineProps<{
  /** the id of what it leads to; where that cannot have the keys itself, the first thing in it that can has them */
  to: string
}>()

const button = ref<HTMLElement>()
/** How often it is looked whether the place can have the keys by now, and how long, in milliseconds. */
const EACH = 50
const PATIENCE = 20_000

async function go() {
  for (let waited = 0; waited < PATIENCE; waited += EACH) {
    const place = document.getElementById(props.to)
    const at = place?.matches(FOCUSABLE) ? place : place?.querySelector<HTMLElement>(FOCUSABLE)
    // What is being asked anew cannot have the keys yet; they wait here, as long as they are not taken elsewhere.
    if (!at?.closest('[inert]')) {
      at?.focus()
      return
    }
    await new Promise((resolve) => window.setTimeout(resolve, EACH))
    if (document.activeElement !== button.value) return
  }
}
</script>

<template>
  <span class="place">
    <button ref="button" type="button" class="quiet skip" @click="go"><slot /></button>
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
