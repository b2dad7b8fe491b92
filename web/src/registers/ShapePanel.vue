<script setup lang="ts">
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
const trouble = ref('')
const busy = ref(false)

onMounted(async () => {
  if (props.register.origin !== 'ATTACHED') return
  try {
    await look()
    if (!session.isAdministrator) return
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
}

/** What another server's tables look like is only known as of the last time they were read. */
async function readAnew() {
  trouble.value = ''
  busy.value = true
  try {
    server.value = await data(
      api.PUT('/api/linked-servers/{key}/tables', {
        params: { path: { key: server.value!.key } },
        body: server.value!.tables.map((t) => ({ schema: t.sourceSchema, table: t.sourceTable })),
      }),
    )
    await look()
  } catch (e) {
    trouble.value = sentence(e)
  } finally {
    busy.value = false
  }
}

async function take() {
  trouble.value = ''
  try {
    await api.POST('/api/registers/{key}/shape', { params: { path: { key: props.register.key } } })
    catalogue.forget()
    emit('taken')
  } catch (e) {
    trouble.value = sentence(e)
  }
}

const label = (key: string) => catalogue.names.find((r) => r.key === key)?.label ?? key
</script>

<template>
  <div>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-if="register.origin === 'OWN'">Its records are kept here, in a table of their own.</p>
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
        <p v-if="!shape.broken && !shape.fresh.length" class="small">
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
</style>
