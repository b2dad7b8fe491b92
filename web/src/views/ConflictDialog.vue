<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, data, sentence, type Difference, type View } from '@/api/client'
import { moment } from '@/platform/format'
import { useSession } from '@/people/session'
import ChangedWords from './ChangedWords.vue'
import DifferenceNote from './DifferenceNote.vue'

/** Somebody wrote the view meanwhile: what theirs asks, what mine asks, and what lies between them, all of one moment. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  theirs?: View
  mine: string
  /** the key of the register with the fields that mine calculates */
  register: string
  answers: Record<string, string>
  busy: boolean
}>()
const emit = defineEmits<{ theirs: []; overwrite: []; copy: [] }>()
const session = useSession()
const difference = ref<Difference>()
const trouble = ref('')
const asksOtherwise = computed(
  () => props.theirs?.statement !== props.mine || props.theirs.reads !== props.register,
)

watch([open, () => props.theirs?.version], async ([now]) => {
  difference.value = undefined
  trouble.value = ''
  const view = props.theirs
  if (!now || !view || !asksOtherwise.value) return
  try {
    const found = await data(
      api.POST('/api/views/{id}/difference', {
        params: { path: { id: view.id } },
        body: { statement: props.mine, register: props.register, answers: props.answers },
      }),
    )
    if (view === props.theirs) difference.value = found as Difference
  } catch (e) {
    trouble.value = sentence(e)
  }
})
</script>

<template>
  <ElDialog v-model="open" title="Somebody changed this view meanwhile" width="640px">
    <template v-if="theirs">
      <p>
        {{ theirs.changedBy.fullName }} changed it on {{ moment(theirs.changedAt, session.zone) }}. Nothing of
        yours is lost and nothing was written.
      </p>
      <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
      <section v-if="asksOtherwise" aria-label="From theirs to yours">
        <p class="hint">From theirs, “{{ theirs.name }}”, to yours:</p>
        <template v-if="difference">
          <ChangedWords :before="difference.fromLines" :after="difference.toLines" />
          <DifferenceNote :difference="difference" />
        </template>
        <p v-else-if="!trouble" class="hint">Counting what comes in and goes…</p>
      </section>
      <p v-else class="hint">Both ask the same; name, columns, order or shape are other.</p>
    </template>
    <template #footer>
      <button type="button" class="quiet" :disabled="busy" @click="emit('theirs')">Open theirs</button>
      <button type="button" class="quiet" :disabled="busy" @click="emit('overwrite')">
        Overwrite theirs with mine
      </button>
      <button type="button" class="act" :disabled="busy" @click="emit('copy')">
        Save mine as a new view
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
.hint {
  color: var(--ink-2);
  margin-top: 6px;
}

.quiet,
.act {
  margin-left: 10px;
}
</style>
