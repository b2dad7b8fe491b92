<script setup lang="ts">
import { computed } from 'vue'
import type { FieldDescription, Register, Schemas } from '@/api/client'
import { useSession } from '@/people/session'

/** How records of a register are posted together, in lines that add up to zero. */
type Rules = Schemas['TransactionRules']
const rules = defineModel<Rules | null>({ required: true })
const props = defineProps<{ register: Register; disabled: boolean }>()
const session = useSession()
const reads = computed(() => !session.isAdministrator)

const columns = computed(() =>
  props.register.fields.filter((f) => f.origin === 'COLUMN' && f.type !== 'span'),
)
const ofType = (...types: string[]) => columns.value.filter((f) => types.includes(f.type))
const label = (key: string) => columns.value.find((f) => f.key === key)?.label ?? key

/** Which part a field plays that is not chosen above. */
type Part = 'no' | 'shared' | 'each' | 'along'
const PARTS: Record<Part, string> = {
  no: 'stays empty',
  shared: 'is said once',
  each: 'is said for each line',
  along: 'goes with another field',
}
const chosen = computed(() => {
  const r = rules.value!
  return [r.number.field, r.line?.field, r.amount, r.mark?.field, r.by]
})
const others = computed(() => columns.value.filter((f) => !chosen.value.includes(f.key)))
function partOf(field: FieldDescription): Part {
  const r = rules.value!
  if (r.shared.includes(field.key)) return 'shared'
  if (r.each.includes(field.key)) return 'each'
  return r.along.some((a) => a.field === field.key) ? 'along' : 'no'
}
/** Fields stand in the order of the register. */
const inOrder = (keys: string[]) => columns.value.map((f) => f.key).filter((k) => keys.includes(k))
function without(key: string, r: Rules): Rules {
  return {
    ...r,
    shared: r.shared.filter((k) => k !== key),
    each: r.each.filter((k) => k !== key),
    along: r.along.filter((a) => a.field !== key && a.with !== key),
  }
}
function play(key: string, part: Part) {
  const r = without(key, rules.value!)
  if (part === 'shared') r.shared = inOrder([...r.shared, key])
  if (part === 'each') r.each = inOrder([...r.each, key])
  if (part === 'along') r.along = [...r.along, { field: key, with: asked(r)[0] ?? '' }]
  rules.value = r
}
const asked = (r: Rules) => inOrder([...r.shared, ...r.each])

/** Gives a field one of the parts that stand above; it plays no other then. */
function set(part: 'number' | 'line' | 'amount' | 'mark' | 'by', key: string) {
  const r = without(key, rules.value!)
  if (part === 'number') r.number = { ...r.number, field: key }
  if (part === 'line') r.line = key ? { prefix: r.line?.prefix ?? '', field: key } : null
  if (part === 'amount') r.amount = key
  if (part === 'mark') r.mark = key ? { value: '', field: key } : null
  if (part === 'by') r.by = key || null
  rules.value = r
}
const begin = () =>
  (rules.value = {
    number: { field: ofType('text').at(-1)?.key ?? '', prefix: 'T-' },
    line: null,
    amount: ofType('money', 'number')[0]?.key ?? '',
    shared: props.register.mainField ? [props.register.mainField] : [],
    each: columns.value.filter((f) => f.required && f.type === 'choice').map((f) => f.key),
    mark: null,
    by: null,
    along: [],
  })
const value = (event: Event) => (event.target as HTMLSelectElement).value
const options = (key?: string) => columns.value.find((f) => f.key === key)?.options ?? []
</script>

<template>
  <section aria-label="Transactions">
    <h2>Transactions</h2>
    <p class="hint">
      Where {{ register.recordsLabel }} belong together and add up to zero, they are posted so: line by line,
      all of them or none, and only once nothing is left over. Whoever may change many
      {{ register.recordsLabel }} may post.
    </p>
    <template v-if="!rules">
      <p>{{ register.label }} are not posted in transactions.</p>
      <p v-if="!reads" class="acts">
        <button
          type="button"
          class="quiet"
          :disabled="disabled || !ofType('money', 'number').length || !ofType('text').length"
          @click="begin"
        >
          Post them in transactions
        </button>
      </p>
      <p v-if="!ofType('money', 'number').length || !ofType('text').length" class="small">
        That needs an amount that adds up, and a text field for the number of the transaction.
      </p>
    </template>
    <fieldset v-else :disabled="disabled || reads">
      <legend class="hidden-text">How transactions are posted</legend>
      <div class="pair">
        <label>
          Number of the transaction
          <select
            class="field"
            :value="rules.number.field"
            :title="label(rules.number.field)"
            @change="set('number', value($event))"
          >
            <option v-for="f in ofType('text')" :key="f.key" :value="f.key">{{ f.label }}</option>
          </select>
        </label>
        <label>
          It begins with
          <input v-model="rules.number.prefix" class="field" maxlength="20" placeholder="T-" />
        </label>
        <label>
          Number of each line
          <select
            class="field"
            :value="rules.line?.field ?? ''"
            :title="label(rules.line?.field ?? '')"
            @change="set('line', value($event))"
          >
            <option value="">none</option>
            <option v-for="f in ofType('text')" :key="f.key" :value="f.key">{{ f.label }}</option>
          </select>
        </label>
        <label v-if="rules.line">
          It begins with
          <input
            v-model="rules.line.prefix"
            class="field"
            maxlength="20"
            placeholder="E-"
            aria-label="It begins with, for each line"
          />
        </label>
        <label>
          What adds up to zero
          <select
            class="field"
            :value="rules.amount"
            :title="label(rules.amount)"
            @change="set('amount', value($event))"
          >
            <option v-for="f in ofType('money', 'number')" :key="f.key" :value="f.key">{{ f.label }}</option>
          </select>
        </label>
        <label>
          Posted by
          <select
            class="field"
            :value="rules.by ?? ''"
            :title="label(rules.by ?? '')"
            @change="set('by', value($event))"
          >
            <option value="">not noted</option>
            <option v-for="f in ofType('person')" :key="f.key" :value="f.key">{{ f.label }}</option>
          </select>
        </label>
        <label>
          What is posted by hand is marked in
          <select
            class="field"
            :value="rules.mark?.field ?? ''"
            :title="label(rules.mark?.field ?? '')"
            @change="set('mark', value($event))"
          >
            <option value="">nothing</option>
            <option v-for="f in ofType('choice', 'text')" :key="f.key" :value="f.key">{{ f.label }}</option>
          </select>
        </label>
        <label v-if="rules.mark">
          which then says
          <select
            v-if="options(rules.mark.field).length"
            v-model="rules.mark.value"
            class="field"
            :title="rules.mark.value"
          >
            <option v-for="o in options(rules.mark.field)" :key="o.value" :value="o.value">
              {{ o.label }}
            </option>
          </select>
          <input v-else v-model="rules.mark.value" class="field" maxlength="200" />
        </label>
      </div>
      <h3>The other fields</h3>
      <table>
        <tbody>
          <tr v-for="f in others" :key="f.key">
            <th scope="row">
              {{ f.label }} <span v-if="f.required" class="small">in every {{ register.recordLabel }}</span>
            </th>
            <td>
              <select
                class="field"
                :value="partOf(f)"
                :title="PARTS[partOf(f)]"
                :aria-label="`What becomes of ${f.label}`"
                @change="play(f.key, value($event) as Part)"
              >
                <option v-for="(words, part) in PARTS" :key="part" :value="part">{{ words }}</option>
              </select>
            </td>
            <td>
              <template v-for="a in rules.along.filter((one) => one.field === f.key)" :key="a.field">
                <select
                  v-model="a.with"
                  class="field"
                  :title="label(a.with)"
                  :aria-label="`The field that ${f.label} goes with`"
                >
                  <option v-for="k in asked(rules)" :key="k" :value="k">{{ label(k) }}</option>
                </select>
              </template>
            </td>
          </tr>
        </tbody>
      </table>
      <p class="small">
        A field that goes with another gets what the latest {{ register.recordLabel }} has that is alike in
        it: the class of an account, say.
      </p>
      <p v-if="!reads" class="acts">
        <button type="button" class="word" @click="rules = null">Post no transactions</button>
      </p>
    </fieldset>
  </section>
</template>

<style scoped>
h3 {
  font: 600 15px var(--sans);
  margin: 14px 0 4px;
}

table {
  border-collapse: collapse;
}

th,
td {
  text-align: left;
  font-weight: 400;
  padding: 3px 14px 3px 0;
  border-bottom: 1px solid var(--rule);
}

fieldset {
  border: 0;
  padding: 0;
  margin: 0;
}
</style>
