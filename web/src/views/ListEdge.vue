<script setup lang="ts">
import { ref } from 'vue'
import { NARROWEST, USUAL, useArrangement, WIDEST } from './arrangement'

/** The edge between the list and the page: dragged, or moved by arrows, it makes the list as wide as wanted. */
const arrangement = useArrangement()
const dragging = ref(false)
/** So much an arrow moves it, in CSS pixels. */
const STEP = 10

function down(event: PointerEvent) {
  if (event.button !== 0) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  dragging.value = true
  event.preventDefault()
}
function move(event: PointerEvent) {
  if (dragging.value) arrangement.draw(event.clientX)
}
function up() {
  if (dragging.value) arrangement.widen(arrangement.width)
  dragging.value = false
}
function keys(event: KeyboardEvent) {
  const to: Record<string, number> = {
    ArrowLeft: arrangement.width - STEP,
    ArrowRight: arrangement.width + STEP,
    Home: NARROWEST,
    End: WIDEST,
  }
  const wanted = to[event.key]
  if (wanted === undefined || event.altKey || event.ctrlKey || event.metaKey) return
  event.preventDefault()
  arrangement.widen(wanted)
}
</script>

<template>
  <div
    class="edge"
    :class="{ dragging }"
    :style="{ left: arrangement.width + 'px' }"
    role="separator"
    tabindex="0"
    aria-orientation="vertical"
    aria-label="Width of the list"
    :aria-valuenow="arrangement.width"
    :aria-valuemin="NARROWEST"
    :aria-valuemax="WIDEST"
    title="Drag, or the arrows; twice for the usual width"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @pointercancel="up"
    @keydown="keys"
    @dblclick="arrangement.widen(USUAL.width)"
  />
</template>

<style scoped>
.edge {
  position: absolute;
  z-index: 4;
  top: var(--top);
  bottom: 0;
  width: 9px;
  margin-left: -5px;
  cursor: col-resize;
  touch-action: none;
}

.edge:hover,
.edge:focus-visible,
.dragging {
  background: linear-gradient(to right, transparent 3px, var(--act) 3px 6px, transparent 6px);
}

.edge:focus-visible {
  outline-offset: -2px;
}

@media (max-width: 900px) {
  .edge {
    display: none;
  }
}
</style>
