<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, data, sentence, type Register, type TeamName } from '@/api/client'
import { useSession } from '@/people/session'
import { useViews } from '@/views/store'
import SaidLine from '@/platform/SaidLine.vue'

const props = defineProps<{ register: Register }>()
const session = useSession()
const views = useViews()

const teams = ref<TeamName[]>([])
/** the view of each team by its id, of everybody else by an empty text */
const chosen = ref<Record<string, string>>({})
const trouble = ref('')
const said = ref('')
const loaded = ref(false)

onMounted(async () => {
  try {
    teams.value = await data(api.GET('/api/teams'))
    const starts = await data(
      api.GET('/api/registers/{key}/starts', { params: { path: { key: props.register.key } } }),
    )
    chosen.value = Object.fromEntries(starts.map((s) => [s.team ?? '', s.view]))
    loaded.value = true
  } catch (e) {
    trouble.value = sentence(e)
  }
})

const here = computed(() => views.all.filter((v) => v.register === props.register.key))
const rows = computed(() => [...teams.value, { id: '', name: 'Everybody else' }])

async function keep() {
  trouble.value = said.value = ''
  try {
    await api.PUT('/api/registers/{key}/starts', {
      params: { path: { key: props.register.key } },
      body: Object.entries(chosen.value)
        .filter(([, view]) => view)
        .map(([team, view]) => ({ team: team || null, view })),
    })
    said.value = 'Saved.'
  } catch (e) {
    trouble.value = sentence(e)
  }
}
</script>

<template>
  <section>
    <p class="hint">
      The view that a team finds first when it comes to this register. It must be shared with them to be seen.
    </p>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <SaidLine :words="said" />
    <div v-if="loaded" class="pair">
      <label v-for="t in rows" :key="t.id">
        {{ t.name }}
        <select v-model="chosen[t.id]" class="field" :disabled="!session.isAdministrator">
          <option :value="undefined">all records</option>
          <option v-for="v in here" :key="v.id" :value="v.id">{{ v.name }}</option>
        </select>
      </label>
    </div>
    <p v-if="session.isAdministrator && loaded" class="acts">
      <button type="button" class="act" @click="keep">Save</button>
    </p>
  </section>
</template>
