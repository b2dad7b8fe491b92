<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { ref, watch } from 'vue'
import type { View } from '@/api/client'
import type { TotalsFigure } from '@/totals/sheet'
import { useViews } from './store'

/** What stands beside a pinned view on the reader's list: the number of its records, or a figure of its totals. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  view: View
  /** those of the totals on the page */
  figures: TotalsFigure[]
  /** whether the page shows something else than the view has */
  changed: boolean
}>()
const emit = defineEmits<{ told: [words: string] }>()
const views = useViews()
const { busy, trouble, troubleId, act } = useActing()

const chosen = ref('')
watch(open, (now) => {
  trouble.value = ''
  if (now) chosen.value = views.pins.find((p) => p.id === props.view.id)?.figure ?? ''
})
async function save() {
  await act(async () => {
    await views.tellBeside(props.view.id, chosen.value || undefined)
    open.value = false
    const figure = props.figures.find((f) => f.name === chosen.value)
    emit('told', `Beside it on your list: the ${figure?.label ?? 'number of records'}.`)
  })
}
</script>

<template>
  <ElDialog v-model="open" :title="`Beside “${view.name}” on your list`" width="420px">
    <form id="beside" @submit.prevent="save">
      <label><input v-model="chosen" type="radio" name="beside" value="" /> the number of records</label>
      <label v-for="f in figures" :key="f.name">
        <input v-model="chosen" type="radio" name="beside" :value="f.name" /> {{ f.label }}
      </label>
      <p class="small">
        As on the last line of its totals, of the rows that are shown.
        <template v-if="changed">Save your changes first where a figure is new.</template>
      </p>
      <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    </form>
    <template #footer>
      <button type="button" class="word" @click="open = false">Cancel</button>
      <button type="submit" form="beside" class="act" :disabled="busy">Save</button>
    </template>
  </ElDialog>
</template>

<style scoped>
label {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 28px;
}

input {
  margin: 0;
}

.small {
  margin-top: 8px;
}
</style>
