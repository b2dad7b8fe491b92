<script setup lang="ts">
import type { View } from '@/api/client'
import { moment } from '@/platform/format'
import { useSession } from '@/people/session'

const open = defineModel<boolean>({ required: true })
defineProps<{ theirs?: View; mine: string; busy: boolean }>()
const emit = defineEmits<{ theirs: []; overwrite: []; copy: [] }>()
const session = useSession()
</script>

<template>
  <ElDialog v-model="open" title="Somebody changed this view meanwhile" width="640px">
    <template v-if="theirs">
      <p>
        {{ theirs.changedBy.fullName }} changed it on {{ moment(theirs.changedAt, session.zone) }}. Nothing of
        yours is lost and nothing was written.
      </p>
      <dl>
        <dt>Theirs</dt>
        <dd>{{ theirs.name }}: {{ theirs.statement || 'every record' }}</dd>
        <dt>Yours</dt>
        <dd>{{ mine || 'every record' }}</dd>
      </dl>
    </template>
    <template #footer>
      <button type="button" class="quiet" :disabled="busy" @click="emit('theirs')">Open theirs</button>
      <button type="button" class="quiet" :disabled="busy" @click="emit('overwrite')">
        Write mine over theirs
      </button>
      <button type="button" class="act" :disabled="busy" @click="emit('copy')">Keep mine as a copy</button>
    </template>
  </ElDialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 60px 1fr;
  gap: 8px;
  margin: 14px 0 0;
}

dt {
  font-weight: 600;
}

dd {
  margin: 0;
  font: 400 17px/1.4 var(--serif);
}

.quiet,
.act {
  margin-left: 10px;
}
</style>
