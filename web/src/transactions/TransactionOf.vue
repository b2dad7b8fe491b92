<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, data, isAborted, latest, type Register, type Row, type Schemas } from '@/api/client'
import { useSession } from '@/people/session'
import { cell } from '@/platform/format'
import { askedPath } from '@/rows/related'
import ReverseDialog from './ReverseDialog.vue'
import TransactionDialog from './TransactionDialog.vue'
import { copied, fieldOf, isZero, type Draft, type Rules } from './transaction'

/** The transaction that a record is a line of: its lines, its opposite, and what can be posted from it. */
const props = defineProps<{ register: Register; rules: Rules; record: Row; zone: string }>()
const emit = defineEmits<{ posted: [words: string] }>()
const session = useSession()

const transaction = ref<Schemas['ShownTransaction']>()
const asking = latest()
watch(
  () => props.record,
  async ({ id }) => {
    try {
      transaction.value = await asking.ask((signal) =>
        data(
          api.GET('/api/registers/{key}/transactions/{id}', {
            params: { path: { key: props.register.register, id } },
            signal,
          }),
        ),
      )
    } catch (e) {
      // A record that is in no transaction has none to show.
      if (!isAborted(e)) transaction.value = undefined
    }
  },
  { immediate: true },
)

const of = (key: string) => fieldOf(props.register, key)
/** The first field of a line, and where lines differ in it also the second. */
const shown = computed(() => {
  const [first, second] = props.rules.each
  if (!first) return []
  const rows = transaction.value?.records ?? []
  const differs = second && new Set(rows.map((r) => r.values[second])).size > 1
  return differs ? [first, second] : [first]
})
const path = (number: string) =>
  askedPath(props.register.register, `${props.rules.number.field} is ${JSON.stringify(number)}`)
const mayPost = computed(() => transaction.value?.mayPost && session.mayWrite)

const writing = ref(false)
const start = ref<Draft>()
function copy() {
  start.value = copied(
    props.register,
    props.rules,
    transaction.value!.records,
    session.current!.now,
    props.zone,
  )
  writing.value = true
}
const reversing = ref(false)
</script>

<template>
  <section v-if="transaction && transaction.records.length > 1" aria-labelledby="of-transaction">
    <h3 id="of-transaction">
      Transaction <RouterLink :to="path(transaction.number)">{{ transaction.number }}</RouterLink>
    </h3>
    <table>
      <tbody>
        <tr v-for="row in transaction.records" :key="row.id" :class="{ here: row.id === record.id }">
          <td v-for="key in shown" :key="key">{{ cell(of(key), row.values[key], zone) }}</td>
          <td class="numeric">{{ cell(of(rules.amount), row.values[rules.amount], zone) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="!isZero(String(transaction.difference))" class="small">
      What you see of it adds up to {{ cell(of(rules.amount), transaction.difference, zone) }}.
    </p>
    <p v-if="transaction.reverses" class="small">
      It takes back <RouterLink :to="path(transaction.reverses)">{{ transaction.reverses }}</RouterLink>.
    </p>
    <p v-if="transaction.reversedBy" class="small">
      It was taken back by
      <RouterLink :to="path(transaction.reversedBy)">{{ transaction.reversedBy }}</RouterLink>.
    </p>
    <p v-if="mayPost" class="acts">
      <button v-if="!transaction.reversedBy" type="button" class="word" @click="reversing = true">
        Take it all back
      </button>
      <button type="button" class="word" @click="copy">Post a copy</button>
    </p>
    <ReverseDialog
      v-model="reversing"
      :register="register"
      :rules="rules"
      :transaction="transaction"
      :shown="rules.each.slice(0, 2)"
      :zone="zone"
      @posted="emit('posted', $event)"
    />
    <TransactionDialog
      v-model="writing"
      :register="register"
      :rules="rules"
      :zone="zone"
      :start="start"
      @posted="emit('posted', $event)"
    />
  </section>
</template>

<style scoped>
h3 {
  font: 600 14px var(--sans);
  margin-top: 8px;
}

table {
  width: 100%;
  border-collapse: collapse;
  margin: 4px 0;
}

td {
  padding: 2px 6px 2px 5px;
  border-left: 3px solid transparent;
  overflow-wrap: anywhere;
}

td.numeric {
  text-align: right;
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}

tr.here td {
  background: var(--act-soft);
}

tr.here td:first-child {
  border-left-color: var(--act);
}

.acts {
  display: flex;
  gap: 14px;
  margin-bottom: 10px;
}
</style>
