<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, ref } from 'vue'
import { api, data, type Attribute, type PeopleReport } from '@/api/client'

/** Many people at once, from a CSV file that is looked at before anything is written. */
const props = defineProps<{ known: Attribute[] }>()
const emit = defineEmits<{ changed: [] }>()
const text = ref('')
const report = ref<PeopleReport>()
const { busy, trouble, act } = useActing()

const example = computed(() =>
  [
    ['name', 'full name', 'role', 'teams', ...props.known.map((k) => k.key), 'password'].join(','),
    [
      'nora.quay',
      'Nora Quay',
      'member',
      'Quay crews; Stores and yard',
      ...props.known.map(() => ''),
      'first-password',
    ].join(','),
  ].join('\n'),
)

async function take(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  text.value = await file.text()
  await send(false)
}

async function send(write: boolean) {
  await act(
    async () => {
      report.value = (await data(
        api.POST('/api/people/file', { body: { text: text.value, write } }),
      )) as PeopleReport
      if (report.value.written) emit('changed')
    },
    () => (report.value = undefined),
  )
}
const nothing = computed(
  () =>
    report.value &&
    !report.value.added.length &&
    !report.value.changed.length &&
    !report.value.refused.length,
)
</script>

<template>
  <p class="hint">
    A CSV file with a heading. The column <em>name</em> says who is meant; <em>full name</em>, <em>role</em>,
    <em>teams</em>, <em>password</em> (for new people) and the attributes of people may be there. Several
    teams or values are separated by semicolons. What the file has no column for stays as it is; an empty cell
    of a column that is there empties it. It comes in whole or not at all.
  </p>
  <p class="acts">
    <input type="file" accept=".csv,text/csv" aria-label="A file of people" @change="take" />
  </p>
  <form @submit.prevent="send(false)">
    <label for="people-text">Or paste it</label>
    <textarea
      id="people-text"
      v-model="text"
      class="field"
      rows="8"
      spellcheck="false"
      :placeholder="example"
      @input="report = undefined"
    />
    <p class="acts">
      <button class="quiet" :disabled="busy || !text.trim()">Check it</button>
      <button
        v-if="report && !report.written"
        type="button"
        class="act"
        :disabled="busy || report.refused.length > 0 || nothing"
        @click="send(true)"
      >
        Import them
      </button>
    </p>
  </form>
  <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
  <section v-if="report" aria-label="What the file does">
    <h2>{{ report.written ? 'Done' : report.refused.length ? 'It does not fit yet' : 'What it will do' }}</h2>
    <ul v-if="report.refused.length" class="refused">
      <li v-for="r in report.refused" :key="`${r.line} ${r.reason}`">Line {{ r.line }}: {{ r.reason }}</li>
    </ul>
    <p v-if="report.added.length">
      {{ report.added.length }} {{ report.written ? 'added' : 'to add' }}:
      {{ report.added.slice(0, 20).join(', ')
      }}{{ report.added.length > 20 ? ` and ${report.added.length - 20} more` : '' }}
    </p>
    <p v-if="report.changed.length">
      {{ report.changed.length }} {{ report.written ? 'changed' : 'to change' }}:
    </p>
    <ul>
      <li v-for="c in report.changed.slice(0, 50)" :key="c">{{ c }}</li>
    </ul>
    <p v-if="report.same">{{ report.same }} as they are.</p>
    <p v-if="nothing && !report.same">There is nobody in it.</p>
  </section>
</template>

<style scoped>
label {
  display: block;
  margin: 10px 0 2px;
}

textarea {
  font:
    400 14px/1.45 ui-monospace,
    monospace;
  max-width: 860px;
}

ul {
  margin: 2px 0;
}

.refused {
  color: var(--alert);
}
</style>
