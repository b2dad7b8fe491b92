<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { onMounted, ref } from 'vue'
import { api, data, sentence, type LinkedServer, type Register, type ShapeAnswer } from '@/api/client'
import { useSession } from '@/people/session'
import { moment } from '@/platform/format'
import { useCatalogue } from './catalogue'

const props = defineProps<{ register: Register }>()
const emit = defineEmits<{ taken: [] }>()
const session = useSession()
const catalogue = useCatalogue()

const shape = ref<ShapeAnswer>()
const server = ref<LinkedServer>()
/** what columns that are gone are called now; empty for one that is gone for good */
const renamed = ref<Record<string, string>>({})
const { busy, trouble, act } = useActing()

onMounted(async () => {
  if (props.register.origin === 'OWN') return
  try {
    await look()
    if (props.register.origin !== 'ATTACHED' || !session.isAdministrator) return
    server.value = (await data(api.GET('/api/linked-servers')))!.find((s) =>
      s.tables.some((t) => t.register === props.register.key),
    )
  } catch (e) {
    trouble.value = sentence(e)
  }
})

async function look() {
  shape.value = await data(
    api.GET('/api/registers/{key}/shape', { params: { path: { key: props.register.key } } }),
  )
  // One column that is gone and one that could be it: likely the same, and said before it is taken.
  const candidates = Object.entries(shape.value.renamed)
  renamed.value = Object.fromEntries(
    candidates.map(([was, now]) => [
      was,
      now.length === 1 && candidates.filter(([, other]) => other.includes(now[0]!)).length === 1
        ? now[0]!
        : '',
    ]),
  )
}

/** What another server's tables look like is only known as of the last time they were read. */
async function readAnew() {
  await act(async () => {
    server.value = await data(
      api.PUT('/api/linked-servers/{key}/tables', {
        params: { path: { key: server.value!.key } },
        body: server.value!.tables.map((t) => ({ schema: t.sourceSchema, table: t.sourceTable })),
      }),
    )
    await look()
  })
}

async function take() {
  trouble.value = ''
  try {
    await api.POST('/api/registers/{key}/shape', {
      params: { path: { key: props.register.key } },
      body: { renamed: Object.fromEntries(Object.entries(renamed.value).filter(([, now]) => now)) },
    })
    catalogue.forget()
    emit('taken')
    await look()
  } catch (e) {
    trouble.value = sentence(e)
  }
}

const label = (key: string) => catalogue.names.find((r) => r.key === key)?.label ?? key
</script>

<template>
  <div>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-if="register.origin === 'OWN'">Its records are stored here, in a table of their own.</p>
    <template v-else-if="register.origin === 'COMBINED'">
      <p>It is read together from these registers; each keeps its own records.</p>
      <table class="lines">
        <thead>
          <tr>
            <th scope="col">Field</th>
            <th v-for="m in register.members" :key="m.key" scope="col">{{ label(m.key) }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="f in register.fields.filter((f) => f.origin === 'COLUMN')" :key="f.key">
            <td>{{ f.label }}</td>
            <td v-for="m in register.members" :key="m.key">{{ m.mapping[f.key] ?? '—' }}</td>
          </tr>
        </tbody>
      </table>
      <div v-if="register.gaps.length" class="shape notice">
        <p v-for="g in register.gaps" :key="g">{{ g }}</p>
        <template v-if="shape?.views.length">
          <p>Views that this touches:</p>
          <ul>
            <li v-for="v in shape.views" :key="v.id">
              <RouterLink :to="`/views/${v.id}`">{{ v.name }}</RouterLink>
            </li>
          </ul>
        </template>
      </div>
      <p v-if="session.isAdministrator" class="acts">
        <RouterLink class="quiet" :to="`/catalogue/combine/${register.key}`"
          >Change what its fields are read from</RouterLink
        >
      </p>
    </template>
    <template v-else>
      <p>
        It is read in place from <code>{{ register.table }}</code>; nothing is ever written there.
      </p>
      <p v-if="server">
        The table stands on
        <RouterLink :to="`/catalogue/link/${server.key}`">{{ server.label }}</RouterLink> ({{
          server.address.host
        }}, database {{ server.address.database }}). What it looks like was last read on
        {{ moment(server.readAt, session.zone) }}.
        <button type="button" class="quiet" :disabled="busy" @click="readAnew">Read it anew</button>
      </p>
      <template v-if="shape">
        <p v-if="!shape.broken && !shape.fresh.length && !shape.values.length" class="small">
          The table is as it was when it was attached.
        </p>
        <div v-else :class="{ notice: shape.broken }" class="shape">
          <p v-if="shape.gone"><strong>The table is gone.</strong></p>
          <template v-else>
            <p v-if="shape.missing.length">Columns that are gone: {{ shape.missing.join(', ') }}.</p>
            <p v-if="shape.retyped.length">
              Columns that hold something else now: {{ shape.retyped.join(', ') }}.
            </p>
            <p v-if="shape.fresh.length">
              Columns that no field is read from yet: {{ shape.fresh.join(', ') }}.
            </p>
            <p v-if="shape.values.length">
              Columns that may hold new values: {{ shape.values.join(', ') }}. They are taken each night.
            </p>
            <fieldset v-if="Object.keys(renamed).length" :disabled="!session.isAdministrator" class="renamed">
              <legend>A column that only has another name goes on being read by its field:</legend>
              <label v-for="(_, was) in renamed" :key="was">
                <code>{{ was }}</code> is now
                <select v-model="renamed[was]" class="field" :aria-label="`What ${was} is called now`">
                  <option value="">gone, with its field</option>
                  <option v-for="now in shape.renamed[was]" :key="now" :value="now">{{ now }}</option>
                </select>
              </label>
            </fieldset>
          </template>
          <template v-if="shape.views.length">
            <p>Views that this touches:</p>
            <ul>
              <li v-for="v in shape.views" :key="v.id">
                <RouterLink :to="`/views/${v.id}`">{{ v.name }}</RouterLink>
              </li>
            </ul>
          </template>
          <p v-if="!shape.gone && session.isAdministrator" class="acts">
            <button type="button" class="act" @click="take">Take the table as it is now</button>
          </p>
        </div>
      </template>
    </template>
  </div>
</template>

<style scoped>
.shape {
  margin-top: 8px;
}

.renamed {
  border: 0;
  padding: 0;
  margin: 8px 0;
}

.renamed label {
  display: flex;
  gap: 8px;
  align-items: baseline;
  margin-top: 6px;
}

.renamed select {
  width: 220px;
}
</style>
