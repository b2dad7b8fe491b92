<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, onMounted, ref } from 'vue'
import { api, data, type Register } from '@/api/client'
import type { components } from '@/api/schema'
import { useSession } from '@/people/session'
import { number } from '@/platform/format'
import SaidLine from '@/platform/SaidLine.vue'

/** Which sums are kept of a register while its records are written. */
const props = defineProps<{ register: Register }>()
const session = useSession()

/** The most fields, and the most numbers, that the server keeps sums by. */
const MOST = 4

type Sums = components['schemas']['Sums']
const sums = ref<Sums>()
const keys = ref<string[]>([])
const amounts = ref<string[]>([])
const { busy, trouble, said, act } = useActing()

/** A register of nearly as many sums as records gains nothing by them. */
const MANY = 2
const areMany = computed(() => !!sums.value && sums.value.rows * MANY > sums.value.records)

const path = computed(() => ({ key: props.register.key }))
const labels = (of: string[]) =>
  of.map((key) => ({ key, label: props.register.fields.find((f) => f.key === key)?.label ?? key }))
const main = computed(() => props.register.fields.find((f) => f.key === props.register.mainField))
const changed = computed(
  () =>
    !sums.value?.kept ||
    keys.value.join() !== sums.value.keys.join() ||
    amounts.value.join() !== sums.value.amounts.join(),
)

function take(now: Sums) {
  sums.value = now
  keys.value = now.keys
  amounts.value = now.amounts
}

const look = async () =>
  take(await data(api.GET('/api/registers/{key}/sums', { params: { path: path.value } })))
onMounted(() => act(async () => (await look(), '')))

const keep = () =>
  act(async () => {
    take(
      await data(
        api.PUT('/api/registers/{key}/sums', {
          params: { path: path.value },
          body: { keys: keys.value, amounts: amounts.value },
        }),
      ),
    )
    return 'The sums are kept from now on.'
  })
const drop = () =>
  act(async () => {
    await data(api.DELETE('/api/registers/{key}/sums', { params: { path: path.value } }))
    await look()
    return 'No sums are kept.'
  })
</script>

<template>
  <section aria-label="Kept sums">
    <h2>Kept sums</h2>
    <p class="hint">
      Totals and balances by these fields, and by days, weeks, months or years of
      {{ main?.label ?? 'the main date' }}, come from sums that are kept while records are written: at once,
      however many records there are. Whatever needs other fields is added up from the records.
    </p>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-if="!main" class="small">Choose a main date under <em>Names and order</em> first.</p>
    <template v-else-if="sums">
      <p v-if="sums.kept && sums.records" class="small size">
        About {{ number(sums.rows) }} sums are kept of {{ number(sums.records) }} {{ register.recordsLabel }}.
        <template v-if="areMany">
          That is much to add up: fewer fields, or fields with fewer different values, gain more.
        </template>
      </p>
      <div class="choices">
        <fieldset :disabled="busy || !session.isAdministrator">
          <legend>Told apart by</legend>
          <label v-for="f in labels(sums.possibleKeys)" :key="f.key">
            <input
              v-model="keys"
              type="checkbox"
              :value="f.key"
              :disabled="keys.length >= MOST && !keys.includes(f.key)"
            />
            {{ f.label }}
          </label>
        </fieldset>
        <fieldset :disabled="busy || !session.isAdministrator">
          <legend>Added up</legend>
          <label v-for="f in labels(sums.possibleAmounts)" :key="f.key">
            <input
              v-model="amounts"
              type="checkbox"
              :value="f.key"
              :disabled="amounts.length >= MOST && !amounts.includes(f.key)"
            />
            {{ f.label }}
          </label>
          <p v-if="!sums.possibleAmounts.length" class="small">
            There is no number here; records can be counted.
          </p>
        </fieldset>
      </div>
      <p v-if="session.isAdministrator" class="acts">
        <button type="button" class="act" :disabled="busy || !changed" @click="keep">
          {{ busy ? 'Counting…' : sums.kept ? 'Save' : 'Keep these sums' }}
        </button>
        <button v-if="sums.kept" type="button" class="quiet" :disabled="busy" @click="drop">Keep none</button>
      </p>
    </template>
    <SaidLine :words="said" />
  </section>
</template>

<style scoped>
.choices {
  margin-top: 10px;
  display: flex;
  flex-wrap: wrap;
  gap: 12px 40px;
}

.size {
  margin-top: 8px;
}

fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  min-width: 0;
  display: grid;
  gap: 2px;
  align-content: start;
}

legend {
  font-weight: 600;
  padding: 0;
  margin-bottom: 3px;
}

label {
  font-weight: 400;
  display: flex;
  gap: 7px;
  align-items: center;
  min-height: 26px;
}
</style>
