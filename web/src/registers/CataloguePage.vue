<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { sentence } from '@/api/client'
import { number } from '@/platform/format'
import { useSession } from '@/people/session'
import { useCatalogue } from './catalogue'
import RegisterNotes from './RegisterNotes.vue'

const session = useSession()
const catalogue = useCatalogue()
const trouble = ref('')
const wanted = ref('')

onMounted(async () => {
  document.title = 'Catalogue · Deft Lens'
  try {
    await catalogue.load()
  } catch (e) {
    trouble.value = sentence(e)
  }
})

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
  </main>
</template>

<style scoped>
td a {
  font-weight: 600;
}

td:nth-child(3) {
  white-space: nowrap;
}

.find {
  max-width: 320px;
  margin-top: 12px;
}

.acts a.quiet {
  color: var(--ink);
}
</style>
