<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, data, sentence, type RegisterName } from '@/api/client'
import { moment, number } from '@/platform/format'
import { useSession } from '@/people/session'
import { useCatalogue } from './catalogue'
import RegisterNotes from './RegisterNotes.vue'
import SaidLine from '@/platform/SaidLine.vue'

const session = useSession()
const catalogue = useCatalogue()
const trouble = ref('')
const said = ref('')
const wanted = ref('')

onMounted(async () => {
  document.title = 'Catalogue · Deft Lens'
  try {
    await Promise.all([catalogue.load(), loadDeleted()])
  } catch (e) {
    trouble.value = sentence(e)
  }
})

const deleted = ref<RegisterName[]>([])
async function loadDeleted() {
  if (!session.isAdministrator) return
  deleted.value = await data(api.GET('/api/registers', { params: { query: { deleted: true } } }))
}

async function restore(register: RegisterName) {
  trouble.value = said.value = ''
  try {
    await api.POST('/api/registers/{key}/restore', { params: { path: { key: register.key } } })
    said.value = `${register.label} is there again, with its records and views.`
    catalogue.forget()
    await Promise.all([catalogue.load(), loadDeleted()])
  } catch (e) {
    trouble.value = sentence(e)
  }
}

const ORIGINS: Record<string, string> = {
  OWN: 'kept here',
  ATTACHED: 'attached, only read',
  COMBINED: 'combined from others',
}
const shown = computed(() =>
  catalogue.names.filter((r) =>
    (r.label + ' ' + r.description).toLowerCase().includes(wanted.value.trim().toLowerCase()),
  ),
)
</script>

<template>
  <main class="paper">
    <h1>Catalogue</h1>
    <p class="hint">
      A register is one kind of record: a table with described fields. Here they are named, explained and
      ordered, and here new ones are added.
    </p>
    <p v-if="session.isAdministrator" class="acts">
      <RouterLink class="act" to="/catalogue/import">Import a file</RouterLink>
      <RouterLink class="quiet" to="/catalogue/attach">Attach a table</RouterLink>
      <RouterLink class="quiet" to="/catalogue/link">Link another server</RouterLink>
      <RouterLink class="quiet" to="/catalogue/combine">Combine registers</RouterLink>
    </p>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <SaidLine :words="said" />
    <RegisterNotes />
    <p v-if="catalogue.names.length > 8" class="find">
      <input v-model="wanted" class="field" placeholder="Find a register…" aria-label="Find a register" />
    </p>
    <table v-if="shown.length" class="lines">
      <thead>
        <tr>
          <th scope="col">Register</th>
          <th scope="col">What it holds</th>
          <th scope="col">Where the records are</th>
          <th scope="col" class="numeric">Fields</th>
          <th scope="col" class="numeric">Records</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in shown" :key="r.key">
          <td>
            <RouterLink :to="`/catalogue/${r.key}`">{{ r.label }}</RouterLink>
          </td>
          <td>{{ r.description || '—' }}</td>
          <td>{{ ORIGINS[r.origin] }}</td>
          <td class="numeric">{{ r.fields }}</td>
          <td class="numeric">{{ r.key in catalogue.totals ? number(catalogue.totals[r.key]!) : '' }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="wanted" class="hint">No register of that name. Clear the search to see all.</p>
    <p v-else-if="!trouble" class="hint">
      There are no registers yet. Import a file, such as a CSV export, attach a table of this database, or
      link another PostgreSQL server.
    </p>
    <section v-if="deleted.length" aria-labelledby="deleted">
      <h2 id="deleted">Deleted</h2>
      <p class="hint">Their records are still there, and so are the views over them.</p>
      <ul class="deleted">
        <li v-for="r in deleted" :key="r.key">
          <strong>{{ r.label }}</strong>
          <span class="small">deleted {{ moment(r.deletedAt!, session.zone) }}</span>
          <button type="button" class="word" :aria-label="`Restore ${r.label}`" @click="restore(r)">
            Restore
          </button>
        </li>
      </ul>
    </section>
  </main>
</template>

<style scoped>
td a {
  font-weight: 600;
}

td:nth-child(3) {
  white-space: nowrap;
}

.deleted {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}

.deleted li {
  display: flex;
  gap: 12px;
  align-items: baseline;
  padding: 4px 0;
}

.find {
  max-width: 320px;
  margin-top: 12px;
}

.acts a.quiet {
  color: var(--ink);
}
</style>
