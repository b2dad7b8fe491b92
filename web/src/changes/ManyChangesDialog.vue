<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, data, type Register, type Schemas } from '@/api/client'
import { counted, moment, number } from '@/platform/format'
import { useManyChange } from './useManyChange'

/** What was changed at once in a register, and how it is taken back. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  register: Register
  zone: string
  /** the change that is asked about at once */
  about?: string
}>()
const emit = defineEmits<{ changed: [words: string] }>()

const changes = ref<Schemas['ShownChange'][]>()
const asking = ref<Schemas['UndoPreview']>()
const reason = ref('')
const { run, trouble, troubleId, refused, begin, stop, goesOn } = useManyChange(async (done) => {
  emit('changed', `${done.message}.`)
  await load()
})

watch(open, async (now) => {
  if (!now) return
  trouble.value = ''
  run.value = undefined
  await load()
  if (props.about) await ask(props.about)
})

async function load() {
  asking.value = undefined
  try {
    changes.value = await data(
      api.GET('/api/registers/{key}/changes', { params: { path: { key: props.register.key } } }),
    )
  } catch (e) {
    refused(e)
  }
}

async function ask(id: string) {
  trouble.value = reason.value = ''
  try {
    asking.value = await data(api.GET('/api/changes/{id}', { params: { path: { id } } }))
  } catch (e) {
    refused(e)
  }
}

const undo = () =>
  begin(props.register.key, () =>
    data(
      api.POST('/api/changes/{id}/undo', {
        params: { path: { id: asking.value!.change.id } },
        body: { reason: reason.value },
      }),
    ),
  )
const record = (n: number) => counted(n, props.register.recordLabel, props.register.recordsLabel)
</script>

<template>
  <ElDialog v-model="open" :title="`Changed at once in ${register.label}`" width="640px">
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    <template v-if="asking">
      <p>
        <strong>{{ asking.change.who ?? 'Somebody' }}, {{ moment(asking.change.at, zone) }}</strong
        ><template v-if="asking.change.reason">: “{{ asking.change.reason }}”</template>
      </p>
      <ul>
        <li v-if="asking.restored">{{ record(asking.restored) }} would be as before.</li>
        <li v-if="asking.returned">{{ record(asking.returned) }} would come back.</li>
        <li v-if="asking.removed">{{ record(asking.removed) }} that it made would go.</li>
        <li v-if="asking.changedSince">
          {{ record(asking.changedSince) }} {{ asking.changedSince === 1 ? 'was' : 'were' }} changed or
          deleted since and {{ asking.changedSince === 1 ? 'stays as it is' : 'stay as they are' }}.
        </li>
        <li v-if="!(asking.restored + asking.returned + asking.removed)">
          Nothing is left to be taken back.
        </li>
      </ul>
      <label v-if="asking.restored + asking.returned + asking.removed" class="why">
        Why
        <input v-model="reason" class="field" maxlength="500" />
      </label>
      <p v-if="goesOn()" role="status">
        Taking it back… <button type="button" class="quiet" @click="stop">Stop</button>
      </p>
    </template>
    <template v-else>
      <p v-if="changes && !changes.length" class="small">
        Nothing yet. <em>More</em>, <em>Change these {{ register.recordsLabel }}</em> changes all that match.
      </p>
      <table v-if="changes?.length">
        <thead>
          <tr>
            <th scope="col">When</th>
            <th scope="col">Who</th>
            <th scope="col">Why</th>
            <th scope="col" class="numeric">Records</th>
            <th scope="col"><span class="hidden-text">Acts</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in changes" :key="c.id">
            <td>{{ moment(c.at, zone) }}</td>
            <td>{{ c.who ?? '—' }}</td>
            <td><template v-if="c.undoes">Taken back: </template>{{ c.reason || '—' }}</td>
            <td class="numeric">{{ c.records == null ? '—' : number(c.records) }}</td>
            <td>
              <span v-if="c.undone" class="small">taken back</span>
              <button v-else-if="c.mayUndo" type="button" class="word" @click="ask(c.id)">Take back…</button>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <template #footer>
      <template v-if="asking">
        <button type="button" class="word" @click="load">All changes</button>
        <button
          type="button"
          class="act"
          :disabled="
            goesOn() ||
            !reason.trim() ||
            !asking.change.mayUndo ||
            !(asking.restored + asking.returned + asking.removed)
          "
          :title="reason.trim() ? undefined : 'Say why first'"
          @click="undo"
        >
          Take it back
        </button>
      </template>
      <button v-else type="button" class="word" @click="open = false">Close</button>
    </template>
  </ElDialog>
</template>

<style scoped>
table {
  border-collapse: collapse;
  width: 100%;
}

th,
td {
  text-align: left;
  vertical-align: top;
  padding: 4px 8px 4px 0;
  border-bottom: 1px solid var(--rule);
}

th.numeric,
td.numeric {
  text-align: right;
}

.why {
  display: grid;
  gap: 4px;
  font-weight: 600;
}
</style>
