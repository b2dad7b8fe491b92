<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, data, Problem, type Register } from '@/api/client'
import type { components } from '@/api/schema'
import { useSession } from '@/people/session'
import { day, localDay, moment } from '@/platform/format'
import SaidLine from '@/platform/SaidLine.vue'
import { useActing } from '@/platform/useActing'

/** Up to which day the records of a register are closed. */
const props = defineProps<{ register: Register }>()
const emit = defineEmits<{ changed: [upTo: string | undefined] }>()
const session = useSession()

type Closed = components['schemas']['Closed']
const closed = ref<Closed>()
const upTo = ref('')
const reason = ref('')
const { busy, trouble, troubleId, at, said, act } = useActing()

const key = computed(() => props.register.key)
const main = computed(() => props.register.fields.find((f) => f.key === props.register.mainField))
const now = computed(() => closed.value?.upTo ?? undefined)
const isEarlier = computed(() => !!now.value && !!upTo.value && upTo.value < now.value)
const today = localDay(new Date().toISOString(), session.zone)

function take(found: Closed) {
  closed.value = found
  upTo.value = found.upTo ?? ''
}

const look = async () =>
  take(await data(api.GET('/api/registers/{key}/closed-period', { params: { path: { key: key.value } } })))
onMounted(() => act(look))

/** @param to the last closed day from now on; none to reopen everything */
const close = (to: string | undefined) =>
  act(
    async () => {
      const before = now.value
      take(
        await data(
          api.PUT('/api/registers/{key}/closed-period', {
            params: { path: { key: key.value } },
            body: { upTo: to ?? null, was: before ?? null, reason: reason.value },
          }),
        ),
      )
      reason.value = ''
      emit('changed', to)
      if (!to) return 'All of it is open again.'
      return before && to < before
        ? `What comes after ${day(to)} is open again.`
        : `Nothing up to ${day(to)} changes any more.`
    },
    async (e) => {
      // What somebody else did meanwhile is shown; what was written here stays.
      if (!(e instanceof Problem) || e.code !== 'changed-meanwhile') return
      const wanted = upTo.value
      await look()
      upTo.value = wanted
    },
  )
</script>

<template>
  <section aria-label="Closed period">
    <h2>Closed period</h2>
    <p class="hint">
      No {{ register.recordLabel }} whose {{ main?.label ?? 'main date' }} lies on the last closed day or
      before it is made, changed or taken away: not by hand, not in bulk, not by a file or by taking one back,
      not through the API. Days are those of {{ session.zone }}.
    </p>
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    <p v-if="!main" class="small">Choose a main date under <em>Names and order</em> first.</p>
    <template v-else-if="closed">
      <p class="state">
        <template v-if="now"
          >Closed up to <strong>{{ day(now) }}</strong></template
        >
        <template v-else>All {{ register.recordsLabel }} are open.</template>
      </p>
      <form v-if="session.isAdministrator" @submit.prevent="close(upTo)">
        <label>
          Last closed day
          <input
            v-model="upTo"
            class="field"
            type="date"
            :max="today"
            required
            :aria-invalid="at === 'upTo'"
          />
        </label>
        <label>
          Reason
          <input
            v-model="reason"
            class="field reason"
            maxlength="500"
            required
            placeholder="The quarter is reported"
            :aria-invalid="at === 'reason'"
          />
        </label>
        <p class="acts">
          <button type="submit" class="act" :disabled="busy || !upTo || upTo === now || !reason.trim()">
            {{
              isEarlier ? `Reopen what comes after ${day(upTo)}` : upTo ? `Close up to ${day(upTo)}` : 'Close'
            }}
          </button>
          <button
            v-if="now"
            type="button"
            class="quiet"
            :disabled="busy || !reason.trim()"
            @click="close(undefined)"
          >
            Reopen everything
          </button>
          <span v-if="!reason.trim()" class="small">A reason is needed.</span>
        </p>
      </form>
      <p v-else-if="closed.mayReopen.length" class="small">
        Administrators close and reopen: {{ closed.mayReopen.join(', ') }}.
      </p>
      <SaidLine :words="said" />
      <template v-if="closed.history.length">
        <h3>What was closed and reopened</h3>
        <table class="history">
          <thead>
            <tr>
              <th>When</th>
              <th>Closed up to</th>
              <th>Who</th>
              <th>Reason</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(h, i) in closed.history" :key="i">
              <td>{{ moment(h.at, session.zone) }}</td>
              <td>{{ h.upTo ? day(h.upTo) : 'all reopened' }}</td>
              <td>{{ h.who }}</td>
              <td class="why">{{ h.reason }}</td>
            </tr>
          </tbody>
        </table>
      </template>
    </template>
  </section>
</template>

<style scoped>
.state {
  margin: 10px 0;
}

form {
  display: grid;
  gap: 8px;
  justify-items: start;
  margin-bottom: 14px;
}

.reason {
  width: min(460px, 100%);
}

h3 {
  margin-top: 14px;
}

.history {
  border-collapse: collapse;
}

.history th,
.history td {
  text-align: left;
  vertical-align: top;
  padding: 3px 18px 3px 0;
  border-bottom: 1px solid var(--rule);
  white-space: nowrap;
}

.history .why {
  white-space: normal;
  overflow-wrap: anywhere;
}
</style>
