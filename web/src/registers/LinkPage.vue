<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, data, Problem, type LinkedServer, type ServerLook } from '@/api/client'
import SkipLink from '@/platform/SkipLink.vue'
import { number } from '@/platform/format'
import { useLeaving } from '@/platform/leaving'
import SaidLine from '@/platform/SaidLine.vue'

const route = useRoute()
const router = useRouter()
const leaving = useLeaving()

const servers = ref<LinkedServer[]>()
const key = computed(() => String(route.params.key ?? ''))
const current = computed(() => servers.value?.find((s) => s.key === key.value))

const label = ref('')
const host = ref('')
const port = ref(5432)
const database = ref('')
const role = ref('')
const password = ref('')
const encryption = ref<'REQUIRED' | 'PREFERRED' | 'OFF'>('PREFERRED')

const look = ref<ServerLook>()
const chosen = ref<string[]>([])
const wanted = ref('')
const changing = ref(false)
const { busy, trouble, troubleId, said, act } = useActing()

const named = (t: { schema: string; table: string }) => `${t.schema}.${t.table}`
const address = computed(() => ({
  host: host.value.trim(),
  port: port.value,
  database: database.value.trim(),
  role: role.value.trim(),
  encryption: encryption.value,
}))

onMounted(load)
watch(key, load)

async function load() {
  document.title = 'Link another server · Deft Lens'
  trouble.value = ''
  said.value = ''
  look.value = undefined
  changing.value = false
  await guarded(async () => {
    servers.value = await data(api.GET('/api/linked-servers'))
    if (!current.value) return
    const at = current.value.address
    label.value = current.value.label
    host.value = at.host
    port.value = at.port
    database.value = at.database
    role.value = at.role
    encryption.value = at.encryption
    await lookAgain()
  })
}

async function guarded(work: () => Promise<void>) {
  await act(work, (e) => {
    // A sign-in that no longer works is mended here.
    if (e instanceof Problem && current.value && !look.value) changing.value = true
  })
}

/** What is pasted as a connection address fills the fields. */
function paste(event: ClipboardEvent) {
  const text = event.clipboardData?.getData('text').trim() ?? ''
  const parts =
    /^(?:jdbc:)?postgres(?:ql)?:\/\/(?:([^:@/]+)(?::([^@/]*))?@)?([^:/?]+)(?::(\d+))?(?:\/([^?]+))?/.exec(
      text,
    )
  if (!parts) return
  event.preventDefault()
  host.value = parts[3]!
  if (parts[1]) role.value = decodeURIComponent(parts[1])
  if (parts[2]) password.value = decodeURIComponent(parts[2])
  if (parts[4]) port.value = Number(parts[4])
  if (parts[5]) database.value = decodeURIComponent(parts[5])
}

function show(found: ServerLook) {
  look.value = found
  chosen.value = found.tables.filter((t) => t.linked).map(named)
}

const connect = () =>
  guarded(async () => {
    const body = { address: address.value, password: password.value }
    if (current.value) {
      await data(api.PUT('/api/linked-servers/{key}/access', { params: { path: { key: key.value } }, body }))
      servers.value = await data(api.GET('/api/linked-servers'))
      changing.value = false
      said.value = 'The new connection works and is saved.'
      await lookAgain()
    } else {
      show((await data(api.POST('/api/linked-servers/look', { body })))!)
      if (!label.value) label.value = database.value
      if (look.value!.tables.length === 1) chosen.value = look.value!.tables.map(named)
    }
  })

async function lookAgain() {
  show((await data(api.GET('/api/linked-servers/{key}/look', { params: { path: { key: key.value } } })))!)
}

const link = () =>
  guarded(async () => {
    const left = leaving()
    const tables = look
      .value!.tables.filter((t) => chosen.value.includes(named(t)))
      .map(({ schema, table }) => ({ schema, table }))
    const made = (await data(
      current.value
        ? api.PUT('/api/linked-servers/{key}/tables', { params: { path: { key: key.value } }, body: tables })
        : api.POST('/api/linked-servers', {
            body: { label: label.value, address: address.value, password: password.value, tables },
          }),
    ))!
    const fresh = made.tables.filter((t) => !t.register)
    if (left()) return
    await router.push({
      path: '/catalogue/attach',
      query: { schema: made.key, ...(fresh.length === 1 ? { table: fresh[0]!.table } : {}) },
    })
  })

const unlink = (server: LinkedServer) =>
  guarded(async () => {
    const left = leaving()
    await api.DELETE('/api/linked-servers/{key}', { params: { path: { key: server.key } } })
    servers.value = servers.value!.filter((s) => s !== server)
    said.value = `${server.label} is no longer linked.`
    if (key.value && !left()) await router.push('/catalogue/link')
  })

const found = computed(() =>
  (look.value?.tables ?? []).filter((t) =>
    `${named(t)} ${t.comment}`.toLowerCase().includes(wanted.value.trim().toLowerCase()),
  ),
)
const register = (t: { schema: string; table: string }) =>
  current.value?.tables.find((l) => l.sourceSchema === t.schema && l.sourceTable === t.table)?.register
const all = computed({
  get: () => found.value.length > 0 && found.value.every((t) => chosen.value.includes(named(t))),
  set: (on: boolean) => {
    const names = found.value.filter((t) => !register(t)).map(named)
    chosen.value = on
      ? [...new Set([...chosen.value, ...names])]
      : chosen.value.filter((c) => !names.includes(c))
  },
})
</script>

<template>
  <main class="paper">
    <h1>{{ current ? current.label : 'Link another server' }}</h1>
    <p class="hint">
      Tables of another PostgreSQL server are read where they stand: every question is put there, nothing is
      copied, and nothing can be written. A role that may only read is enough, and best.
    </p>
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    <SaidLine :words="said" />

    <form v-if="!look || changing" @submit.prevent="connect" @paste="paste">
      <div class="pair">
        <label>
          Server
          <input
            v-model="host"
            name="address.host"
            class="field"
            required
            autocomplete="off"
            placeholder="db.example.org"
            aria-describedby="server-hint"
          />
        </label>
        <label
          >Port <input v-model.number="port" class="field" type="number" min="1" max="65535" required
        /></label>
        <label
          >Database
          <input
            v-model="database"
            name="address.database"
            class="field"
            required
            maxlength="63"
            autocomplete="off"
        /></label>
        <label
          >Role
          <input v-model="role" name="address.role" class="field" required maxlength="63" autocomplete="off"
        /></label>
        <label>
          Password
          <input
            v-model="password"
            class="field"
            type="password"
            maxlength="200"
            autocomplete="new-password"
          />
        </label>
        <label>
          Encryption
          <select v-model="encryption" class="field">
            <option value="PREFERRED">where the server offers it</option>
            <option value="REQUIRED">always</option>
            <option value="OFF">never</option>
          </select>
        </label>
      </div>
      <p id="server-hint" class="small after">
        A whole address (postgresql://role@host:5432/database) can be pasted into any of these.
      </p>
      <p class="acts">
        <button type="submit" class="act" :disabled="busy">{{ busy ? 'Connecting…' : 'Connect' }}</button>
        <button v-if="changing && look" type="button" class="word" @click="changing = false">Leave it</button>
      </p>
    </form>

    <form v-if="look && !changing" @submit.prevent="link">
      <p class="small">
        PostgreSQL {{ look.version }} at {{ host }}, database {{ database }}, as {{ role }}.
        <button type="button" class="word" @click="current ? (changing = true) : (look = undefined)">
          Change this
        </button>
      </p>
      <p v-if="!look.comparesAlike" class="notice">
        That server folds letters by rules of its own. Texts are therefore compared here, which is right but
        slower for tables of many rows.
      </p>
      <template v-if="look.tables.length">
        <div v-if="!current" class="pair">
          <label>Name <input v-model="label" name="label" class="field" required maxlength="60" /></label>
        </div>
        <h2>Which of its tables?</h2>
        <p v-if="look.tables.length > 8" class="find">
          <input v-model="wanted" class="field" placeholder="Find a table…" aria-label="Find a table" />
        </p>
        <SkipLink v-if="found.length > 8" to="link-them">Skip past the tables</SkipLink>
        <table class="lines">
          <thead>
            <tr>
              <th scope="col"><input v-model="all" type="checkbox" aria-label="All that are listed" /></th>
              <th scope="col">Table</th>
              <th scope="col">Kind</th>
              <th scope="col">What that database says of it</th>
              <th scope="col" class="numeric">Columns</th>
              <th scope="col" class="numeric">About rows</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="t in found" :key="named(t)">
              <td>
                <input
                  v-model="chosen"
                  type="checkbox"
                  :value="named(t)"
                  :disabled="Boolean(register(t))"
                  :aria-label="`Link ${named(t)}`"
                />
              </td>
              <td>
                {{ t.schema }}.<strong>{{ t.table }}</strong>
                <RouterLink v-if="register(t)" class="small" :to="`/registers/${register(t)}`">
                  attached</RouterLink
                >
              </td>
              <td>{{ t.kind }}</td>
              <td>{{ t.comment || '—' }}</td>
              <td class="numeric">{{ t.columns }}</td>
              <td class="numeric">{{ t.rows < 0 ? 'not known' : number(t.rows) }}</td>
            </tr>
          </tbody>
        </table>
        <p id="link-them" class="acts">
          <button type="submit" class="act" :disabled="busy || !chosen.length">
            {{ current ? 'Save' : 'Link' }} {{ chosen.length === 1 ? '1 table' : `${chosen.length} tables` }}
          </button>
          <button v-if="current" type="button" class="word" :disabled="busy" @click="unlink(current)">
            Unlink this server
          </button>
          <span v-if="!chosen.length" class="small">Choose at least one table.</span>
        </p>
      </template>
      <p v-else class="hint">
        The role “{{ role }}” may read no table there. The other server's administrator can allow it: grant
        usage on schema … to {{ role }}; grant select on table … to {{ role }};
      </p>
    </form>

    <template v-if="!key && servers?.length && !look">
      <h2>Linked servers</h2>
      <table class="lines">
        <thead>
          <tr>
            <th scope="col">Server</th>
            <th scope="col">Where</th>
            <th scope="col">Tables</th>
            <th scope="col"><span class="hidden-text">Act</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in servers" :key="s.key">
            <td>
              <RouterLink :to="`/catalogue/link/${s.key}`">{{ s.label }}</RouterLink>
            </td>
            <td>
              {{ s.address.host }}:{{ s.address.port }}, {{ s.address.database }}, as {{ s.address.role }}
            </td>
            <td>{{ s.tables.map((t) => t.table).join(', ') }}</td>
            <td>
              <RouterLink :to="{ path: '/catalogue/attach', query: { schema: s.key } }"
                >Attach its tables</RouterLink
              >
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </main>
</template>

<style scoped>
.after {
  margin-top: 6px;
}

.find {
  max-width: 320px;
  margin-top: 8px;
}

td a.small {
  margin-left: 8px;
}
</style>
