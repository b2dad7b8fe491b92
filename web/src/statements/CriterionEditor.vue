<script setup lang="ts">
import { computed, inject, nextTick, onMounted, reactive, ref, watch } from 'vue'
import type { Repeating } from '@/api/client'
import { useFieldError } from '@/platform/useFieldError'
import { MONTH_NAMES, number, typeWords } from '@/platform/format'
import * as criteria from './criterion'
import { DESK } from './desk'
import OtherRecords from './OtherRecords.vue'
import PastedNote from './PastedNote.vue'
import PeriodPicker from './PeriodPicker.vue'
import ValuePicker from './ValuePicker.vue'
import type { Node } from './tree'
import { vRoving } from '@/platform/roving'
import { usePlaces } from './usePlaces'

const props = defineProps<{ node?: Node; about?: string }>()
const emit = defineEmits<{ apply: [node: Node]; cancel: [] }>()
const desk = inject(DESK)!

const register = desk.register.value
const draft = reactive(criteria.draftOf(register, props.node, props.about))
const field = computed(() => criteria.fieldOf(register, draft.field))
const temporal = computed(() => criteria.isTemporal(field.value))
const span = computed(() => field.value?.type === 'span')
const clock = computed(() => criteria.knowsHours(register, field.value))
const listed = computed(() => criteria.isListed(field.value))
const durations = computed(() => field.value?.type === 'duration')
const tests = computed(() => criteria.testsFor(register, draft, String(props.node?.test ?? '')))
const places = usePlaces(register)
watch(places, (now) => (draft.places = now), { immediate: true })
const takes = computed(() => criteria.taken(register, draft))
const viewers = computed(() => criteria.viewerValues(register, draft))
const others = computed(() => criteria.otherFields(register, draft))
const beside = computed(() => criteria.isBeside(register, draft))
const plusUnits = computed(() => criteria.plusUnits(register, draft))
const blanks = computed(() => criteria.blanks(register, draft))
const keptWords = computed(() =>
  (draft.kept as Node[])
    .map((v) => ('ask' in v ? `{${v.ask}}` : v.viewer === 'me' ? 'me' : `my ${v.viewer}`))
    .join(', '),
)
const bandLines = computed(() => criteria.bandLines(field.value))
const distanceUnits = computed(() => [
  ...(clock.value ? ['minute', 'hour'] : []),
  ...['day', 'working day', 'week', 'month', 'quarter', 'year'],
])
const trouble = ref('')
const troubleId = useFieldError(
  () =>
    [...(card.value?.querySelectorAll('.value input:not([type=checkbox], [type=radio])') ?? [])].slice(0, 1),
  () => trouble.value,
)
/** Whether the test was chosen, and not only the one that is usual for the field. */
const chose = ref(Boolean(props.node?.test))
/** Whoever chooses a span of days means what lies in it, unless they said otherwise. */
function windowRead(oneDay: boolean) {
  if (!chose.value && draft.test === 'before' && !oneDay) draft.test = 'in'
}
/** Where the value is written, or else the first thing to press for it. */
const valueBox = () =>
  [...(card.value?.querySelectorAll<HTMLElement>('.value input, .value textarea') ?? [])].find(
    (box) => !box.closest('.beside'),
  ) ?? card.value?.querySelector<HTMLElement>('.value button')
function setTest(words: string) {
  draft.test = words
  chose.value = true
}
/** Chooses a test and goes on to its value; a test without one leaves the keys where they are. */
function chooseTest(words: string) {
  setTest(words)
  void nextTick(() => valueBox()?.focus())
}
/** What was typed as a window repeats in the calendar: the test that says so takes its place. */
async function takeRepeating(of: Repeating) {
  chooseTest(of.test)
  // Only then are its choices there; those of another calendar are dropped with the change.
  await nextTick()
  draft.values = [of.test === 'month in' ? MONTH_NAMES[of.number - 1] : WEEKDAYS[of.number - 1]]
}
const card = ref<HTMLElement>()

const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const choices = computed<unknown[]>(() =>
  takes.value === 'WEEKDAYS'
    ? WEEKDAYS
    : takes.value === 'MONTHS'
      ? MONTH_NAMES
      : Array.from({ length: 31 }, (_, i) => i + 1),
)
function toggle(list: unknown[], one: unknown) {
  const at = list.indexOf(one)
  if (at < 0) list.push(one)
  else list.splice(at, 1)
}
watch(takes, (now, before) => {
  // What was chosen of one calendar means nothing in another.
  if (before && now !== before && ['WEEKDAYS', 'MONTHS', 'DAYS_OF_MONTH'].includes(now ?? ''))
    draft.values = []
})
watch(
  () => draft.field,
  () => {
    criteria.changeField(register, draft)
    chose.value = false
    trouble.value = ''
    focusFirst()
  },
)
onMounted(focusFirst)

function focusFirst() {
  void nextTick(() => {
    const first = draft.field ? valueBox() : card.value?.querySelector<HTMLElement>('.which input')
    ;(first ?? card.value?.querySelector<HTMLElement>('.tests button'))?.focus()
  })
}

const picker = ref<InstanceType<typeof PeriodPicker>>()
async function apply() {
  // What was typed a moment ago is read first; what could mean several things is asked about, not applied.
  if (picker.value && !beside.value && !(await picker.value.settle())) return
  try {
    const node = criteria.built(register, draft)
    trouble.value = ''
    emit('apply', node)
  } catch (e) {
    trouble.value = (e as Error).message
  }
}

/** Several values that were pasted into a box for one: a list is offered in its place. */
const offer = ref('')
const offered = computed(() => criteria.pastedValues(offer.value))
const listTest = computed(() =>
  tests.value.find((t) => t.takes === 'VALUES' && /^(is in|has any of)$/.test(t.words)),
)
function pastedInto(event: ClipboardEvent) {
  offer.value = ''
  const box = event.target as HTMLElement
  if (!listTest.value || takes.value === 'PERIOD' || box.tagName !== 'INPUT' || box.ariaLabel === 'Field')
    return
  const text = event.clipboardData?.getData('text') ?? ''
  if (criteria.pastedValues(text).length > 1) offer.value = text
}
function takeOffer() {
  const values = offered.value
  offer.value = ''
  draft.viewer = draft.ask = draft.secondAsk = ''
  chooseTest(listTest.value!.words)
  if (!listed.value) draft.pasted = values.join('\n')
  else {
    const named = (v: string) => {
      const wanted = v.toLowerCase()
      return field.value!.options.find(
        (o) => o.value.toLowerCase() === wanted || o.label.toLowerCase() === wanted,
      )
    }
    draft.values = values.map((v) => named(v)?.value ?? v)
  }
}
function leaveOut(unknown: string[]) {
  const gone = new Set(unknown.map((v) => v.toLowerCase()))
  const left = (values: string[]) => values.filter((v) => !gone.has(v.toLowerCase()))
  if (offer.value) offer.value = left(offered.value).join('\n')
  else draft.pasted = left(criteria.pastedValues(draft.pasted)).join('\n')
}
watch(
  () => [draft.field, draft.test],
  () => (offer.value = ''),
)

function keys(event: KeyboardEvent) {
  if (event.key === 'Escape') {
    event.stopPropagation()
    emit('cancel')
  } else if (
    event.key === 'Enter' &&
    !(event.target as HTMLElement).closest('textarea, .el-select, button')
  ) {
    event.preventDefault()
    void apply()
  } else if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
    event.preventDefault()
    void apply()
  }
}

/** The test before its window, as the statement says it. */
const verb = computed(() => criteria.testOf(register, draft)?.phrase ?? '')
</script>

<template>
  <section
    ref="card"
    class="editor"
    :class="{ time: temporal || span }"
    aria-label="Criterion"
    @paste="pastedInto"
    @keydown="keys"
  >
    <div class="which">
      <ElSelect
        v-model="draft.field"
        filterable
        default-first-option
        placeholder="Choose a field"
        aria-label="Field"
        class="field-select"
        :automatic-dropdown="!draft.field"
      >
        <ElOption v-for="f in register.fields" :key="f.key" :value="f.key" :label="f.label">
          <span>{{ f.label }}</span>
          <span class="type">{{ typeWords(f.type) }}</span>
        </ElOption>
      </ElSelect>
      <div v-if="field && others.length" class="beside">
        <span>compare with</span>
        <select v-model="draft.other" class="field" aria-label="Compare it with another field">
          <option value="">a value</option>
          <option v-for="f in others" :key="f.key" :value="f.key">the field {{ f.label }}</option>
        </select>
        <template
          v-if="
            beside &&
            !listed &&
            field?.type !== 'text' &&
            field?.type !== 'yes/no' &&
            field?.type !== 'time of day'
          "
        >
          <span>plus</span>
          <input
            v-model="draft.plus"
            class="field short"
            inputmode="decimal"
            placeholder="0"
            aria-label="Plus how much"
          />
          <select v-if="temporal" v-model="draft.plusUnit" class="field" aria-label="Plus in units">
            <option v-for="u in plusUnits" :key="u" :value="u">{{ u }}s</option>
          </select>
        </template>
      </div>
    </div>
    <div v-if="field" class="body" :class="{ dated: takes === 'PERIOD' || takes === 'TIMES_ON_DAYS' }">
      <div
        v-roving="(item: HTMLElement) => setTest(item.dataset.test!)"
        class="tests"
        role="radiogroup"
        aria-label="Test"
      >
        <button
          v-for="t in tests"
          :key="t.words"
          :data-test="t.words"
          type="button"
          role="radio"
          class="option"
          :aria-checked="t.words === draft.test"
          @click="chooseTest(t.words)"
        >
          {{ t.label }}
        </button>
      </div>
      <div class="value">
        <template v-if="beside" />
        <PeriodPicker
          v-else-if="takes === 'PERIOD'"
          ref="picker"
          v-model="draft.period"
          :register="register.key"
          :criterion="{ field: draft.field, test: draft.test }"
          :clock="clock"
          :as-of="desk.asOf.value"
          :zone="desk.zone.value"
          :verb="verb"
          @apply="apply"
          @repeating="takeRepeating"
          @read="windowRead($event.oneDay)"
        />
        <div v-else-if="takes === 'TIME' || takes === 'TWO_TIMES' || takes === 'TIMES_ON_DAYS'">
          <div class="distance">
            <input
              v-model="draft.fromTime"
              class="field"
              type="time"
              :aria-label="takes === 'TIME' ? 'Time' : 'From'"
            />
            <template v-if="takes !== 'TIME'">
              <span>and</span><input v-model="draft.toTime" class="field" type="time" aria-label="To" />
            </template>
          </div>
          <p v-if="takes !== 'TIME'" class="hint">
            From the first on, up to and not including the second{{
              draft.fromTime > draft.toTime ? ', over midnight' : ''
            }}{{ takes === 'TIMES_ON_DAYS' ? ', on any day of:' : '.' }}
          </p>
          <PeriodPicker
            v-if="takes === 'TIMES_ON_DAYS'"
            ref="picker"
            v-model="draft.period"
            :register="register.key"
            :criterion="{ field: draft.field }"
            :clock="false"
            :as-of="desk.asOf.value"
            :zone="desk.zone.value"
          />
        </div>
        <div
          v-else-if="takes === 'WEEKDAYS' || takes === 'MONTHS' || takes === 'DAYS_OF_MONTH'"
          v-roving
          class="choices"
          role="group"
          aria-label="Which"
        >
          <button
            v-for="c in choices"
            :key="String(c)"
            type="button"
            class="choice"
            :aria-pressed="draft.values.includes(c)"
            @click="toggle(draft.values, c)"
          >
            {{ c }}
          </button>
        </div>
        <div v-else-if="takes === 'BANDS'" class="bands" role="group" aria-label="Bands">
          <label v-for="b in bandLines" :key="b.name" :style="{ marginLeft: b.depth * 18 + 'px' }">
            <input
              type="checkbox"
              :checked="draft.bands.includes(b.name)"
              @change="toggle(draft.bands, b.name)"
            />
            {{ b.name }}
          </label>
        </div>
        <OtherRecords
          v-else-if="takes === 'RECORDS'"
          v-model:register="draft.register"
          v-model:where="draft.where"
          v-model:unread="draft.unread"
          :places="criteria.placesOf(draft)"
        />
        <template v-else-if="takes === 'PATTERN'">
          <input
            v-model="draft.text"
            class="field"
            aria-label="Pattern"
            placeholder="^D-1\d+$"
            spellcheck="false"
          />
          <p class="hint">
            A regular expression, looked for anywhere in the text: . any character, [0-9] a set, * + ? {2,5}
            repeats, ( | ) alternatives, ^ $ the ends.
          </p>
          <label class="check"><input v-model="draft.exactly" type="checkbox" /> letter case counts</label>
        </template>
        <template v-else-if="takes === 'TWO_PERIODS'">
          <label
            >From <input v-model="draft.period" class="field" aria-label="From" placeholder="2026-11-01"
          /></label>
          <label
            >to <input v-model="draft.secondPeriod" class="field" aria-label="To" placeholder="today"
          /></label>
          <p class="hint">
            Both named days belong. Any date phrase will do: a day, “last month”, “30 days ago”.
          </p>
        </template>
        <div v-else-if="takes === 'DISTANCE'" class="distance">
          <input
            v-model.number="draft.count"
            class="field"
            type="number"
            min="0"
            max="100000"
            aria-label="How many"
          />
          <select v-model="draft.unit" class="field" aria-label="Unit">
            <option v-for="u in distanceUnits" :key="u" :value="u">{{ u }}s</option>
          </select>
          <select v-model="draft.side" class="field" aria-label="Direction">
            <option>ago</option>
            <option>from now</option>
          </select>
        </div>
        <template v-else-if="takes === 'TEXT' || (takes === 'VALUE' && field.type !== 'yes/no')">
          <div v-if="takes === 'VALUE' && viewers.length" class="viewers">
            <button
              v-for="v in viewers"
              :key="v"
              type="button"
              class="viewer"
              :aria-pressed="draft.viewer === v"
              @click="draft.viewer = draft.viewer === v ? '' : v"
            >
              {{ v === 'me' ? 'me' : `my ${v}` }}
            </button>
            <span class="hint">whoever reads</span>
          </div>
          <input
            v-if="!draft.viewer"
            v-model="draft.text"
            class="field"
            aria-label="Text"
            placeholder="Text"
          />
          <p v-if="draft.test === 'is like'" class="hint">* stands for any run of characters, ? for one.</p>
          <label v-if="!draft.viewer" class="check"
            ><input v-model="draft.exactly" type="checkbox" /> letter case counts</label
          >
        </template>
        <div
          v-else-if="takes === 'VALUE'"
          v-roving="(item: HTMLElement) => (draft.yes = item.innerText.trim() === 'yes')"
          class="tests"
          role="radiogroup"
          aria-label="Yes or no"
        >
          <button
            type="button"
            role="radio"
            class="option"
            :aria-checked="draft.yes"
            @click="draft.yes = true"
          >
            yes
          </button>
          <button
            type="button"
            role="radio"
            class="option"
            :aria-checked="!draft.yes"
            @click="draft.yes = false"
          >
            no
          </button>
        </div>
        <input
          v-else-if="takes === 'NUMBER'"
          v-model="draft.low"
          class="field narrow"
          :inputmode="durations ? undefined : 'decimal'"
          :placeholder="durations ? '2 h 30 min' : undefined"
          :aria-label="durations ? 'Duration' : 'Number'"
        />
        <template v-else-if="takes === 'TWO_NUMBERS'">
          <div class="distance">
            <input
              v-model="draft.low"
              class="field narrow"
              :inputmode="durations ? undefined : 'decimal'"
              :placeholder="durations ? '30 min' : undefined"
              aria-label="From"
            />
            <span>and</span>
            <input
              v-model="draft.high"
              class="field narrow"
              :inputmode="durations ? undefined : 'decimal'"
              :placeholder="durations ? '2 h' : undefined"
              aria-label="To"
            />
          </div>
          <p class="hint">Both ends belong.</p>
        </template>
        <ValuePicker
          v-else-if="takes === 'VALUES' && listed"
          v-model="draft.values"
          :field="field"
          :viewers="field.type === 'tags' ? [] : viewers"
        />
        <template v-else-if="takes === 'VALUES'">
          <textarea
            v-model="draft.pasted"
            class="field"
            rows="6"
            aria-label="Values"
            placeholder="Write or paste a list"
          />
          <p class="hint">Lines, commas, semicolons and tabs separate values; spaces separate identifiers.</p>
          <PastedNote :field="field" :text="draft.pasted" @without="leaveOut" />
          <p v-if="draft.kept.length" class="hint">
            Also {{ keptWords }}.
            <button type="button" class="word" @click="draft.kept = []">Leave it out</button>
          </p>
        </template>
        <div v-if="offer" class="offer" role="group" aria-label="Several values were pasted">
          <PastedNote :field="field" :text="offer" @without="leaveOut" />
          <button type="button" class="quiet" @click="takeOffer">
            is one of these {{ number(offered.length) }}
          </button>
        </div>
        <label v-if="blanks" class="ask">
          Ask whoever reads{{ blanks > 1 ? ' for the first' : '' }}
          <input
            v-model="draft.ask"
            class="field"
            maxlength="60"
            :aria-label="blanks > 1 ? 'Ask whoever reads for the first' : 'Ask whoever reads'"
            placeholder="under a label, such as “days overdue”"
            title="Under a label, such as “days overdue”"
          />
        </label>
        <label v-if="blanks > 1" class="ask">
          Ask whoever reads for the second
          <input
            v-model="draft.secondAsk"
            class="field"
            maxlength="60"
            aria-label="Ask whoever reads for the second"
            placeholder="under a label of its own"
          />
        </label>
      </div>
    </div>
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    <footer>
      <button type="button" class="act" :disabled="!field" @click="apply">Apply</button>
      <button type="button" class="word" @click="emit('cancel')">Cancel</button>
      <span class="hint">Enter applies, Esc leaves it as it was</span>
    </footer>
  </section>
</template>

<style scoped>
.editor {
  border: 1px solid var(--rule-strong);
  border-left: 3px solid var(--act);
  background: var(--card);
  padding: 10px 14px 12px;
  margin: 4px 0 10px;
  font-family: var(--sans);
}

.editor.time {
  border-left-color: var(--time-line);
}

.which {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
}

.field-select {
  width: 240px;
}

.type {
  float: right;
  color: var(--ink-2);
  padding-left: 16px;
}

.body {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 18px;
  margin-top: 8px;
}

.tests {
  display: flex;
  flex-direction: column;
}

.option {
  border: 0;
  background: none;
  text-align: left;
  padding: 1.5px 8px;
  min-height: 24px;
  border-radius: 3px;
  cursor: pointer;
}

.option:hover {
  background: var(--head);
}

.option[aria-checked='true'] {
  background: var(--act-soft);
  font-weight: 600;
}

.time .option[aria-checked='true'] {
  background: var(--time-bg);
}

.value {
  min-width: 0;
}

.value > label {
  display: block;
  margin-bottom: 6px;
  max-width: 260px;
}

.check {
  display: flex;
  gap: 7px;
  margin-top: 8px;
}

.hint {
  color: var(--ink-2);
  font-size: 13.5px;
  margin-top: 4px;
}

.distance {
  display: flex;
  gap: 8px;
  align-items: center;
}

.distance .field {
  width: auto;
  max-width: 130px;
}

.narrow {
  max-width: 130px;
}

.viewers {
  display: flex;
  gap: 6px;
  align-items: baseline;
  margin-bottom: 8px;
}

.viewer {
  border: 1px solid var(--viewer-line);
  border-radius: 4px;
  background: none;
  color: var(--viewer);
  padding: 2px 9px;
  cursor: pointer;
}

.viewer[aria-pressed='true'] {
  background: var(--viewer-bg);
  font-weight: 600;
}

.beside {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}

.beside .field {
  width: auto;
}

.beside .short {
  width: 64px;
}

.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  max-width: 420px;
}

.choice {
  border: 1px solid var(--rule-strong);
  border-radius: 4px;
  background: none;
  min-width: 34px;
  padding: 3px 9px;
  cursor: pointer;
  font-variant-numeric: tabular-nums;
}

.choice[aria-pressed='true'] {
  background: var(--time-bg);
  border-color: var(--time-line);
  font-weight: 600;
}

.bands label {
  display: flex;
  gap: 7px;
  min-height: 26px;
  align-items: center;
}

.value > .ask {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-top: 10px;
  max-width: none;
  color: var(--viewer);
}

.ask .field {
  max-width: 280px;
}

footer {
  display: flex;
  gap: 10px;
  align-items: baseline;
  position: sticky;
  /* at the edge of the page, which has room at its end */
  bottom: -30px;
  margin: 12px -14px -12px;
  border-top: 1px solid var(--rule);
  padding: 8px 14px;
  background: var(--card);
}

footer .hint {
  margin: 0 0 0 auto;
}

.notice {
  margin-top: 8px;
}

@media (max-width: 640px) {
  footer .hint {
    display: none;
  }

  .editor {
    padding-inline: 8px;
  }

  footer {
    margin-inline: -8px;
    padding-inline: 8px;
  }

  .field-select {
    width: 100%;
  }

  .body {
    grid-template-columns: minmax(0, 1fr);
    gap: 10px;
  }

  .tests {
    flex-flow: row wrap;
  }

  .value :deep(select) {
    max-width: 100%;
  }
}
</style>
