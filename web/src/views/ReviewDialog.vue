<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, data, sentence, type Difference, type Reliance, type View } from '@/api/client'
import { counted } from '@/platform/format'
import { useSession } from '@/people/session'
import ChangedWords from './ChangedWords.vue'
import DifferenceNote from './DifferenceNote.vue'
import RelianceNote from './RelianceNote.vue'

/** Before a view that others rely on is changed: who they are, and what comes in and goes for them. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  view: View
  statement: string
  /** the key of the register with the fields that are calculated here */
  register: string
  answers: Record<string, string>
  busy: boolean
}>()
const emit = defineEmits<{ keep: []; copy: [] }>()

const session = useSession()
const reliance = ref<Reliance>()
const difference = ref<Difference>()
const trouble = ref('')
/** How many it reaches, once that is known. */
const title = computed(() => {
  const others = reliance.value?.readers.filter((r) => r.who.id !== session.current?.person.id).length
  return others
    ? `Others rely on this view: ${counted(others, 'person', 'people')}`
    : 'Others rely on this view'
})

watch(open, async (now) => {
  if (!now) return
  reliance.value = difference.value = undefined
  trouble.value = ''
  const path = { id: props.view.id }
  try {
    const asked = [
      data(api.GET('/api/views/{id}/reliance', { params: { path } })).then(
        (r) => (reliance.value = r as Reliance),
      ),
    ]
    if (props.statement !== props.view.statement || props.register !== props.view.reads) {
      asked.push(
        data(
          api.POST('/api/views/{id}/difference', {
            params: { path },
            body: { statement: props.statement, register: props.register, answers: props.answers },
          }),
        ).then((d) => (difference.value = d as Difference)) as never,
      )
    }
    await Promise.all(asked)
  } catch (e) {
    trouble.value = sentence(e)
  }
})
</script>

<template>
  <ElDialog v-model="open" :title="title" width="640px">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <RelianceNote v-if="reliance" :reliance="reliance" />
    <section v-if="statement !== view.statement" class="asks" aria-label="What it asks">
      <template v-if="difference">
        <ChangedWords :before="difference.fromLines" :after="difference.toLines" />
        <DifferenceNote :difference="difference" />
      </template>
      <p v-else-if="!trouble" class="hint">Counting what comes in and goes…</p>
    </section>
    <p v-else class="hint">It asks the same as before; columns, order or shape are other.</p>
    <template #footer>
      <button type="button" class="word" @click="open = false">Cancel</button>
      <button type="button" class="quiet" :disabled="busy" @click="emit('copy')">
        Save as a new view instead
      </button>
      <button type="button" class="act" :disabled="busy" @click="emit('keep')">Change it for everyone</button>
    </template>
  </ElDialog>
</template>

<style scoped>
.asks {
  border-top: 1px solid var(--rule);
  margin-top: 12px;
  padding-top: 10px;
}

.hint {
  color: var(--ink-2);
  margin-top: 6px;
}

.quiet,
.act {
  margin-left: 10px;
}
</style>
