<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { onMounted, ref } from 'vue'
import { api, data, sentence, type RegisterNote } from '@/api/client'
import { counted, moment } from '@/platform/format'
import { useSession } from '@/people/session'

/** What registers need, as it was found at night, or when somebody had it looked at; administrators may do so here. */
const emit = defineEmits<{ looked: [] }>()
const session = useSession()
const notes = ref<RegisterNote[]>([])
const { busy, trouble, said, act } = useActing()

async function load() {
  if (session.readsEverything) notes.value = await data(api.GET('/api/register-attention'))
}
onMounted(() => load().catch((e) => (trouble.value = sentence(e))))

async function look() {
  await act(async () => {
    const run = await data(api.POST('/api/view-attention'))
    await load()
    const needing = [
      run.needing && counted(run.needing, 'view'),
      run.registers && counted(run.registers, 'register'),
    ].filter(Boolean)
    said.value = `Looked at ${counted(run.views, 'view')} and at all registers just now: ${
      needing.length ? `${needing.join(' and ')} to be seen to` : 'nothing needs to be seen to'
    }.`
    emit('looked')
  })
}
</script>

<template>
  <section v-if="session.readsEverything" class="needs" aria-label="Registers that need attention">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <ul v-if="notes.length">
      <li v-for="n in notes" :key="n.register + n.message">
        <RouterLink :to="`/catalogue/${n.register}`">{{ n.label }}</RouterLink>
        <span class="what">{{ n.message }}</span>
        <span class="small">found {{ moment(n.foundAt, session.zone) }}</span>
      </li>
    </ul>
    <p class="look">
      <template v-if="busy">Looking at every view and every table…</template>
      <template v-else-if="said">{{ said }}</template>
      <template v-else
        >Each night every view and register is looked at for what somebody should see to.</template
      >
      <button v-if="session.isAdministrator" type="button" class="quiet" :disabled="busy" @click="look">
        Look now
      </button>
    </p>
  </section>
</template>

<style scoped>
.needs {
  margin: 8px 0 12px;
}

ul {
  list-style: none;
  margin: 0 0 6px;
  padding: 0;
}

li {
  padding: 3px 0;
}

a {
  font-weight: 600;
  margin-right: 8px;
}

.what {
  color: var(--alert);
  margin-right: 8px;
}

.look {
  color: var(--ink-2);
}

.look button {
  margin-left: 8px;
}
</style>
