<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Register } from '@/api/client'
import { cell } from '@/platform/format'
import { useChosenRecords } from './useChosenRecords'

/** Several records beside each other, with all their fields; where they differ is marked. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ register: Register; ids: string[]; zone: string; recordsAt?: string }>()

const { rows, trouble } = useChosenRecords(open, props)
const onlyOtherwise = ref(true)

const title = computed(() => props.register.fields.find((f) => f.key === props.register.titleField)!)
const lines = computed(() =>
  props.register.fields
    .filter((f) => f.type !== 'span' && f.key !== props.register.titleField && f.origin !== 'SEEN')
    .map((field) => {
      const values = rows.value.map((row) => row.values[field.key] ?? null)
      const otherwise = new Set(values.map((v) => JSON.stringify(v))).size > 1
      return { field, values, otherwise }
    }),
)
const shown = computed(() => lines.value.filter((l) => l.otherwise || !onlyOtherwise.value))
</script>

<template>
  <ElDialog v-model="open" title="Where they differ" width="min(960px, 94vw)">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <label class="only"><input v-model="onlyOtherwise" type="checkbox" /> Only what differs</label>
    <div class="wide">
      <table>
        <thead>
          <tr>
            <th scope="col"><span class="hidden-text">Field</span></th>
            <th v-for="row in rows" :key="row.id" scope="col">
              {{ cell(title, row.values[title.key], zone) }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in shown" :key="line.field.key" :class="{ otherwise: line.otherwise }">
            <th scope="row">{{ line.field.label }}</th>
            <td v-for="(value, i) in line.values" :key="i">{{ cell(line.field, value, zone) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="rows.length && !shown.length">They are the same in all other fields.</p>
  </ElDialog>
</template>

<style scoped>
.only {
  display: flex;
  gap: 6px;
  align-items: baseline;
  margin-bottom: 8px;
}

.wide {
  overflow-x: auto;
}

table {
  border-collapse: collapse;
}

th,
td {
  border-bottom: 1px solid var(--rule);
  padding: 4px 10px;
  text-align: left;
  vertical-align: top;
  overflow-wrap: anywhere;
}

.otherwise td {
  font-weight: 600;
}
</style>
