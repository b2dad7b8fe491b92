<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, data, sentence, type EffectiveAccess, type Profile, type View } from '@/api/client'
import { counted, number } from '@/platform/format'
import { useSession } from '@/people/session'
import { MAY_WORDS } from './store'
import { announceEach } from '@/platform/announcements'

/** What would this person see, and why? */
const props = defineProps<{ view: View; people: Profile[] }>()
const session = useSession()
const person = ref<string>()
const access = ref<EffectiveAccess>()
const trouble = ref('')

watch([person, () => props.view.version], async () => {
  access.value = undefined
  trouble.value = ''
  const id = person.value
  if (!id) return
  try {
    const found = await data(
      api.GET('/api/views/{id}/access', {
        params: { path: { id: props.view.id }, query: { person: id } },
      }),
    )
    if (person.value === id) access.value = found as EffectiveAccess
  } catch (e) {
    trouble.value = sentence(e)
  }
})

async function lookAs() {
  try {
    await session.lookAs(access.value!.person.id, `/views/${props.view.id}`)
  } catch (e) {
    trouble.value = sentence(e)
  }
}

const verdict = computed(() =>
  !access.value
    ? ''
    : access.value.may
      ? `${access.value.person.fullName} has it ${MAY_WORDS[access.value.may]}.`
      : 'It is not open to them.',
)
announceEach(() => verdict.value)
</script>

<template>
  <section class="check" aria-label="What would somebody see?">
    <h3>What would somebody see, and why?</h3>
    <ElSelect
      v-model="person"
      filterable
      clearable
      default-first-option
      placeholder="Choose a person"
      aria-label="Whose access to look at"
      class="whose"
    >
      <ElOption v-for="p in people" :key="p.id" :value="p.id" :label="p.fullName" />
    </ElSelect>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <div v-if="access">
      <p>
        <strong>{{ verdict }}</strong>
        {{ access.why.join(' ') }} <span class="as-kept">As the sharing is saved now.</span>
      </p>
      <p v-if="access.limits.length || access.hidden.length">
        <template v-if="access.limits.length"
          >They see only records for which {{ access.limits.join(', or ') }}.
        </template>
        <template v-if="access.hidden.length">{{ access.hidden.join(', ') }} not shown to them.</template>
      </p>
      <p v-if="access.matching != null">
        It shows them {{ number(access.matching) }} of {{ counted(access.total!, 'record') }} today{{
          access.refined ? ', before a refinement of their own' : ''
        }}.
        <button v-if="session.isAdministrator" type="button" class="word" @click="lookAs">
          Look at it as {{ access.person.fullName }}
        </button>
      </p>
      <p v-else-if="access.unfit">It cannot be answered for them: {{ access.unfit }}</p>
    </div>
  </section>
</template>

<style scoped>
.check {
  margin-top: 16px;
  border-top: 1px solid var(--rule);
  padding-top: 10px;
}

h3 {
  font: 600 14.5px var(--sans);
  margin-bottom: 5px;
}

.whose {
  width: 100%;
  margin-bottom: 6px;
}

p {
  margin-top: 3px;
}

.as-kept {
  color: var(--ink-2);
}

.word {
  color: var(--act);
  text-decoration: underline;
}
</style>
