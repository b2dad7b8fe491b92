<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { api, data, Problem, type Register } from '@/api/client'
import { useSession } from '@/people/session'
import { cell } from '@/platform/format'
import { useActing } from '@/platform/useActing'
import ValueInput from '@/rows/ValueInput.vue'
import {
  asked,
  emptyDraft,
  fieldOf,
  fromTemplate,
  isBlank,
  isZero,
  newLine,
  opposite,
  sum,
  written,
  type Draft,
  type Line,
  type Rules,
  type Template,
} from './transaction'

/**
 * A transaction is written line by line, with what is left over in sight, and posted once that is nothing. One that is not posted stays
 * as it is when the dialog is closed.
 */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  register: Register
  rules: Rules
  zone: string
  /** what it begins with; two empty lines where it is absent */
  start?: Draft
}>()
const emit = defineEmits<{ posted: [words: string, number: string] }>()
const session = useSession()
const { busy, trouble, troubleId, said, act } = useActing()

const draft = ref<Draft>({ values: {}, lines: [] })
const reason = ref('')
const templates = ref<Template[]>([])
const chosen = ref('')
/** what is to be kept as a template, under a name */
const naming = ref<string>()

const now = () => session.current!.now
const fresh = () => emptyDraft(props.register, props.rules, now(), props.zone)
const begun = computed(() => written(draft.value).length > 0)
watch(
  [open, () => props.start],
  ([shown, start], [was, before] = [false, undefined]) => {
    if (!shown) return
    if (start && (start !== before || !was) && start !== taken) {
      draft.value = taken = start
      chosen.value = reason.value = ''
    } else if (!draft.value.lines.length) draft.value = fresh()
    if (!was) {
      trouble.value = said.value = ''
      naming.value = undefined
      void fetchTemplates()
    }
  },
  { immediate: true },
)
let taken: Draft | undefined

function clear() {
  draft.value = fresh()
  chosen.value = reason.value = ''
  trouble.value = said.value = ''
}

// ------------------------------------------------------------------ lines

const of = (key: string) => fieldOf(props.register, key)
const amount = computed(() => of(props.rules.amount))
const difference = computed(() => sum(draft.value.lines.map((l) => l.amount)))
const balanced = computed(() => isZero(difference.value))
const shownDifference = computed(() => cell(amount.value, difference.value, props.zone))
const labels = computed(() => [...props.rules.each.map((k) => of(k).label), amount.value.label])

const sheet = ref<HTMLElement>()
async function add() {
  draft.value.lines.push(newLine())
  await nextTick()
  sheet.value?.querySelector<HTMLElement>('tbody tr:last-of-type :is(select, input)')?.focus()
}
function remove(line: Line) {
  draft.value.lines = draft.value.lines.filter((l) => l !== line)
  if (!draft.value.lines.length) draft.value.lines.push(newLine())
}
/** The line that takes what is left over: one without an amount, or the last one that is written. */
const taking = computed(
  () =>
    draft.value.lines.find((l) => !l.amount.trim()) ?? draft.value.lines.filter((l) => !isBlank(l)).at(-1),
)
function balance() {
  const line = taking.value!
  line.amount = opposite(sum(draft.value.lines.filter((l) => l !== line).map((l) => l.amount)))
}

// ------------------------------------------------------------------ templates

const path = computed(() => ({ key: props.register.register }))
async function fetchTemplates() {
  try {
    templates.value = await data(
      api.GET('/api/registers/{key}/transaction-templates', { params: { path: path.value } }),
    )
  } catch {
    // A transaction can be written without them.
    templates.value = []
  }
}
const template = computed(() => templates.value.find((t) => t.id === chosen.value))
function use() {
  if (template.value)
    draft.value = fromTemplate(props.register, props.rules, template.value, now(), props.zone)
}
/** What a template holds: all but the dates, which are those of the day it is used on. */
function kept(name: string) {
  const { values, lines } = asked(
    props.register,
    props.rules,
    {
      values: Object.fromEntries(
        Object.entries(draft.value.values).filter(([k]) => !['date', 'moment'].includes(of(k).type)),
      ),
      lines: written(draft.value).map((l) => ({ ...l, amount: l.amount.trim() || '0' })),
    },
    props.zone,
  )
  return {
    name,
    values,
    lines: lines.map((line, i) =>
      written(draft.value)[i]!.amount.trim() ? line : { ...line, [props.rules.amount]: null },
    ),
  } as never
}
const keepTemplate = () =>
  act(async () => {
    const made = await data(
      api.POST('/api/registers/{key}/transaction-templates', {
        params: { path: path.value },
        body: kept(naming.value!),
      }),
    )
    naming.value = undefined
    await fetchTemplates()
    chosen.value = made.id
    return `“${made.name}” is kept as a template.`
  })
const changeTemplate = () =>
  act(async () => {
    const { id, name, version } = template.value!
    await api.PUT('/api/registers/{key}/transaction-templates/{template}', {
      params: { path: { ...path.value, template: id }, query: { version } },
      body: kept(name),
    })
    await fetchTemplates()
    return `“${name}” is kept as it stands here.`
  })
const deleteTemplate = () =>
  act(async () => {
    const { id, name } = template.value!
    await api.DELETE('/api/registers/{key}/transaction-templates/{template}', {
      params: { path: { ...path.value, template: id } },
    })
    chosen.value = ''
    await fetchTemplates()
    return `“${name}” is no template any more.`
  })

// ------------------------------------------------------------------ posting

/** what was sent under which key: sent again, it is posted once */
let sent: { words: string; key: string } | undefined
const refusedLines = ref<{ line: number; reason: string }[]>([])
const post = () =>
  act(
    async () => {
      const body = {
        ...asked(props.register, props.rules, draft.value, props.zone),
        reason: reason.value.trim() || null,
      }
      const words = JSON.stringify(body)
      if (sent?.words !== words) sent = { words, key: crypto.randomUUID() }
      const { number, records } = await data(
        api.POST('/api/registers/{key}/transactions', {
          params: { path: path.value, header: { 'Idempotency-Key': sent.key } },
          body: body as never,
        }),
      )
      sent = undefined
      clear()
      open.value = false
      emit('posted', `${number} is posted, with ${records.length} lines.`, number)
    },
    (e) => {
      if (e instanceof Problem && Array.isArray(e.details.refused)) refusedLines.value = e.details.refused
    },
  )
// What is written otherwise is not what was refused.
watch(draft, () => (refusedLines.value = []), { deep: true })
/** Why a line was refused. */
const refusalOf = (line: Line) =>
  refusedLines.value.find((r) => written(draft.value)[r.line - 1] === line)?.reason
const hindrance = computed(() =>
  written(draft.value).length < 2
    ? 'A transaction has at least two lines'
    : balanced.value
      ? undefined
      : `${shownDifference.value} is left over`,
)
</script>

<template>
  <ElDialog v-model="open" title="Post a transaction" width="min(960px, 96vw)" class="transaction-dialog">
    <div ref="sheet" @keydown.enter.ctrl="!hindrance && !busy && post()">
      <div class="heads">
        <label v-for="key in rules.shared" :key="key">
          {{ of(key).label }}
          <ValueInput
            :model-value="draft.values[key] ?? ''"
            :field="of(key)"
            :label="of(key).label"
            none=""
            @update:model-value="draft.values[key] = $event"
          />
        </label>
        <label v-if="templates.length" class="template">
          Template
          <select v-model="chosen" class="field" :title="template?.name" @change="use">
            <option value="">none</option>
            <option v-for="t in templates" :key="t.id" :value="t.id">{{ t.name }}</option>
          </select>
        </label>
      </div>
      <table>
        <thead>
          <tr>
            <th
              v-for="(label, i) in labels"
              :key="label"
              scope="col"
              :class="{ numeric: i === rules.each.length }"
            >
              {{ label }}
            </th>
            <th scope="col"><span class="hidden-text">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          <template v-for="(line, i) in draft.lines" :key="line.at">
            <tr :class="{ refused: refusalOf(line) }">
              <td v-for="key in rules.each" :key="key" :data-label="of(key).label">
                <ValueInput
                  :model-value="line.values[key] ?? ''"
                  :field="of(key)"
                  :label="`${of(key).label} of line ${i + 1}`"
                  :none="of(key).required ? '' : of(key).type === 'text' ? '' : 'none'"
                  @update:model-value="line.values[key] = $event"
                />
              </td>
              <td class="numeric" :data-label="amount.label">
                <input
                  v-model="line.amount"
                  class="field"
                  inputmode="decimal"
                  :aria-label="`${amount.label} of line ${i + 1}`"
                  :placeholder="!balanced && line === taking && !line.amount ? opposite(difference) : ''"
                />
              </td>
              <td>
                <button
                  type="button"
                  class="word"
                  :aria-label="`Remove line ${i + 1}`"
                  title="Remove this line"
                  @click="remove(line)"
                >
                  ✕
                </button>
              </td>
            </tr>
            <tr v-if="refusalOf(line)" class="why">
              <td :colspan="rules.each.length + 2">{{ refusalOf(line) }}</td>
            </tr>
          </template>
        </tbody>
      </table>
      <div class="foot">
        <button type="button" class="quiet" @click="add">Another line</button>
        <p class="left" :class="{ balanced: balanced && begun }" role="status">
          <template v-if="balanced">{{
            begun ? 'The lines add up to zero.' : 'Nothing is written yet.'
          }}</template>
          <template v-else>
            <strong>{{ shownDifference }}{{ amount.unit ? ` ${amount.unit}` : '' }}</strong> is left over.
          </template>
        </p>
        <button v-if="!balanced && taking" type="button" class="word" @click="balance">
          Put it on line {{ draft.lines.indexOf(taking) + 1 }}
        </button>
      </div>
      <label class="reason">
        Why <span class="small">in the history of each line; may be left empty</span>
        <input v-model="reason" class="field" maxlength="500" aria-label="Why" />
      </label>
      <form v-if="naming !== undefined" class="naming" @submit.prevent="keepTemplate">
        <label>
          Name of the template
          <input v-model="naming" name="name" class="field" maxlength="120" required />
        </label>
        <button type="submit" class="quiet" :disabled="busy || !naming.trim()">Save the template</button>
        <button type="button" class="word" @click="naming = undefined">Cancel</button>
      </form>
      <p v-else-if="begun" class="acts">
        <button type="button" class="word" :disabled="busy" @click="naming = ''">Save as a template</button>
        <template v-if="template?.mayChange">
          <button type="button" class="word" :disabled="busy" @click="changeTemplate">
            Save it in “{{ template.name }}”
          </button>
          <button type="button" class="word" :disabled="busy" @click="deleteTemplate">
            Delete “{{ template.name }}”
          </button>
        </template>
      </p>
      <p class="said" role="status">{{ said }}</p>
      <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    </div>
    <template #footer>
      <button v-if="begun" type="button" class="word clear" @click="clear">Clear it</button>
      <button type="button" class="word" @click="open = false">Close</button>
      <button
        type="button"
        class="act"
        :disabled="busy || hindrance !== undefined"
        :title="hindrance"
        @click="post"
      >
        Post
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
.heads {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  margin-bottom: 12px;
}

.heads label {
  display: grid;
  gap: 3px;
  flex: 1 1 170px;
  font-weight: 600;
}

table {
  width: 100%;
  border-collapse: collapse;
}

th {
  text-align: left;
  font-weight: 600;
  padding: 2px 6px 4px 0;
  border-bottom: 1px solid var(--rule-strong);
}

td {
  padding: 4px 6px 4px 0;
}

td :deep(.field) {
  width: 100%;
  min-width: 0;
}

th.numeric,
td.numeric .field {
  text-align: right;
}

td.numeric {
  width: 130px;
}

tr.refused td {
  border-left: 0;
  background: var(--alert-bg, transparent);
}

tr.why td {
  color: var(--alert);
  padding-top: 0;
}

.foot {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
  border-top: 1px solid var(--rule-strong);
  padding-top: 8px;
}

.left {
  margin-left: auto;
  color: var(--alert);
}

.left.balanced {
  color: var(--act);
}

.reason {
  display: grid;
  gap: 3px;
  font-weight: 600;
  margin-top: 10px;
}

.reason .small {
  font-weight: 400;
}

.naming {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: end;
  margin-top: 10px;
}

.naming label {
  display: grid;
  gap: 3px;
  flex: 1 1 220px;
  font-weight: 600;
}

.heads :deep(.field),
.reason .field,
.naming .field {
  font-weight: 400;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin-top: 8px;
}

.said {
  color: var(--act);
}

.clear {
  float: left;
}

@media (max-width: 760px) {
  thead {
    position: absolute;
    left: -9999px;
  }

  tbody tr {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 4px 8px;
    border-bottom: 1px solid var(--rule);
    padding: 6px 0;
  }

  td,
  td.numeric {
    width: auto;
    padding: 0;
  }

  td[data-label]::before {
    content: attr(data-label);
    display: block;
    color: var(--ink-2);
  }
}
</style>
