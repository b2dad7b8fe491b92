<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, data, type Register, type Schemas } from '@/api/client'
import { useSession } from '@/people/session'
import { cell } from '@/platform/format'
import { useActing } from '@/platform/useActing'
import { meant } from '@/rows/typed'
import ValueInput from '@/rows/ValueInput.vue'
import { fieldOf, opposite, today, type Rules } from './transaction'

/** The opposite of a whole transaction, looked at and posted with a reason. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  register: Register
  rules: Rules
  transaction: Schemas['ShownTransaction']
  /** the fields of a line that are shown */
  shown: string[]
  zone: string
}>()
const emit = defineEmits<{ posted: [words: string, number: string] }>()
const session = useSession()
const { busy, trouble, troubleId, act } = useActing()

const values = ref<Record<string, string>>({})
const reason = ref('')
let key = ''
watch(open, (now) => {
  if (!now) return
  trouble.value = reason.value = ''
  values.value = today(props.register, props.rules, session.current!.now, props.zone)
  key = crypto.randomUUID()
})

const of = (field: string) => fieldOf(props.register, field)
const post = () =>
  act(async () => {
    const { number } = await data(
      api.POST('/api/registers/{key}/transactions/{id}/reverse', {
        params: {
          path: { key: props.register.register, id: props.transaction.records[0]!.id },
          header: { 'Idempotency-Key': `${key} ${reason.value.length}` },
        },
        body: {
          values: Object.fromEntries(
            Object.entries(values.value).map(([k, text]) => [k, meant(of(k), text, props.zone)]),
          ) as never,
          reason: reason.value,
        },
      }),
    )
    open.value = false
    emit('posted', `${number} takes ${props.transaction.number} back.`, number)
  })
</script>

<template>
  <ElDialog v-model="open" :title="`Take back ${transaction.number}`" width="640px">
    <p class="hint">
      These lines are posted, the opposite of what is there. {{ transaction.number }} itself stays as it is,
      and each says which is the opposite of which.
    </p>
    <table>
      <thead>
        <tr>
          <th v-for="k in shown" :key="k" scope="col">{{ of(k).label }}</th>
          <th scope="col" class="numeric">{{ of(rules.amount).label }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in transaction.records" :key="row.id">
          <td v-for="k in shown" :key="k">{{ cell(of(k), row.values[k], zone) }}</td>
          <td class="numeric">
            {{ cell(of(rules.amount), opposite(String(row.values[rules.amount] ?? '')), zone) }}
          </td>
        </tr>
      </tbody>
    </table>
    <div class="heads">
      <label v-for="(_, k) in values" :key="k">
        {{ of(k).label }}
        <ValueInput v-model="values[k]!" :field="of(k)" :label="of(k).label" />
      </label>
    </div>
    <label class="why">
      Why
      <input
        v-model="reason"
        name="reason"
        class="field"
        maxlength="500"
        placeholder="Posted to the wrong account"
      />
      <span class="small">It stands in the history of each line.</span>
    </label>
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    <template #footer>
      <button type="button" class="word" @click="open = false">Cancel</button>
      <button
        type="button"
        class="act"
        :disabled="busy || !reason.trim()"
        :title="reason.trim() ? undefined : 'Say why first'"
        @click="post"
      >
        Post the opposite
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
  margin: 8px 0 12px;
}

th,
td {
  text-align: left;
  padding: 3px 8px 3px 0;
  border-bottom: 1px solid var(--rule);
  overflow-wrap: anywhere;
}

th.numeric,
td.numeric {
  text-align: right;
  font-variant-numeric: tabular-nums;
}

.heads {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  margin-bottom: 10px;
}

.heads label,
.why {
  display: grid;
  gap: 3px;
  font-weight: 600;
}

.heads label {
  flex: 1 1 170px;
}

.why .small,
.why .field,
.heads :deep(.field) {
  font-weight: 400;
}
</style>
