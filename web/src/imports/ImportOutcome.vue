<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, sentence, type ImportRun } from '@/api/client'
import { counted, number } from '@/platform/format'
import { useCatalogue } from '@/registers/catalogue'
import TakeBackDialog from './TakeBackDialog.vue'
import { announce } from '@/platform/announcements'

/** How an import ended, and what to do next. */
const props = defineProps<{ run: ImportRun }>()
/** `back`: to the columns of the file; `another`: to another file */
const emit = defineEmits<{ back: []; another: [] }>()

const catalogue = useCatalogue()
const trouble = ref('')
const deleteOpen = ref(false)
const dialog = ref<InstanceType<typeof TakeBackDialog>>()

/** The refusals as a file, for whoever corrects the rows. */
const report = computed(() => {
  const rows = props.run.refusals.map((r) => `${r.line},"${r.reason.replaceAll('"', '""')}"`)
  return 'data:text/csv;charset=utf-8,' + encodeURIComponent(['Line,Reason', ...rows].join('\r\n'))
})
/** The name of a register; one that was just made is not in the list yet. */
const name = (key?: string | null) => catalogue.names.find((r) => r.key === key)?.label ?? 'the register'

// The keys go on here, unless somebody went elsewhere meanwhile.
const heading = ref<HTMLElement>()
onMounted(() => {
  const at = document.activeElement
  if (at === document.body || at?.closest('main')) heading.value?.focus()
})

/** A register that was made goes whole; from one that was there, what the file brought goes. */
function takeBack() {
  if (props.run.madeRegister) deleteOpen.value = true
  else void dialog.value?.ask(props.run)
}

async function deleteRegister() {
  try {
    await api.DELETE('/api/registers/{key}', { params: { path: { key: props.run.register! } } })
    catalogue.forget()
    await catalogue.load()
    emit('another')
  } catch (e) {
    deleteOpen.value = false
    trouble.value = sentence(e)
  }
}

announce(
  props.run.state === 'DONE'
    ? `${props.run.fileName} is in: ${counted(props.run.added, 'row')} added.`
    : `Nothing was written. ${props.run.message ?? ''}`,
)
</script>

<template>
  <div>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <template v-if="run.state === 'DONE'">
      <h2 ref="heading" tabindex="-1">{{ run.fileName }} is in</h2>
      <p>
        {{ number(run.added) }} added, {{ number(run.updated) }} changed, {{ number(run.skipped) }} left as
        they were.
      </p>
      <p v-if="run.madeRegister" class="who">
        Only administrators and auditors see {{ name(run.register) }} so far.
        <RouterLink :to="{ path: `/catalogue/${run.register}`, query: { section: 'access' } }"
          >Say who else may see it</RouterLink
        >
      </p>
      <p class="acts">
        <RouterLink class="act" :to="`/registers/${run.register}`">Open {{ name(run.register) }}</RouterLink>
        <RouterLink class="quiet" :to="`/catalogue/${run.register}`"
          >Names and types of its fields</RouterLink
        >
        <button type="button" class="quiet" @click="emit('another')">Import another file</button>
        <button v-if="run.madeRegister || run.hasWayBack" type="button" class="word" @click="takeBack">
          Take it back…
        </button>
      </p>
    </template>
    <template v-else-if="run.state === 'REFUSED'">
      <h2 ref="heading" tabindex="-1">Nothing was written</h2>
      <p>
        {{ number(run.refused) }} of {{ counted(run.read, 'row') }}
        {{ run.refused === 1 ? 'does' : 'do' }} not fit. Correct them in the file, or change how the columns
        are read.
      </p>
      <table class="lines">
        <thead>
          <tr>
            <th scope="col" class="numeric">Line</th>
            <th scope="col">Why it was refused</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in run.refusals.slice(0, 50)" :key="r.line">
            <td class="numeric">{{ number(r.line) }}</td>
            <td>{{ r.reason }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="run.refused > 50" class="small">
        The first 50 of {{ number(run.refused)
        }}{{ run.refused > 1000 ? '; the report has the first 1,000' : '' }}.
      </p>
      <p class="acts">
        <button type="button" class="act" @click="emit('back')">Back to the columns</button>
        <a class="quiet" :href="report" :download="`refused rows of ${run.fileName}.csv`"
          >The report as a file</a
        >
      </p>
    </template>
    <template v-else>
      <h2 ref="heading" tabindex="-1">Nothing was written</h2>
      <p>{{ run.message }}</p>
      <p class="acts">
        <button type="button" class="act" @click="emit('back')">Back to the columns</button>
      </p>
    </template>
    <TakeBackDialog ref="dialog" @done="emit('another')" />
    <section>
      <ElDialog v-model="deleteOpen" :title="`Take ${run.fileName} back?`" width="440px">
        <p>
          {{ name(run.register) }} and its {{ counted(run.added, 'record') }} go. The file is still yours; an
          administrator can also bring the register back.
        </p>
        <template #footer>
          <button type="button" class="word" @click="deleteOpen = false">Cancel</button>
          <button type="button" class="act" @click="deleteRegister">Take it back</button>
        </template>
      </ElDialog>
    </section>
  </div>
</template>

<style scoped>
a.quiet {
  color: var(--ink);
}

.who {
  margin-top: 10px;
}
</style>
