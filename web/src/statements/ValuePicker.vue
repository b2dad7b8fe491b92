<script setup lang="ts">
import { computed, inject, onMounted, ref } from 'vue'
import { api, data, type FieldDescription } from '@/api/client'
import { vRoving } from '@/platform/roving'
import { number } from '@/platform/format'
import { DESK } from './desk'

const props = defineProps<{ field: FieldDescription; viewers: string[] }>()
const chosen = defineModel<unknown[]>({ required: true })
const desk = inject(DESK)!

const counts = ref(new Map<string, number>())
const search = ref('')

onMounted(async () => {
  try {
    const values = await data(
      api.POST('/api/registers/{key}/values', {
        params: { path: { key: desk.register.value.key } },
        body: { field: props.field.key, limit: 500 },
      }),
    )
    counts.value = new Map(values.values.map((v) => [String(v.value ?? ''), v.count]))
  } catch {
    // The values can be chosen without their counts.
  }
})

const options = computed(() => {
  const known = props.field.options.map((o) => ({ value: o.value, label: o.label }))
  const gone = chosen.value.filter(
    (v): v is string => typeof v === 'string' && !known.some((o) => o.value === v),
  )
  const wanted = search.value.trim().toLowerCase()
  return [...known, ...gone.map((v) => ({ value: v, label: v }))].filter(
    (o) => !wanted || o.label.toLowerCase().includes(wanted) || o.value.toLowerCase().includes(wanted),
  )
})

const isViewer = (value: unknown, attribute: string) =>
  typeof value === 'object' && value !== null && (value as { viewer: string }).viewer === attribute

function toggle(value: string) {
  chosen.value = chosen.value.includes(value)
    ? chosen.value.filter((v) => v !== value)
    : [...chosen.value, value]
}

function toggleViewer(attribute: string) {
  chosen.value = chosen.value.some((v) => isViewer(v, attribute))
    ? chosen.value.filter((v) => !isViewer(v, attribute))
    : [...chosen.value, { viewer: attribute }]
}
</script>

<template>
  <div>
    <div v-if="viewers.length" class="viewers">
      <label v-for="v in viewers" :key="v" class="viewer">
        <input type="checkbox" :checked="chosen.some((c) => isViewer(c, v))" @change="toggleViewer(v)" />
        {{ v === 'me' ? 'me' : `my ${v}` }} <span class="hint">whoever reads</span>
      </label>
    </div>
    <input
      v-if="field.options.length > 10"
      v-model="search"
      class="field search"
      type="search"
      :aria-label="`Search the values of ${field.label}`"
      placeholder="Search"
    />
    <div v-roving class="list" role="group" :aria-label="`Values of ${field.label}`">
      <label v-for="o in options" :key="o.value">
        <input type="checkbox" :checked="chosen.includes(o.value)" @change="toggle(o.value)" />
        <span class="name">{{ o.label }}</span>
        <span class="count">{{ counts.has(o.value) ? number(counts.get(o.value)!) : '' }}</span>
      </label>
      <p v-if="!options.length" class="hint">No value of this name.</p>
    </div>
  </div>
</template>

<style scoped>
.list {
  max-height: 208px;
  overflow: auto;
  max-width: 340px;
}

label {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 2px 4px;
  cursor: pointer;
}

label:hover {
  background: var(--head);
}

.count {
  margin-left: auto;
  color: var(--ink-3);
}

.viewer {
  color: var(--viewer);
  font-weight: 600;
}

.hint {
  color: var(--ink-2);
  font-weight: 400;
}

.search {
  max-width: 340px;
  margin-bottom: 4px;
}
</style>
