<script setup lang="ts">
import { computed } from 'vue'
import PanelButton from '@/platform/PanelButton.vue'
import { asOfWords } from './asof'

/** The moment that windows are read against, and the zone whose days count. */
const props = defineProps<{
  asOf?: string
  chosenZone: string
  organisationsZone: string
  readersZone: string
}>()
const emit = defineEmits<{ asOf: [asOf: string | null]; zone: [zone: string] }>()

const zones = Intl.supportedValuesOf('timeZone')
const date = computed(() => props.asOf?.slice(0, 10) ?? '')
const time = computed(() => (props.asOf?.includes('T') ? props.asOf.slice(11, 16) : ''))
function set(day: string, hour: string) {
  emit('asOf', day ? (hour ? `${day}T${hour}` : day) : null)
}
</script>

<template>
  <span class="place">
    <PanelButton name="As of" :width="300" class="plain as-of-button" :class="{ moved: asOf }">
      <template #button>As of {{ asOf ? asOfWords(asOf) : 'now' }}</template>
      <label class="labelled">
        Read it as of another day
        <input
          class="field"
          type="date"
          :value="date"
          @change="set(($event.target as HTMLInputElement).value, time)"
        />
      </label>
      <label v-if="date" class="labelled">
        at a time of that day
        <input
          class="field"
          type="time"
          :value="time"
          @change="set(date, ($event.target as HTMLInputElement).value)"
        />
      </label>
      <p class="hint">
        Rolling windows are read against {{ time ? 'that moment' : 'noon of that day' }}. Records are shown as
        they are today.
      </p>
      <button v-if="asOf" type="button" class="quiet" @click="emit('asOf', null)">Back to now</button>
      <label class="labelled">
        Days are those of
        <select
          class="field"
          :value="chosenZone"
          @change="emit('zone', ($event.target as HTMLSelectElement).value)"
        >
          <option value="">the organisation ({{ organisationsZone }})</option>
          <option :value="readersZone">whoever reads</option>
          <option v-for="z in zones" :key="z" :value="z">{{ z }}</option>
        </select>
      </label>
    </PanelButton>
  </span>
</template>

<style scoped>
.place :deep(.as-of-button) {
  color: #f2d492;
  font-weight: 600;
  white-space: nowrap;
}

.place :deep(.moved) {
  background: #f2d492;
  color: #21343a;
  border-radius: 3px;
  padding: 1px 8px;
}

.labelled {
  display: grid;
  gap: 4px;
  font-weight: 600;
  margin-top: 6px;
}

.hint {
  color: var(--ink-2);
  font: 400 14px/1.4 var(--sans);
}
</style>
