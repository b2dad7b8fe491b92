<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, ref, watch } from 'vue'
import { api, data, type Register } from '@/api/client'
import { counted } from '@/platform/format'
import { addedTo } from './added'
import CalculationEditor from './CalculationEditor.vue'

/** A calculated field of this question alone: added to those of its register, changed, or taken away. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  /** with the fields that are added to it now */
  register: Register
  /** the key of the added field that is changed; a new one when absent */
  field?: string
  /** how many criteria are on it */
  criteria: number
  /** whether the question is that of a view */
  ofView: boolean
}>()
const emit = defineEmits<{ added: [register: Register, key: string]; removed: [register: Register] }>()
const { busy, trouble, troubleId, act } = useActing()

const label = ref('')
const calculation = ref('')
const known = computed(() => props.register.fields.find((f) => f.key === props.field))
watch(
  open,
  (now) => {
    trouble.value = ''
    if (!now) return
    const one = addedTo(props.register).find((f) => f.key === props.field)
    label.value = one?.label ?? ''
    calculation.value = one?.calculation ?? ''
  },
  { immediate: true },
)

/** The register with these fields in the place of those that are added to it now. */
async function ask(fields: { key?: string; label: string; calculation: string }[]) {
  return data(
    api.POST('/api/registers/{key}/added-fields', {
      params: { path: { key: props.register.key } },
      body: { fields: fields.map((f) => ({ ...f, key: f.key ?? null })) },
    }),
  )
}
async function send(work: () => Promise<void>) {
  await act(async () => {
    await work()
    open.value = false
  })
}
async function save() {
  // While it is being read there is none; the button waits for it, Enter does not.
  if (!calculation.value) return
  await send(async () => {
    const now = addedTo(props.register)
    const one = { key: props.field, label: label.value, calculation: calculation.value }
    const fresh = await ask(
      props.field ? now.map((f) => (f.key === props.field ? { ...one, key: f.key } : f)) : [...now, one],
    )
    emit('added', fresh, props.field ?? fresh.added.at(-1)!)
  })
}
const remove = () =>
  send(async () => {
    emit('removed', await ask(addedTo(props.register).filter((f) => f.key !== props.field)))
  })
</script>

<template>
  <ElDialog
    v-model="open"
    :title="known ? `${known.label}, calculated here` : 'Calculate a field here'"
    width="640px"
    destroy-on-close
  >
    <form id="added-field" @submit.prevent="save">
      <p class="small">
        For {{ ofView ? 'this view' : 'this question' }} alone: the register stays as it is.
        {{
          ofView
            ? 'It is saved and shared with the view.'
            : 'It is saved with a view, and goes with the link.'
        }}
      </p>
      <label>Name <input v-model="label" name="label" class="field" maxlength="80" required /></label>
      <h3>Calculation</h3>
      <p v-if="!known" class="small">
        From other fields of the same record: <code>amount * 2</code>, <code>days_between(due, today)</code>,
        <code>when(closed_at is empty, "open", "closed")</code>. A statement alone is yes or no.
      </p>
      <div @keydown.esc.stop>
        <CalculationEditor
          v-model="calculation"
          :register="register"
          :field="known"
          here
          @cancel="open = false"
        />
      </div>
      <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    </form>
    <template #footer>
      <span v-if="known" class="away">
        <button type="button" class="word" :disabled="busy || criteria > 0" @click="remove">
          Remove the field
        </button>
        <span v-if="criteria" class="small"
          >{{ counted(criteria, 'criterion', 'criteria') }} {{ criteria === 1 ? 'is' : 'are' }} on it: remove
          {{ criteria === 1 ? 'it' : 'them' }} first.</span
        >
      </span>
      <button type="button" class="word" @click="open = false">Cancel</button>
      <button type="submit" form="added-field" class="act" :disabled="busy || !calculation">
        {{ known ? 'Save the field' : 'Add the field' }}
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
form {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
}

label {
  display: grid;
  gap: 2px;
  max-width: min(340px, 100%);
}

h3 {
  margin: 4px 0 0;
  font-size: 14px;
}

.away {
  float: left;
  display: flex;
  gap: 8px;
  align-items: baseline;
}
</style>
