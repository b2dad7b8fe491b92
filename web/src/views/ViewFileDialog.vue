<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { counted } from '@/platform/format'
import { computed, ref, watch } from 'vue'
import { api, data, type View, type ViewFileReport } from '@/api/client'
import { useSession } from '@/people/session'

/** Export or import views for another installation, and back from one, with a report of what does not fit. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ chosen: View[] }>()
const emit = defineEmits<{ done: [words: string] }>()
const session = useSession()

const file = ref<{ name: string; content: unknown }>()
const ifThere = ref<'SKIP' | 'RENAME' | 'REPLACE'>('SKIP')
const report = ref<ViewFileReport>()
const { busy, trouble, act } = useActing()

watch(open, (now) => {
  if (!now) return
  file.value = report.value = undefined
  trouble.value = ''
})
const address = computed(
  () => '/api/views/file' + (props.chosen.length ? '?ids=' + props.chosen.map((v) => v.id).join() : ''),
)

async function take(event: Event) {
  const picked = (event.target as HTMLInputElement).files?.[0]
  if (!picked) return
  trouble.value = ''
  report.value = undefined
  try {
    file.value = { name: picked.name, content: JSON.parse(await picked.text()) as unknown }
  } catch {
    file.value = undefined
    trouble.value = `${picked.name} is no JSON file. Choose one that was written here, or by another Deft Lens.`
    return
  }
  await send(false)
}

async function send(write: boolean) {
  await act(
    async () => {
      report.value = (await data(
        api.POST('/api/views/file', {
          body: { file: file.value!.content as never, ifThere: ifThere.value, write },
        }),
      )) as ViewFileReport
      if (write) {
        const came = report.value.views.filter(
          (v) => v.outcome === 'ADDED' || v.outcome === 'REPLACED',
        ).length
        emit('done', `${came} of ${counted(report.value.views.length, 'view')} imported.`)
      }
    },
    () => (report.value = undefined),
  )
}

const OUTCOMES = {
  ADDED: 'will be added',
  REPLACED: 'replaces the one here',
  SKIPPED: 'left out',
  REFUSED: 'does not fit',
}
const DONE = {
  ADDED: 'was added',
  REPLACED: 'replaced the one here',
  SKIPPED: 'left out',
  REFUSED: 'does not fit',
}
</script>

<template>
  <ElDialog v-model="open" title="Export or import views" width="640px">
    <p>
      <a class="quiet" :href="address" download="views.json">{{
        chosen.length ? `Export the ${chosen.length} selected` : 'Export all that are open to you'
      }}</a>
      <span class="hint"> as JSON, for another installation.</span>
    </p>
    <template v-if="session.mayWrite">
      <h3>Import a file</h3>
      <p class="pick">
        <input type="file" accept=".json,application/json" aria-label="A file of views" @change="take" />
        <label>
          A view with the same name is here already:
          <select v-model="ifThere" class="field" @change="file && send(false)">
            <option value="SKIP">keep the one here</option>
            <option value="RENAME">import it under another name</option>
            <option value="REPLACE">replace the one here</option>
          </select>
        </label>
      </p>
    </template>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <ul v-if="report" aria-label="What becomes of the file">
      <li v-for="(v, i) in report.views" :key="i" :class="v.outcome.toLowerCase()">
        <strong>{{ v.name }}</strong> {{ (report.written ? DONE : OUTCOMES)[v.outcome] }}
        <p v-for="n in v.notes" :key="n" class="hint">{{ n }}</p>
      </li>
    </ul>
    <template #footer>
      <button type="button" class="word" @click="open = false">
        {{ report?.written ? 'Close' : 'Cancel' }}
      </button>
      <button
        v-if="session.mayWrite && !report?.written"
        type="button"
        class="act"
        :disabled="
          busy || !report || report.views.every((v) => v.outcome === 'SKIPPED' || v.outcome === 'REFUSED')
        "
        @click="send(true)"
      >
        Import them
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
a.quiet {
  text-decoration: none;
  display: inline-block;
}

h3 {
  font: 600 15px var(--sans);
  margin: 16px 0 4px;
}

.pick {
  display: grid;
  gap: 8px;
}

label .field {
  width: auto;
}

.hint {
  color: var(--ink-2);
}

ul {
  list-style: none;
  padding: 0;
  max-height: 40vh;
  overflow: auto;
}

li {
  border-bottom: 1px solid var(--rule);
  padding: 5px 0;
}

.refused strong {
  color: var(--alert);
}

.act {
  margin-left: 12px;
}
</style>
