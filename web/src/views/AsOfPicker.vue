<script setup lang="ts">
import { computed } from 'vue'
import PanelButton from '@/platform/PanelButton.vue'
import { asOfWords } from '@/platform/readAt'

/** The moment that windows are read against, the one that records are read as they were kept at, and the zone whose days count. */
const props = defineProps<{
  asOf?: string
  recordsAt?: string
  /** from when on it is known what records were; absent where it is not kept */
  pastSince?: string
  chosenZone: string
  organisationsZone: string
  readersZone: string
}>()
const emit = defineEmits<{
  asOf: [asOf: string | null]
  recordsAt: [recordsAt: string | null]
  zone: [zone: string]
}>()

const zones = Intl.supportedValuesOf('timeZone')
const dayOf = (moment?: string) => moment?.slice(0, 10) ?? ''
const timeOf = (moment?: string) => (moment?.includes('T') ? moment.slice(11, 16) : '')
const written = (day: string, hour: string) => (day ? (hour ? `${day}T${hour}` : day) : null)
const date = computed(() => dayOf(props.asOf))
const time = computed(() => timeOf(props.asOf))
const keptDate = computed(() => dayOf(props.recordsAt))
const keptTime = computed(() => timeOf(props.recordsAt))
const words = computed(() =>
  [
    ...(props.asOf || !props.recordsAt ? [`As of ${props.asOf ? asOfWords(props.asOf) : 'now'}`] : []),
    ...(props.recordsAt ? [`records of ${asOfWords(props.recordsAt)}`] : []),
  ]
    .join(', ')
    .replace(/^r/, 'R'),
)
const value = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <span class="place">
    <PanelButton name="As of" :width="300" class="plain as-of-button" :class="{ moved: asOf || recordsAt }">
      <template #button>{{ words }}</template>
      <label class="labelled">
        Read it as of another day
        <input class="field" type="date" :value="date" @change="emit('asOf', written(value($event), time))" />
      </label>
      <label v-if="date" class="labelled">
        at a time of that day
        <input class="field" type="time" :value="time" @change="emit('asOf', written(date, value($event)))" />
      </label>
      <p class="hint">
        Rolling windows are read against {{ time ? 'that moment' : 'noon of that day' }}. It only moves the
        windows, not the records.
      </p>
      <button v-if="asOf" type="button" class="quiet" @click="emit('asOf', null)">Windows as of now</button>
      <template v-if="pastSince">
        <label class="labelled apart">
          Records as they were kept on
          <input
            class="field"
            type="date"
            :value="keptDate"
            :min="pastSince.slice(0, 10)"
            @change="emit('recordsAt', written(value($event), keptTime))"
          />
        </label>
        <label v-if="keptDate" class="labelled">
          kept at a time of that day
          <input
            class="field"
            type="time"
            :value="keptTime"
            @change="emit('recordsAt', written(keptDate, value($event)))"
          />
        </label>
        <p class="hint">
          Whatever was corrected, added or taken away since
          {{ keptTime ? 'that moment' : 'the end of that day' }}
          is left out.
        </p>
        <button v-if="recordsAt" type="button" class="quiet" @click="emit('recordsAt', null)">
          Records as they are now
        </button>
      </template>
      <label class="labelled apart">
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

.apart {
  border-top: 1px solid var(--rule);
  margin-top: 10px;
  padding-top: 8px;
}

.hint {
  color: var(--ink-2);
  font: 400 14px/1.4 var(--sans);
}
</style>
