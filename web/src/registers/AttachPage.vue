<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, data, type Attachable, type TableProposal } from '@/api/client'
import SkipLink from '@/platform/SkipLink.vue'
import { counted, isNumericType, number, typeWords } from '@/platform/format'
import { useLeaving } from '@/platform/leaving'
import { useCatalogue } from './catalogue'

const route = useRoute()
const router = useRouter()
const leaving = useLeaving()
const catalogue = useCatalogue()

interface Line {
  key: string
  column: string
  label: string
  type: string
  databaseType: string
  description: string
  shown: boolean
  taken: boolean
  options: string[]
}

const tables = ref<Attachable[]>()
const wanted = ref('')
const proposal = ref<TableProposal>()
const lines = ref<Line[]>([])
const label = ref('')
const recordLabel = ref('')
const keyColumns = ref<string[]>([])
const mainField = ref('')
const titleField = ref('')
const { busy, trouble, troubleId, refused, act } = useActing()

onMounted(async () => {
  document.title = 'Attach a table · Deft Lens'
  try {
    tables.value = await data(api.GET('/api/attachable'))
    const [schema, table] = [String(route.query.schema ?? ''), String(route.query.table ?? '')]
    const asked = tables.value!.find((t) => t.schema === schema && t.table === table && !t.register)
    if (asked) await choose(asked)
    else if (schema) wanted.value = schema + '.'
  } catch (e) {
    refused(e)
  }
})

const found = computed(() =>
  (tables.value ?? []).filter((t) =>
    `${t.schema}.${t.table} ${t.comment}`.toLowerCase().includes(wanted.value.trim().toLowerCase()),
  ),
)

async function choose(table: Attachable) {
  await act(async () => {
    const fresh = (await data(
      api.GET('/api/attachable/{schema}/{table}', {
        params: { path: { schema: table.schema, table: table.table } },
      }),
    )) as TableProposal
    proposal.value = fresh
    label.value = fresh.label
    recordLabel.value = ''
    keyColumns.value = [...fresh.keyColumns]
    mainField.value = fresh.mainField ?? ''
    titleField.value = fresh.titleField
    lines.value = fresh.fields.map((f) => ({ ...f, taken: true }))
  })
}

/** The types that a column can be read as instead. */
function alternatives(line: Line): string[] {
  const given = proposal.value!.fields.find((f) => f.key === line.key)!.type
  if (given === 'text' || given === 'choice') return ['text', 'choice', 'person']
  return isNumericType(given) ? ['number', 'money', 'duration'] : [given]
}

const taken = computed(() => lines.value.filter((l) => l.taken))
const dates = computed(() => taken.value.filter((l) => l.type === 'date' || l.type === 'moment'))

async function attach() {
  const left = leaving()
  await act(async () => {
    const made = await data(
      api.POST('/api/attached', {
        body: {
          schema: proposal.value!.schema,
          table: proposal.value!.table,
          label: label.value,
          recordLabel: recordLabel.value,
          keyColumns: keyColumns.value,
          mainField: dates.value.some((d) => d.key === mainField.value) ? mainField.value : null,
          titleField: titleField.value,
          fields: taken.value.map(({ key, label: words, type, shown, description }) => ({
            key,
            label: words,
            type,
            shown,
            description,
          })),
        },
      }),
    )
    catalogue.forget()
    await catalogue.load()
    if (!left()) await router.push(`/registers/${made.key}`)
  })
}
</script>

<template>
  <main class="paper">
    <h1>Attach a table</h1>
    <p class="hint">
      A table or database view becomes a register where it stands. It is only read: nothing is ever written to
      it, and nothing is copied. Tables of another PostgreSQL server are listed here once
      <RouterLink to="/catalogue/link">that server is linked</RouterLink>.
    </p>
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    <template v-if="!proposal && tables">
      <p v-if="tables.length > 8 || wanted" class="find">
        <input v-model="wanted" class="field" placeholder="Find a table…" aria-label="Find a table" />
      </p>
      <table v-if="found.length" class="lines">
        <thead>
          <tr>
            <th scope="col">Table</th>
            <th scope="col">Kind</th>
            <th scope="col">What the database says of it</th>
            <th scope="col" class="numeric">About rows</th>
            <th scope="col"><span class="hidden-text">Attach</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="t in found" :key="t.schema + '.' + t.table">
            <td>
              {{ t.schema }}.<strong>{{ t.table }}</strong>
            </td>
            <td>{{ t.kind }}</td>
            <td>{{ t.comment || '—' }}</td>
            <td class="numeric">{{ t.rows < 0 ? 'not known' : number(t.rows) }}</td>
            <td>
              <RouterLink v-if="t.register" :to="`/registers/${t.register}`">attached</RouterLink>
              <button
                v-else
                type="button"
                class="quiet"
                :disabled="busy"
                :aria-label="`Attach ${t.schema}.${t.table}`"
                @click="choose(t)"
              >
                Attach…
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else-if="wanted" class="hint">No table of that name.</p>
      <div v-else class="hint">
        <p>
          There is no table to attach yet. Tables are looked for in every schema of this database but our own,
          and on the servers that are linked.
        </p>
      </div>
    </template>
    <form v-else-if="proposal" @submit.prevent="attach">
      <h2>{{ proposal.schema }}.{{ proposal.table }}</h2>
      <p class="small">
        {{ proposal.kind }},
        {{ proposal.rows < 0 ? 'rows not counted' : `about ${counted(proposal.rows, 'row')}` }}
        <template v-if="proposal.skipped.length">
          · cannot be shown: {{ proposal.skipped.join(', ') }}</template
        >
      </p>
      <div class="pair">
        <label>Name <input v-model="label" name="label" class="field" required maxlength="120" /></label>
        <label>
          One record
          <input v-model="recordLabel" name="recordLabel" class="field" maxlength="60" placeholder="record" />
        </label>
        <label>
          Main date
          <select v-model="mainField" name="mainField" class="field">
            <option value="">none</option>
            <option v-for="d in dates" :key="d.key" :value="d.key">{{ d.label }}</option>
          </select>
        </label>
        <label>
          Records are named by
          <select v-model="titleField" name="titleField" class="field">
            <option v-for="l in taken" :key="l.key" :value="l.key">{{ l.label }}</option>
          </select>
        </label>
        <fieldset v-if="!proposal.keyColumns.length" class="keys">
          <legend>Which columns tell its rows apart?</legend>
          <label v-for="c in proposal.columns" :key="c" class="tick">
            <input v-model="keyColumns" type="checkbox" :value="c" /> {{ c }}
          </label>
        </fieldset>
        <p v-else class="small">Rows are told apart by {{ proposal.keyColumns.join(' and ') }}.</p>
      </div>
      <SkipLink to="attach-it">Skip past the columns</SkipLink>
      <table class="lines">
        <thead>
          <tr>
            <th scope="col"><span class="hidden-text">Import it</span></th>
            <th scope="col">Column</th>
            <th scope="col">Name</th>
            <th scope="col">Read as</th>
            <th scope="col">Description</th>
            <th scope="col">Shown by default</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in lines" :key="line.key">
            <td><input v-model="line.taken" type="checkbox" :aria-label="`Take ${line.column}`" /></td>
            <td>
              {{ line.column }}
              <p class="small">{{ line.databaseType }}</p>
            </td>
            <td>
              <input
                v-model="line.label"
                :name="`fields[${taken.indexOf(line)}].label`"
                class="field"
                :aria-label="`Name of ${line.column}`"
              />
            </td>
            <td>
              <select v-model="line.type" class="field" :aria-label="`Type of ${line.column}`">
                <option v-for="t in alternatives(line)" :key="t" :value="t">
                  {{ t === 'duration' ? 'duration, in seconds' : typeWords(t) }}
                </option>
              </select>
              <p v-if="line.options.length" class="small">{{ line.options.slice(0, 4).join(', ') }}</p>
            </td>
            <td>
              <input v-model="line.description" class="field" :aria-label="`Description of ${line.column}`" />
            </td>
            <td><input v-model="line.shown" type="checkbox" :aria-label="`Show ${line.column}`" /></td>
          </tr>
        </tbody>
      </table>
      <p id="attach-it" class="acts">
        <button type="submit" class="act" :disabled="busy || !taken.length || !keyColumns.length">
          Attach as {{ label || 'a register' }}
        </button>
        <button type="button" class="word" @click="proposal = undefined">Another table</button>
        <span v-if="!keyColumns.length" class="small">Choose what tells its rows apart.</span>
      </p>
    </form>
  </main>
</template>

<style scoped>
.find {
  max-width: 320px;
  margin-top: 12px;
}

.keys .tick {
  margin-right: 14px;
}
</style>
