<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, data, sentence, type View } from '@/api/client'
import { moment } from '@/platform/format'
import { useSession } from '@/people/session'
import { sharing, useViews } from './store'

const views = useViews()
const session = useSession()
const search = ref('')
const deleted = ref<View[]>([])
const trouble = ref('')

onMounted(async () => {
  document.title = 'All views · Deft Lens'
  try {
    deleted.value = await data(api.GET('/api/views', { params: { query: { deleted: true } } }))
  } catch (e) {
    trouble.value = sentence(e)
  }
})

const shown = computed(() => {
  const words = search.value.trim().toLowerCase().split(/\s+/)
  return views.all.filter((v) =>
    words.every((w) =>
      `${v.name} ${v.purpose} ${v.owner.fullName} ${v.registerLabel} ${v.statement}`
        .toLowerCase()
        .includes(w),
    ),
  )
})

async function restore(view: View) {
  try {
    views.put(await data(api.POST('/api/views/{id}/restore', { params: { path: { id: view.id } } })))
    deleted.value = deleted.value.filter((v) => v.id !== view.id)
  } catch (e) {
    trouble.value = sentence(e)
  }
}
</script>

<template>
  <main class="views">
    <header>
      <h1>All views</h1>
      <input
        v-model="search"
        class="field"
        type="search"
        aria-label="Search views"
        placeholder="Name, purpose, person, words of the statement"
      />
    </header>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <ul v-if="shown.length">
      <li v-for="v in shown" :key="v.id">
        <RouterLink :to="`/views/${v.id}`">{{ v.name }}</RouterLink>
        <span class="count">{{ views.counts[v.id] }}</span>
        <p v-if="v.purpose">{{ v.purpose }}</p>
        <p class="statement">{{ v.registerLabel }} where {{ v.statement || 'every record' }}</p>
        <p class="about">
          {{ sharing(v) }} · changed {{ moment(v.changedAt, session.zone) }} by {{ v.changedBy.fullName }}
        </p>
      </li>
    </ul>
    <p v-else-if="search" class="none">
      No view has all of these words.
      <button type="button" class="word" @click="search = ''">Show all</button>
    </p>
    <p v-else class="none">There are no views yet. Open a register, put a question, and keep it.</p>
    <section v-if="deleted.length">
      <h2>Deleted by you</h2>
      <p class="about">They can be brought back for 30 days.</p>
      <ul>
        <li v-for="v in deleted" :key="v.id">
          {{ v.name }} <button type="button" class="word" @click="restore(v)">Bring back</button>
        </li>
      </ul>
    </section>
  </main>
</template>

<style scoped>
.views {
  padding: 18px 26px 40px;
  overflow: auto;
}

header {
  display: flex;
  gap: 24px;
  align-items: baseline;
  max-width: 860px;
}

h1 {
  font: 600 24px var(--serif);
  flex: 1;
}

h2 {
  font: 600 16px var(--sans);
  margin-top: 26px;
}

header .field {
  max-width: 340px;
}

ul {
  list-style: none;
  padding: 0;
  max-width: 860px;
}

li {
  border-bottom: 1px solid var(--rule);
  padding: 9px 0;
}

li > a {
  font: 600 17px var(--serif);
  text-decoration: none;
}

.count {
  float: right;
}

.statement {
  font-family: var(--serif);
  font-size: 16px;
  color: var(--ink-2);
}

.about,
.none {
  color: var(--ink-2);
  font-size: 13.5px;
}

.none {
  margin-top: 20px;
}
</style>
