<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import type { FieldDescription, Register } from '@/api/client'
import type { Column, Shape } from './shape'
import { useDragOrder } from '@/platform/useDragOrder'

const props = defineProps<{ register: Register; columns: string[]; shape: Shape }>()
const emit = defineEmits<{ columns: [columns: string[]]; shape: [shape: Shape]; calculate: [key?: string] }>()
const isAdded = (f: FieldDescription) => props.register.added.includes(f.key)

const search = ref('')
const list = ref<HTMLElement>()

const matches = (f: FieldDescription) =>
  `${f.label} ${f.description}`.toLowerCase().includes(search.value.trim().toLowerCase())
const fields = computed(() => props.register.fields.filter((f) => f.type !== 'span'))
const shown = computed(() =>
  props.columns
    .map((key) => fields.value.find((f) => f.key === key))
    .filter((f): f is FieldDescription => f !== undefined && matches(f)),
)
/** Those that are not shown, the ones that are useful first. */
const others = computed(() =>
  fields.value
    .filter((f) => !props.columns.includes(f.key) && matches(f))
    .sort((a, b) => Number(b.useful || b.identifying) - Number(a.useful || a.identifying)),
)

const own = (key: string): Column => props.shape.columns?.[key] ?? {}
function set(key: string, change: Column) {
  emit('shape', { ...props.shape, columns: { ...props.shape.columns, [key]: { ...own(key), ...change } } })
}
/** The column whose head is being written. */
const naming = ref<string>()
const name = ref('')
function startNaming(field: FieldDescription) {
  naming.value = field.key
  name.value = own(field.key).title ?? field.label
  void nextTick(() => list.value?.querySelector<HTMLInputElement>('.naming')?.select())
}
function rename(field: FieldDescription, title: string) {
  if (naming.value !== field.key) return
  naming.value = undefined
  const plain = title.trim()
  set(field.key, { title: plain && plain !== field.label ? plain : undefined })
}

function show(key: string) {
  emit('columns', [...props.columns, key])
  void focusOn(key)
}
function hide(key: string) {
  // A table without columns shows nothing at all.
  if (props.columns.length > 1) {
    emit(
      'columns',
      props.columns.filter((c) => c !== key),
    )
    void focusOn(key)
  }
}
/** A field goes from one list to the other, and the keys with it. */
async function focusOn(key: string) {
  const was = list.value?.querySelector(`[data-key="${key}"]`)?.parentElement
  for (let waited = 0; waited < 20; waited++) {
    await nextTick()
    const now = list.value?.querySelector<HTMLElement>(`[data-key="${key}"]`)
    if (now && now.parentElement !== was) return now.querySelector('input')?.focus()
    await new Promise(requestAnimationFrame)
  }
}
function put(key: string, at: number) {
  const left = props.columns.filter((c) => c !== key)
  left.splice(Math.max(0, Math.min(left.length, at)), 0, key)
  if (left.join() !== props.columns.join()) emit('columns', left)
}
const { line } = useDragOrder((key, on) => put(key, props.columns.indexOf(on)))
/** What was pressed keeps the keys, so that it can be pressed again. */
async function move(key: string, by: number) {
  const pressed = document.activeElement
  const words = pressed?.getAttribute('aria-label')
  put(key, props.columns.indexOf(key) + by)
  await nextTick()
  if (document.activeElement === pressed) return
  const line = list.value?.querySelector<HTMLElement>(`[data-key="${key}"]`)
  const same = words && line?.querySelector<HTMLElement>(`[aria-label="${CSS.escape(words)}"]`)
  ;(same || line?.querySelector('input'))?.focus()
}
</script>

<template>
  <div ref="list" class="columns-panel">
    <input
      v-model="search"
      class="field"
      type="search"
      placeholder="Find a field"
      aria-label="Find a field among the columns"
    />
    <ol v-if="shown.length" aria-label="Shown">
      <li
        v-for="f in shown"
        :key="f.key"
        :data-key="f.key"
        v-bind="line(f.key)"
        @keydown.alt.up.prevent="move(f.key, -1)"
        @keydown.alt.down.prevent="move(f.key, 1)"
      >
        <input
          v-if="naming === f.key"
          v-model="name"
          class="field naming"
          maxlength="80"
          :aria-label="`Name of ${f.label} here`"
          @keydown.enter.prevent="rename(f, name)"
          @keydown.esc.stop="naming = undefined"
          @blur="rename(f, name)"
        />
        <label v-else :title="f.description">
          <input type="checkbox" checked :disabled="columns.length === 1" @change="hide(f.key)" />
          <span>{{ own(f.key).title ?? f.label }}</span>
          <span v-if="own(f.key).title" class="hint">{{ f.label }}</span>
        </label>
        <button
          v-if="isAdded(f)"
          type="button"
          class="word wide added"
          :aria-label="`calculated here: change ${f.label}`"
          title="Change its name or its calculation, or remove it"
          @click="emit('calculate', f.key)"
        >
          calculated here
        </button>
        <button
          type="button"
          class="word wide"
          :class="{ on: own(f.key).pinned }"
          :aria-pressed="own(f.key).pinned === true"
          :aria-label="`${own(f.key).pinned ? 'held' : 'hold'}: freeze ${f.label}`"
          title="Freeze it: it stays when the others are scrolled sideways"
          @click="set(f.key, { pinned: !own(f.key).pinned || undefined })"
        >
          {{ own(f.key).pinned ? 'held' : 'hold' }}
        </button>
        <button
          type="button"
          class="word wide"
          :aria-label="`name: rename ${f.label} here`"
          @click="startNaming(f)"
        >
          name
        </button>
        <button
          type="button"
          class="word"
          :aria-label="`${f.label} further left`"
          title="Further left (Alt ↑)"
          @click="move(f.key, -1)"
        >
          ↑
        </button>
        <button
          type="button"
          class="word"
          :aria-label="`${f.label} further right`"
          title="Further right (Alt ↓)"
          @click="move(f.key, 1)"
        >
          ↓
        </button>
      </li>
    </ol>
    <ul v-if="others.length" aria-label="Not shown">
      <li v-for="f in others" :key="f.key" :data-key="f.key">
        <label :title="f.description">
          <input type="checkbox" :checked="false" @change="show(f.key)" />
          <span>{{ f.label }}</span>
        </label>
        <button
          v-if="isAdded(f)"
          type="button"
          class="word wide added"
          :aria-label="`calculated here: change ${f.label}`"
          title="Change its name or its calculation, or remove it"
          @click="emit('calculate', f.key)"
        >
          calculated here
        </button>
      </li>
    </ul>
    <p v-if="!shown.length && !others.length" class="hint">No field of that name.</p>
    <p v-else class="hint">Drag a line, or Alt with the arrows, for another order.</p>
    <p>
      <button type="button" class="quiet" @click="emit('calculate')">Calculate a field here</button>
    </p>
  </div>
</template>

<style scoped>
.columns-panel {
  display: grid;
  gap: 6px;
}

ol,
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 44vh;
  overflow: auto;
}

ul {
  border-top: 1px solid var(--rule);
  padding-top: 5px;
}

li {
  display: flex;
  align-items: center;
}

label {
  flex: 1;
  display: flex;
  gap: 7px;
  align-items: center;
  min-height: 27px;
  min-width: 0;
}

li .word.on {
  opacity: 1;
  color: var(--act);
  font-weight: 600;
}

.naming {
  flex: 1;
  min-width: 0;
}

li .word {
  min-width: 26px;
  min-height: 26px;
  padding: 0;
  opacity: 0;
}

li:hover .word,
li:focus-within .word {
  opacity: 1;
}

li .added {
  opacity: 1;
  font-weight: 400;
}

/* Without a mouse nothing can be pointed at to be seen. */
@media (hover: none) {
  li .word {
    opacity: 1;
  }
}

li .wide {
  padding: 0 4px;
}

.hint {
  color: var(--ink-2);
  font-size: 13px;
}
</style>
