<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { NARROWEST, USUAL, useArrangement, WIDEST } from './arrangement'
import { useDragOrder } from '@/platform/useDragOrder'

/** Which registers the list shows, in which order, and how wide it is; by dragging, by clicks, and by keys. */
const arrangement = useArrangement()
/** From so many on, they are looked for by name. */
const MANY = 12

const { line } = useDragOrder(arrangement.putAt)
const search = ref('')
const found = computed(() => {
  const wanted = search.value.trim().toLowerCase()
  return arrangement.ordered.filter((r) => r.label.toLowerCase().includes(wanted))
})

/** What was pressed keeps the keys, so that it can be pressed again. */
async function move(key: string, by: number) {
  const pressed = document.activeElement as HTMLElement | null
  arrangement.move(key, by)
  await nextTick()
  if (document.activeElement !== pressed) pressed?.focus()
  pressed?.closest('li')?.scrollIntoView({ block: 'nearest' })
}
</script>

<template>
  <div class="arrange">
    <p v-if="arrangement.trouble" class="notice" role="alert">{{ arrangement.trouble }}</p>
    <input
      v-if="arrangement.ordered.length > MANY"
      v-model="search"
      class="field"
      type="search"
      placeholder="Find a register"
      aria-label="Find a register of the list"
    />
    <ol aria-label="Registers of the list">
      <li
        v-for="r in found"
        :key="r.key"
        v-bind="line(r.key)"
        @keydown.alt.up.prevent="move(r.key, -1)"
        @keydown.alt.down.prevent="move(r.key, 1)"
      >
        <label :title="r.label">
          <input type="checkbox" :checked="!arrangement.isHidden(r.key)" @change="arrangement.hide(r.key)" />
          <span class="name">{{ r.label }}</span>
        </label>
        <button
          type="button"
          class="word"
          :aria-label="`${r.label} further up`"
          title="Further up (Alt ↑)"
          @click="move(r.key, -1)"
        >
          ↑
        </button>
        <button
          type="button"
          class="word"
          :aria-label="`${r.label} further down`"
          title="Further down (Alt ↓)"
          @click="move(r.key, 1)"
        >
          ↓
        </button>
      </li>
    </ol>
    <p v-if="!found.length" class="hint">No register of that name.</p>
    <p v-else class="hint">
      Drag a line, or Alt with the arrows, for another order. What is not ticked is still found under “Go to”.
    </p>
    <p class="acts">
      <button type="button" class="quiet" :disabled="arrangement.isUsual" @click="arrangement.reset()">
        All, as they come
      </button>
      <span class="spring" />
      <button
        type="button"
        class="quiet"
        :disabled="arrangement.now.width <= NARROWEST"
        @click="arrangement.widen(arrangement.now.width - 30)"
      >
        Narrower
      </button>
      <button
        type="button"
        class="quiet"
        :disabled="arrangement.now.width >= WIDEST"
        @click="arrangement.widen(arrangement.now.width + 30)"
      >
        Wider
      </button>
      <button
        v-if="arrangement.now.width !== USUAL.width"
        type="button"
        class="word"
        @click="arrangement.widen(USUAL.width)"
      >
        usual width
      </button>
    </p>
  </div>
</template>

<style scoped>
.arrange {
  display: grid;
  gap: 8px;
}

ol {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 50vh;
  overflow: auto;
}

li {
  display: flex;
  align-items: center;
}

label {
  flex: 1;
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 28px;
  min-width: 0;
}

.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  unicode-bidi: isolate;
}

li .word {
  min-width: 26px;
  padding: 0;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  border-top: 1px solid var(--rule);
  padding-top: 8px;
}

.spring {
  flex: 1;
}

.hint {
  color: var(--ink-2);
  font-size: 13px;
}
</style>
