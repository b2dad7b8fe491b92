<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { api, data, sentence, type Register, type Speed } from '@/api/client'
import { counted, number } from '@/platform/format'
import { useSession } from '@/people/session'

const props = defineProps<{ register: Register }>()
const session = useSession()

const speed = ref<Speed>()
const looked = ref(false)
const { busy, trouble, act } = useActing()
let timer = 0

const path = computed(() => ({ key: props.register.key }))
onMounted(() => void follow())
onBeforeUnmount(() => window.clearTimeout(timer))

/** Asks for the indexes again while one is being built. */
async function follow() {
  try {
    const now = await data(api.GET('/api/registers/{key}/indexes', { params: { path: path.value } }))
    speed.value = speed.value ? { ...speed.value, indexes: now.indexes, builds: now.builds } : now
    if (now.builds.some((b) => b.state === 'building')) timer = window.setTimeout(follow, 1000)
  } catch (e) {
    trouble.value = sentence(e)
  }
}

async function change(what: () => Promise<Speed>) {
  await act(async () => {
    const now = await what()
    speed.value = looked.value ? { ...speed.value!, indexes: now.indexes, builds: now.builds } : now
    void follow()
  })
}

async function look() {
  looked.value = false
  await change(() =>
    data(api.POST('/api/registers/{key}/indexes/proposals', { params: { path: path.value } })),
  )
  looked.value = !trouble.value
}

const build = (token: string) =>
  change(() =>
    data(api.POST('/api/registers/{key}/indexes', { params: { path: path.value }, body: { token } })),
  )
const drop = (name: string) =>
  change(() =>
    data(api.DELETE('/api/registers/{key}/indexes/{name}', { params: { path: { ...path.value, name } } })),
  )

const millis = (value: number) => (value < 10 ? value.toFixed(1) : number(Math.round(value))) + ' ms'
const bytes = (value: number) =>
  value < 1e6 ? `${number(Math.round(value / 1e3))} kB` : `${number(Math.round(value / 1e6))} MB`
const built = (token: string) => speed.value?.indexes.some((i) => i.name === token)
</script>

<template>
  <section>
    <p class="hint">
      Shared views are timed in the database, first page, as they are now. For those that are slow, indexes
      are tried on a sample of the records; what helps is proposed with its measured gain. Building one holds
      up nobody.
    </p>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-if="session.isAdministrator" class="acts">
      <button type="button" class="act" :disabled="busy" @click="look">
        {{ busy ? 'Measuring…' : 'Time the shared views' }}
      </button>
    </p>
    <template v-if="speed && looked">
      <table v-if="speed.views.length" class="lines">
        <thead>
          <tr>
            <th scope="col">Shared view</th>
            <th scope="col" class="numeric">First page</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="v in speed.views" :key="v.id">
            <td>
              <RouterLink :to="`/views/${v.id}`">{{ v.name }}</RouterLink>
            </td>
            <td class="numeric">{{ v.millis == null ? 'longer than 8 s' : millis(v.millis) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-else class="small">No view of this register is shared.</p>
      <h2>Proposed</h2>
      <p v-if="!speed.proposals.length" class="small">
        Nothing: each shared view is quick as it is, or no index would help it.
      </p>
      <div v-for="p in speed.proposals" :key="p.token" class="proposal">
        <p>
          An index over <strong>{{ p.words }}</strong> makes “{{ p.view }}” {{ millis(p.before) }} →
          {{ millis(p.after) }} on a sample of {{ counted(p.sample, 'record') }}.
        </p>
        <p class="small">
          <code>{{ p.columns }}</code>
        </p>
        <button v-if="!built(p.token)" type="button" class="quiet" :disabled="busy" @click="build(p.token)">
          Build it
        </button>
        <span v-else class="small">It is there.</span>
      </div>
    </template>
    <template v-if="speed">
      <p v-for="b in speed.builds.filter((b) => b.state !== 'built')" :key="b.name">
        {{ b.words }}: {{ b.state }}{{ b.done == null ? '' : `, ${Math.round(b.done * 100)} %` }}
        {{ b.message }}
      </p>
      <h2>Indexes there are</h2>
      <table class="lines">
        <thead>
          <tr>
            <th scope="col">Over</th>
            <th scope="col" class="numeric">Size</th>
            <th scope="col" class="numeric">Used</th>
            <th scope="col"><span class="hidden-text">Drop</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="i in speed.indexes" :key="i.name">
            <td>
              <code>{{ i.columns }}</code>
            </td>
            <td class="numeric">{{ bytes(i.bytes) }}</td>
            <td class="numeric">{{ counted(i.uses, 'time') }}</td>
            <td>
              <button
                v-if="i.ours && session.isAdministrator"
                type="button"
                class="word"
                :aria-label="`Drop the index over ${i.columns}`"
                @click="drop(i.name)"
              >
                drop
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
  </section>
</template>

<style scoped>
.proposal {
  border-left: 3px solid var(--act-line);
  background: var(--card);
  padding: 8px 12px;
  margin: 8px 0;
}

code {
  font-size: 13px;
}
</style>
