<script setup lang="ts">
import { ref } from 'vue'
import { api, data, sentence, type ImportRun, type WayBackExtent } from '@/api/client'
import { counted } from '@/platform/format'
import RunProgress from './RunProgress.vue'
import { useImportRun } from './useImportRun'

/** Says what taking an import back would do, and does it. */
const emit = defineEmits<{ done: [] }>()

const asked = ref<ImportRun>()
const extent = ref<WayBackExtent>()
const open = ref(false)
const { run, trouble, begin, stop } = useImportRun(() => {
  open.value = false
  emit('done')
})

/** Opens the dialog about an import. */
async function ask(about: ImportRun) {
  trouble.value = ''
  asked.value = about
  extent.value = run.value = undefined
  open.value = true
  try {
    extent.value = await data(api.GET('/api/imports/{id}/back', { params: { path: { id: about.id } } }))
  } catch (e) {
    trouble.value = sentence(e)
  }
}

const takeBack = () =>
  begin(() => data(api.POST('/api/imports/{id}/back', { params: { path: { id: asked.value!.id } } })))

defineExpose({ ask })
</script>

<template>
  <section>
    <ElDialog v-model="open" :title="`Take ${asked?.fileName} back?`" width="460px">
      <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
      <RunProgress v-if="run?.state === 'RUNNING'" :run="run" @stop="stop" />
      <p v-else-if="run && run.state !== 'DONE'" class="notice" role="alert">
        Nothing was taken back. {{ run.message }}
      </p>
      <template v-else-if="extent">
        <ul>
          <li v-if="extent.removed">
            {{ counted(extent.removed, 'record') }} that it added {{ extent.removed === 1 ? 'goes' : 'go' }}.
          </li>
          <li v-if="extent.restored">
            {{ counted(extent.restored, 'record') }} that it changed
            {{ extent.restored === 1 ? 'gets its' : 'get their' }} former values.
          </li>
          <li v-if="extent.returned">
            {{ counted(extent.returned, 'record') }} that it replaced
            {{ extent.returned === 1 ? 'comes' : 'come' }} back.
          </li>
          <li v-if="extent.changedSince">
            {{ counted(extent.changedSince, 'record') }}
            {{ extent.changedSince === 1 ? 'was' : 'were' }} changed or deleted since and
            {{ extent.changedSince === 1 ? 'stays as it is' : 'stay as they are' }}.
          </li>
        </ul>
      </template>
      <p v-else-if="!trouble" class="small">Counting what would change…</p>
      <template #footer>
        <button type="button" class="word" @click="open = false">
          {{ run?.state === 'RUNNING' ? 'Close' : 'Cancel' }}
        </button>
        <button
          v-if="run?.state !== 'RUNNING'"
          type="button"
          class="act"
          :disabled="!extent || !(extent.removed + extent.restored + extent.returned)"
          @click="takeBack"
        >
          Take it back
        </button>
      </template>
    </ElDialog>
  </section>
</template>

<style scoped>
ul {
  margin: 0;
  padding-left: 18px;
}
</style>
