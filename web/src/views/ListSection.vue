<script setup lang="ts">
import { computed } from 'vue'
import { useArrangement } from './arrangement'

/** A section of the list of views and registers, which its heading folds. */
const props = defineProps<{
  /** what it is called where what is folded is kept */
  name: string
  heading: string
  /** how many lines it has, to be told when they are folded */
  lines: number
}>()
const arrangement = useArrangement()
const folded = computed(() => arrangement.isFolded(props.name))
</script>

<template>
  <div class="section">
    <div class="head">
      <h2>
        <button type="button" class="plain" :aria-expanded="!folded" @click="arrangement.fold(name)">
          <span class="mark" aria-hidden="true" />{{ heading
          }}<span v-if="folded" class="lines" :aria-label="`${lines} folded`">{{ lines }}</span>
        </button>
      </h2>
      <slot name="act" />
    </div>
    <ul v-if="!folded">
      <slot />
    </ul>
  </div>
</template>

<style scoped>
.section {
  margin-top: 10px;
}

.section:first-child {
  margin-top: 0;
}

.head {
  display: flex;
  align-items: center;
  gap: 8px;
}

h2 {
  flex: 1;
  min-width: 0;
  font: 600 13px var(--sans);
  color: var(--ink-2);
}

h2 button {
  display: flex;
  align-items: center;
  width: 100%;
  min-height: 24px;
  font-weight: 600;
  overflow-wrap: anywhere;
}

h2 button:hover {
  color: var(--act);
}

/* A corner that points down where it is open, and to the right where it is folded. */
.mark {
  flex: none;
  width: 6px;
  height: 6px;
  margin: -3px 6px 0 1px;
  border-right: 1.5px solid currentcolor;
  border-bottom: 1.5px solid currentcolor;
  transform: rotate(45deg);
}

[aria-expanded='false'] .mark {
  margin: 0 6px 0 0;
  transform: rotate(-45deg);
}

.lines {
  margin-left: auto;
  padding-right: 8px;
  font-weight: 400;
  color: var(--ink-3);
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
</style>
