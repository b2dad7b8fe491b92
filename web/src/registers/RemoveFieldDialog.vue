<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { ref } from 'vue'
import {
  api,
  data,
  Problem,
  sentence,
  type FieldDescription,
  type FieldUse,
  type Register,
} from '@/api/client'
import { counted } from '@/platform/format'
import RestingView from '@/views/RestingView.vue'

/** Says what rests on a field, and removes it. */
const props = defineProps<{ register: Register }>()
const emit = defineEmits<{ removed: [register: Register, field: FieldDescription] }>()

const open = ref(false)
const field = ref<FieldDescription>()
const use = ref<FieldUse>()
const { busy, trouble, act } = useActing()

/** Opens the dialog about a field. */
async function ask(about: FieldDescription) {
  field.value = about
  use.value = undefined
  trouble.value = ''
  open.value = true
  try {
    const found = await data(
      api.GET('/api/registers/{key}/fields/{field}/use', {
        params: { path: { key: props.register.key, field: about.key } },
      }),
    )
    if (field.value === about) use.value = found
  } catch (e) {
    trouble.value = sentence(e)
  }
}

async function remove() {
  const about = field.value!
  await act(
    async () => {
      const fresh = await data(
        api.DELETE('/api/registers/{key}/fields/{field}', {
          params: {
            path: { key: props.register.key, field: about.key },
            query: { version: props.register.version },
          },
        }),
      )
      open.value = false
      emit('removed', fresh, about)
    },
    (e) => {
      if (e instanceof Problem && e.code === 'changed-meanwhile')
        trouble.value += ' Load the page again first.'
    },
  )
}

defineExpose({ ask })
</script>

<template>
  <ElDialog v-model="open" :title="`Remove ${field?.label}?`" width="620px">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-if="!use && !trouble" class="small">Looking for what rests on it…</p>
    <template v-else-if="use">
      <div v-if="use.needed.length" class="notice">
        <p v-for="reason in use.needed" :key="reason">{{ reason }}</p>
      </div>
      <template v-else>
        <p>
          Nobody sees it, asks for it or corrects it any more.
          {{
            use.values === null || use.values === undefined
              ? 'What records have in it is kept,'
              : use.values
                ? `What ${counted(use.values, 'record')} ${use.values === 1 ? 'has' : 'have'} in it is kept,`
                : 'No record has a value of it;'
          }}
          and the field can be restored on this page.
        </p>
        <RestingView v-for="v in use.views" :key="v.view" :view="v">
          <p v-if="v.criteria.length" class="alert">
            The view shows nothing until somebody changes it, or the field is restored.
          </p>
          <p v-else>It shows the field, or is ordered or grouped by it; it goes on without.</p>
        </RestingView>
        <p v-if="!use.views.length" class="small">No view uses it.</p>
      </template>
    </template>
    <template #footer>
      <button type="button" class="word" @click="open = false">Cancel</button>
      <button type="button" class="act" :disabled="busy || !use || use.needed.length > 0" @click="remove">
        Remove the field
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
.alert {
  color: var(--alert);
}
</style>
