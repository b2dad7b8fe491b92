<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRefusal } from '@/platform/useRefusal'
import { useViews } from './store'
import { vRoving } from '@/platform/roving'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  title: string
  name: string
  purpose: string
  labels: string[]
  /** what was thrown when it could not be saved */
  refusal?: unknown
  busy: boolean
  /** whether it has no criteria, which is asked about first */
  everything: boolean
}>()
const emit = defineEmits<{ keep: [name: string, purpose: string, labels: string[]] }>()
const views = useViews()
const { trouble, troubleId, refused } = useRefusal()
watch(
  () => props.refusal,
  (now) => (now === undefined ? (trouble.value = '') : refused(now)),
)

const nameField = ref<HTMLInputElement>()
const form = ref<HTMLFormElement>()
/** The dialog has settled: whoever is at a field already stays there. */
function begin() {
  if (!form.value?.contains(document.activeElement)) nameField.value?.focus()
}
const newName = ref('')
const newPurpose = ref('')
/** as they are typed, separated by commas */
const newLabels = ref('')
const meant = ref(false)
watch(open, (now) => {
  if (!now) return
  newName.value = props.name
  newPurpose.value = props.purpose
  newLabels.value = props.labels.join(', ')
  meant.value = false
})
/** Labels that others use, so that one thing goes by one word. */
const others = computed(() =>
  [...new Set(views.all.flatMap((v) => v.labels))].filter((l) => !list().includes(l)).sort(),
)
const list = () =>
  newLabels.value
    .split(',')
    .map((l) => l.trim())
    .filter(Boolean)
function addLabel(label: string) {
  newLabels.value = [...list(), label].join(', ')
}
</script>

<template>
  <ElDialog v-model="open" :title="title" width="460px" @opened="begin">
    <form id="keep" ref="form" @submit.prevent="emit('keep', newName, newPurpose, list())">
      <label for="view-name">Name</label>
      <input
        id="view-name"
        ref="nameField"
        v-model="newName"
        name="name"
        class="field"
        required
        maxlength="120"
        placeholder="Overdue at my site"
      />
      <label for="view-purpose">What it is for</label>
      <textarea
        id="view-purpose"
        v-model="newPurpose"
        name="purpose"
        class="field"
        rows="3"
        maxlength="2000"
        placeholder="A sentence for colleagues who find it later"
      />
      <label for="view-labels">Labels</label>
      <input
        id="view-labels"
        v-model="newLabels"
        name="labels"
        class="field"
        maxlength="300"
        placeholder="Words by which it is found, separated by commas: month end, audit"
        title="Words by which it is found, separated by commas: month end, audit"
      />
      <p v-if="others.length" v-roving class="known" role="group" aria-label="Labels in use">
        Also in use:
        <button v-for="l in others" :key="l" type="button" class="label" @click="addLabel(l)">{{ l }}</button>
      </p>
      <label v-if="everything" class="meant">
        <input v-model="meant" type="checkbox" />
        It has no criteria and will show every record. That is meant.
      </label>
      <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    </form>
    <template #footer>
      <button type="button" class="word" @click="open = false">Cancel</button>
      <button type="submit" form="keep" class="act" :disabled="busy || (everything && !meant)">Save</button>
    </template>
  </ElDialog>
</template>

<style scoped>
label {
  display: block;
  font-weight: 600;
  margin: 8px 0 3px;
}

.known {
  color: var(--ink-2);
  margin-top: 5px;
}

.label {
  border: 1px solid var(--rule-strong);
  border-radius: 10px;
  background: none;
  padding: 0 8px;
  margin: 0 4px 4px 0;
  min-height: 24px;
  color: var(--ink-2);
  cursor: pointer;
}

.meant {
  display: flex;
  gap: 8px;
  align-items: baseline;
  font-weight: 400;
  color: var(--alert);
  margin-top: 12px;
}

.notice {
  margin-top: 10px;
}

.word {
  margin-right: 12px;
}
</style>
