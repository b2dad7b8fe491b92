<script setup lang="ts">
import { computed, ref } from 'vue'
import type { ImportRun } from '@/api/client'
import { moment, number } from '@/platform/format'
import { useSession } from '@/people/session'
import { useCatalogue } from '@/registers/catalogue'
import TakeBackDialog from './TakeBackDialog.vue'

/** Files that came in, latest first; what one of them did can be taken back. */
const props = defineProps<{
  runs: ImportRun[]
  /** whether it is said which register each of them went into */
  registers?: boolean
}>()
const emit = defineEmits<{ changed: [] }>()

const session = useSession()
const catalogue = useCatalogue()
const dialog = ref<InstanceType<typeof TakeBackDialog>>()

const OUTCOMES: Record<ImportRun['state'], string> = {
  RUNNING: 'going on',
  DONE: 'imported',
  REFUSED: 'refused; nothing was written',
  CANCELLED: 'stopped; nothing was written',
  FAILED: 'failed; nothing was written',
}
const taken = computed(() => new Set(props.runs.filter((r) => r.state === 'DONE').map((r) => r.backOf)))

function outcome(shown: ImportRun): string {
  if (shown.state !== 'DONE') return OUTCOMES[shown.state]
  if (shown.backOf) return 'took the import back'
  return taken.value.has(shown.id) ? 'imported, and taken back' : OUTCOMES.DONE
}
</script>

<template>
  <div>
    <table v-if="runs.length" class="lines">
      <thead>
        <tr>
          <th scope="col">File</th>
          <th v-if="registers" scope="col">Into</th>
          <th scope="col">Begun</th>
          <th scope="col">By</th>
          <th scope="col">Outcome</th>
          <th scope="col" class="numeric">Rows</th>
          <th scope="col" class="numeric">Added</th>
          <th scope="col" class="numeric">Changed</th>
          <th scope="col"><span class="hidden-text">Take it back</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="shown in runs" :key="shown.id">
          <td>{{ shown.fileName }}</td>
          <td v-if="registers">
            <RouterLink v-if="shown.register" :to="`/catalogue/${shown.register}`">{{
              catalogue.names.find((r) => r.key === shown.register)?.label ?? shown.register
            }}</RouterLink>
            <template v-else>—</template>
          </td>
          <td>{{ moment(shown.startedAt, session.zone) }}</td>
          <td>{{ shown.by }}</td>
          <td>{{ outcome(shown) }}</td>
          <td class="numeric">{{ shown.backOf ? '' : number(shown.read) }}</td>
          <td class="numeric">{{ shown.backOf ? '' : number(shown.added) }}</td>
          <td class="numeric">{{ shown.backOf ? '' : number(shown.updated) }}</td>
          <td>
            <button
              v-if="shown.hasWayBack"
              type="button"
              class="word"
              :aria-label="`Take ${shown.fileName} back`"
              @click="dialog?.ask(shown)"
            >
              Take back…
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else class="small">None yet.</p>
    <TakeBackDialog ref="dialog" @done="emit('changed')" />
  </div>
</template>

<style scoped>
td {
  white-space: nowrap;
}
</style>
