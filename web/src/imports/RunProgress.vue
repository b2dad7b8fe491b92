<script setup lang="ts">
import type { ImportRun } from '@/api/client'
import { counted, number } from '@/platform/format'

/** How far a run is, with a button to stop it; nothing is written then. */
defineProps<{ run: ImportRun }>()
const emit = defineEmits<{ stop: [] }>()

const PHASES: Record<string, string> = {
  'setting aside': 'Setting the present records aside',
  reading: 'Reading and writing',
  writing: 'Writing',
  indexing: 'Indexing',
  'taking back': 'Taking it back',
}
</script>

<template>
  <div>
    <p>
      {{ PHASES[run.phase] ?? 'Beginning'
      }}<template v-if="run.phase === 'reading'">
        : {{ number(run.read) }} of {{ counted(run.expected, 'row') }}</template
      ><template v-else-if="run.share > 0">: {{ Math.floor(run.share * 100) }} %</template
      ><template v-else>…</template>
      <template v-if="run.refused">, {{ number(run.refused) }} refused so far</template>
    </p>
    <div class="meter" :class="{ unknown: run.share === 0 && run.phase !== 'reading' }">
      <span :style="{ width: run.share * 100 + '%' }" />
    </div>
    <p class="acts"><button type="button" class="quiet" @click="emit('stop')">Stop</button></p>
  </div>
</template>
