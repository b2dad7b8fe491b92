<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, sentence } from '@/api/client'
import { useLeaving } from '@/platform/leaving'
import { useCatalogue } from '@/registers/catalogue'
import { useSession } from '@/people/session'
import { useSetup } from '@/setup/setup'

const catalogue = useCatalogue()
const router = useRouter()
const session = useSession()
const setup = useSetup()
const leaving = useLeaving()
const trouble = ref('')
const empty = ref(false)

onMounted(async () => {
  document.title = 'Deft Lens'
  const left = leaving()
  try {
    if (!catalogue.names.length) await catalogue.load()
    const first = catalogue.names[0]
    if (first) {
      // A team may begin with a view of its own.
      const { view } = await data(
        api.GET('/api/registers/{key}/start', { params: { path: { key: first.key } } }),
      )
      if (!left()) await router.replace(view ? `/views/${view.id}` : `/registers/${first.key}`)
    } else {
      await setup.load()
      // A new installation leads its administrator; one whose registers were all deleted says so.
      if (!left() && setup.steps.length) await router.replace('/setup')
      else empty.value = true
    }
  } catch (e) {
    trouble.value = sentence(e)
  }
})
</script>

<template>
  <main class="first">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <template v-else-if="empty">
      <h1>There are no registers yet</h1>
      <p>
        A register is one kind of record.
        {{
          session.isAdministrator
            ? 'Import a file, such as a CSV export, or attach a table of this database.'
            : 'An administrator imports records.'
        }}
      </p>
      <p v-if="session.isAdministrator" class="acts">
        <RouterLink class="act" to="/catalogue/import">Import a file</RouterLink>
        <RouterLink to="/catalogue/attach">Attach a table</RouterLink>
        <RouterLink to="/catalogue/import?sample=1">Try a small sample</RouterLink>
      </p>
    </template>
  </main>
</template>

<style scoped>
.first {
  padding: 26px;
}

h1 {
  font: 600 23px var(--serif);
}

.acts {
  display: flex;
  gap: 16px;
  align-items: baseline;
  margin: 12px 0;
}

.act {
  text-decoration: none;
}
</style>
