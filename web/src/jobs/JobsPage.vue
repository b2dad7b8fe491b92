<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { api, data, sentence, type Jobs } from '@/api/client'
import { moment } from '@/platform/format'
import SaidLine from '@/platform/SaidLine.vue'
import { useSession } from '@/people/session'
import { every, howLong, outcome, stateWords, type Job } from './jobs'

/** What the servers do without anybody waiting: what the clock begins, and what somebody asked for. */
const session = useSession()
const jobs = ref<Jobs>()
const trouble = ref('')
const said = ref('')
let timer: number | undefined
let left = false

const mayLook = computed(() => session.isAdministrator)
const going = computed(() => jobs.value?.asked.some((j) => !j.endedAt) ?? false)

onMounted(() => {
  document.title = 'Jobs · Deft Lens'
  if (mayLook.value) void look()
})
onUnmounted(() => {
  left = true
  window.clearTimeout(timer)
})

/** Looks, and again: soon while something goes on, else now and then. */
async function look() {
  window.clearTimeout(timer)
  try {
    jobs.value = await data(api.GET('/api/jobs'))
    trouble.value = ''
  } catch (e) {
    trouble.value = sentence(e)
  }
  if (!left) timer = window.setTimeout(() => void look(), going.value ? 1_000 : 10_000)
}

async function stop(job: Job) {
  said.value = ''
  try {
    await api.DELETE('/api/jobs/{id}', { params: { path: { id: job.id } } })
    said.value = `${job.kind}, ${job.about}: it is being stopped. Nothing of it is written.`
    await look()
  } catch (e) {
    trouble.value = sentence(e)
  }
}
</script>

<template>
  <main class="paper">
    <h1>Jobs</h1>
    <p class="hint">
      What the servers do without anybody waiting for it:
      <RouterLink to="/catalogue/import">files that are imported</RouterLink>, indexes that are built on a
      register's page under <i>Performance</i>, and what the clock begins. A job whose server goes away is
      begun again by another, or after the restart, within a minute.
    </p>
    <p v-if="!mayLook" class="notice">Only an administrator sees and stops jobs.</p>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <SaidLine :words="said" />
    <template v-if="jobs">
      <section>
        <h2>Asked for</h2>
        <table v-if="jobs.asked.length" class="lines">
          <thead>
            <tr>
              <th scope="col">What</th>
              <th scope="col">Of</th>
              <th scope="col">By</th>
              <th scope="col">Asked</th>
              <th scope="col">State</th>
              <th scope="col" class="numeric">Took</th>
              <th scope="col"><span class="hidden-text">Stop it</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="job in jobs.asked" :key="job.id" :class="{ failed: job.state === 'FAILED' }">
              <td class="once">{{ job.kind }}</td>
              <td>{{ job.about }}</td>
              <td class="once">{{ job.by ?? '' }}</td>
              <td class="once">{{ moment(job.askedAt, session.zone) }}</td>
              <td>
                <span :title="job.server ? `by ${job.server}` : undefined">{{ stateWords(job) }}</span>
                <span v-if="job.attempts > 1" class="small">, begun {{ job.attempts }} times</span>
                <div v-if="job.state === 'RUNNING'" class="meter" :class="{ unknown: job.share === 0 }">
                  <span :style="{ width: job.share * 100 + '%' }" />
                </div>
              </td>
              <td class="numeric">{{ howLong(job.startedAt, job.endedAt) }}</td>
              <td>
                <button
                  v-if="!job.endedAt && !job.stopping"
                  type="button"
                  class="word"
                  :aria-label="`Stop ${job.kind}, ${job.about}`"
                  @click="stop(job)"
                >
                  Stop
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-else class="hint">Nobody has asked for anything yet: no file was imported, no index built.</p>
      </section>
      <section>
        <h2>By the clock</h2>
        <table class="lines">
          <thead>
            <tr>
              <th scope="col">What</th>
              <th scope="col">How often</th>
              <th scope="col">Last</th>
              <th scope="col" class="numeric">Took</th>
              <th scope="col">What came of it</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="job in jobs.recurring" :key="job.name" :class="{ failed: job.last?.failed }">
              <td>{{ job.label }}</td>
              <td class="once">{{ every(job.everySeconds) }}</td>
              <td class="once">{{ job.last ? moment(job.last.startedAt, session.zone) : 'not yet' }}</td>
              <td class="numeric">{{ howLong(job.last?.startedAt, job.last?.endedAt) }}</td>
              <td>{{ outcome(job) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </template>
  </main>
</template>

<style scoped>
.once,
.numeric {
  white-space: nowrap;
}

.failed > td {
  color: var(--alert);
}

.meter {
  width: 160px;
}
</style>
