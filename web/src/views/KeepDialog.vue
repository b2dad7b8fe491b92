<script setup lang="ts">
import { ref, watch } from 'vue'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  title: string
  name: string
  purpose: string
  trouble: string
  busy: boolean
  everything: boolean
}>()
const emit = defineEmits<{ keep: [name: string, purpose: string] }>()

const nameField = ref<HTMLInputElement>()
const newName = ref('')
const newPurpose = ref('')
watch(open, (now) => {
  if (!now) return
  newName.value = props.name
  newPurpose.value = props.purpose
})
</script>

<template>
  <ElDialog v-model="open" :title="title" width="460px" @opened="nameField?.focus()">
    <form id="keep" @submit.prevent="emit('keep', newName, newPurpose)">
      <label for="view-name">Name</label>
      <input
        id="view-name"
        ref="nameField"
        v-model="newName"
        class="field"
        required
        maxlength="120"
        placeholder="Overdue at my site"
      />
      <label for="view-purpose">What it is for</label>
      <textarea
        id="view-purpose"
        v-model="newPurpose"
        class="field"
        rows="3"
        maxlength="2000"
        placeholder="A sentence for colleagues who find it later"
      />
      <p v-if="everything" class="hint">It has no criteria: it will show every record.</p>
      <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    </form>
    <template #footer>
      <button type="button" class="word" @click="open = false">Cancel</button>
      <button type="submit" form="keep" class="act" :disabled="busy">Keep</button>
    </template>
  </ElDialog>
</template>

<style scoped>
label {
  display: block;
  font-weight: 600;
  margin: 8px 0 3px;
}

.hint {
  color: var(--ink-2);
  margin-top: 6px;
}

.notice {
  margin-top: 10px;
}

.word {
  margin-right: 12px;
}
</style>
