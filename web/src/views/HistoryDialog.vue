<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, ref, watch } from 'vue'
import { api, data, sentence, type Difference, type Register, type Step, type View } from '@/api/client'
import { moment } from '@/platform/format'
import { useSession } from '@/people/session'
import ChangedWords from './ChangedWords.vue'
import DifferenceNote from './DifferenceNote.vue'
import { changesOf, stateOf } from './versions'

/** What a view was and by whom it was changed; any earlier state can be held against now, and put back. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ view: View; register: Register; mayPutBack: boolean }>()
const emit = defineEmits<{ putBack: [view: View] }>()
const session = useSession()
const steps = ref<Step[]>([])
const { busy, trouble, act } = useActing()
/** the step that is held against what the view is now */
const held = ref<string>()
const difference = ref<Difference>()

watch(open, async (now) => {
  if (!now) return
  trouble.value = ''
  held.value = undefined
  try {
    steps.value = await data(api.GET('/api/views/{id}/history', { params: { path: { id: props.view.id } } }))
  } catch (e) {
    trouble.value = sentence(e)
  }
})

const isVersion = (step: Step) => stateOf(step.after) !== undefined
const latestVersion = computed(() => steps.value.find(isVersion)?.id)

async function hold(step: Step) {
  held.value = held.value === step.id ? undefined : step.id
  difference.value = undefined
  trouble.value = ''
  if (held.value === undefined) return
  try {
    const found = await data(
      api.GET('/api/views/{id}/history/{step}/difference', {
        params: { path: { id: props.view.id, step: step.id } },
      }),
    )
    if (held.value === step.id) difference.value = found as Difference
  } catch (e) {
    trouble.value = sentence(e)
  }
}

async function restore(step: Step) {
  await act(async () => {
    const fresh = await data(
      api.POST('/api/views/{id}/history/{step}/restore', {
        params: { path: { id: props.view.id, step: step.id } },
        body: { version: props.view.version },
      }),
    )
    emit('putBack', fresh as View)
  })
}
</script>

<template>
  <ElDialog v-model="open" :title="`History of “${view.name}”`" width="720px">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <ol>
      <li v-for="step in steps" :key="step.id" :class="{ held: held === step.id }">
        <div class="head">
          <p>
            <strong>{{ step.action }}</strong> by {{ step.who?.fullName ?? 'the system' }},
            {{ moment(step.at, session.zone) }}
          </p>
          <span v-if="isVersion(step) && step.id !== latestVersion" class="acts">
            <button type="button" class="word" :aria-expanded="held === step.id" @click="hold(step)">
              {{ held === step.id ? 'Close' : 'Compare with now' }}
            </button>
            <button v-if="mayPutBack" type="button" class="word" :disabled="busy" @click="restore(step)">
              Put back
            </button>
          </span>
        </div>
        <ChangedWords
          v-if="step.afterLines && stateOf(step.before)?.statement !== stateOf(step.after)!.statement"
          :before="step.beforeLines ?? step.afterLines"
          :after="step.afterLines"
        />
        <p v-for="c in changesOf(register, step)" :key="c" class="change">{{ c }}</p>
        <section v-if="held === step.id" class="against" aria-label="Compared with now">
          <template v-if="difference">
            <p class="change">From then to now:</p>
            <ChangedWords :before="difference.fromLines" :after="difference.toLines" />
            <DifferenceNote :difference="difference" />
          </template>
          <p v-else-if="!trouble" class="change">Counting what came in and went…</p>
        </section>
      </li>
    </ol>
  </ElDialog>
</template>

<style scoped>
ol {
  list-style: none;
  padding: 0;
  margin: 0;
  max-height: 60vh;
  overflow: auto;
}

li {
  border-bottom: 1px solid var(--rule);
  padding: 7px 8px 8px 0;
}

.head {
  display: flex;
  gap: 16px;
  align-items: baseline;
}

.head p {
  flex: 1;
}

.acts {
  white-space: nowrap;
  display: inline-flex;
  gap: 14px;
}

.change {
  color: var(--ink-2);
}

.against {
  border-left: 3px solid var(--act-line);
  padding: 4px 0 4px 12px;
  margin-top: 6px;
}
</style>
