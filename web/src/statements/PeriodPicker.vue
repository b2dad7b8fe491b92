<script setup lang="ts">
import { computed, nextTick, ref, useId, watch } from 'vue'
import { api, data, latest, Problem, isAborted, sentence, type Repeating, type Resolved } from '@/api/client'
import { shiftDay, shiftDayByMonths, shiftMonth, weeksOf } from '@/platform/days'
import { day, localDay, MONTH_NAMES, number } from '@/platform/format'
import type { Node } from './tree'
import { bounds, kept } from './windowWords'
import { useSession } from '@/people/session'
import { announceRested } from '@/platform/announcements'
import { vRoving } from '@/platform/roving'

const props = defineProps<{
  /** the test that the window is for, in words; it stands before the box */
  verb?: string
  clock: boolean
  asOf?: string
  zone?: string
  /** the register and the criterion that the window is for, to count the records in it */
  register?: string
  criterion?: Node
}>()
/** What is chosen reaches the parent first, and comes back from it later: nothing that is said of it is read from here. */
const phrase = defineModel<string>({ required: true })
/**
 * `repeating`: a test that repeats in the calendar is none of a window; whoever has the picker takes it. `apply`: what is drawn in
 * the calendar is meant
 */
const emit = defineEmits<{ read: [window: Resolved]; repeating: [of: Repeating]; apply: [] }>()
const session = useSession()
const zone = computed(() => props.zone ?? session.zone)

const OFTEN = [
  'today',
  'this week',
  'last week',
  'last 7 days',
  'last 30 days',
  'this month',
  'last month',
  'last quarter',
  'this year',
  'next 7 days',
  'next 30 days',
]
const CLOCK = ['last 4 hours', 'next 8 hours']
const often = computed(() => {
  const own = session.current?.windows ?? []
  if (!own.length) return props.clock ? [...OFTEN, ...CLOCK] : OFTEN
  return props.clock ? own : own.filter((w) => !/\b(hour|minute)s?\b|T\d\d:/.test(w))
})

/** What stands in the box; the phrase it stands for is the model. */
const typed = ref(phrase.value)
const resolved = ref<Resolved>()
/** The same window as a fixed phrase, and as rolling ones. */
const alternative = ref<{ of: string; fixed: string; rolling: string[] }>()
const other = computed(() =>
  alternative.value && alternative.value.of === resolved.value?.phrase ? alternative.value : undefined,
)
/** What was typed may mean one of these. */
const readings = ref<Resolved[]>([])
/** What was typed repeats in the calendar, such as every Monday. */
const repeating = ref<Repeating>()
const trouble = ref<{ message: string; suggestions: string[] }>()
const troubleId = useId()
/** How many records the criterion keeps with it. */
const inside = ref('')
const question = latest()
const fixing = latest()
const counting = latest()
let timer = 0
/** What was read last, or is being read. */
let read = ''

watch(typed, (now) => {
  window.clearTimeout(timer)
  timer = window.setTimeout(() => (last = resolve(now)), 120)
})
watch(phrase, (now) => {
  if (now !== resolved.value?.phrase && now !== typed.value) typed.value = now
})
let last = resolve(typed.value)

/** Waits until what stands in the box is read; says whether it is one window. */
async function settle(): Promise<boolean> {
  window.clearTimeout(timer)
  if (read !== typed.value) last = resolve(typed.value)
  await last
  return resolved.value !== undefined || typed.value.trim().startsWith('{')
}
defineExpose({ settle })

async function resolve(text: string) {
  const body = { phrase: text, now: props.asOf, zone: zone.value }
  read = text
  readings.value = []
  repeating.value = undefined
  inside.value = ''
  try {
    choose(text, await question.ask((signal) => data(api.POST('/api/windows/resolve', { body, signal }))))
  } catch (e) {
    if (isAborted(e)) return
    resolved.value = undefined
    phrase.value = text
    const refused = {
      message: sentence(e),
      suggestions: e instanceof Problem ? ((e.details.suggestions as string[] | undefined) ?? []) : [],
    }
    await asPeopleWrite(text, refused)
  }
}

/** What was written is this window. */
function choose(text: string, window: Resolved) {
  resolved.value = window
  trouble.value = undefined
  // The blank of an ask stands as it was written; any other phrase as it is printed.
  const chosen = text.trim().startsWith('{') ? text : window.phrase
  phrase.value = chosen
  emit('read', window)
  if (chosen === window.phrase) void alternatives(chosen)
  else alternative.value = undefined
  void countIn(chosen)
}

/** Text that is no phrase of the language may still have one meaning, or several to choose from. */
async function asPeopleWrite(text: string, refused: { message: string; suggestions: string[] }) {
  try {
    const body = { phrase: text, now: props.asOf, zone: zone.value }
    const found = await question.ask((signal) => data(api.POST('/api/windows/read', { body, signal })))
    if (found.readings.length === 1) {
      choose('', found.readings[0]!)
      return
    }
    readings.value = found.readings
    repeating.value = found.repeating ?? undefined
    trouble.value = found.readings.length ? undefined : refused
  } catch (e) {
    if (!isAborted(e)) trouble.value = refused
  }
}

async function alternatives(of: string) {
  try {
    const body = { phrase: of, now: props.asOf, zone: zone.value }
    const found = await fixing.ask((signal) => data(api.POST('/api/windows/fix', { body, signal })))
    alternative.value = { of, ...found }
  } catch {
    alternative.value = undefined
  }
}

async function countIn(text: string) {
  inside.value = ''
  if (!props.register || !props.criterion?.field || !props.criterion.test) return
  const body = {
    condition: { field: props.criterion.field, test: props.criterion.test, period: text },
    asOf: props.asOf,
    zone: zone.value,
  }
  try {
    const found = await counting.ask((signal, name) =>
      data(
        api.POST('/api/registers/{key}/count', {
          params: { path: { key: props.register! }, header: { 'X-Question': name } },
          body,
          signal,
        }),
      ),
    )
    inside.value = `${number(found.matching)}${found.exact ? '' : '+'} ${found.matching === 1 && found.exact ? 'record' : 'records'} by this alone`
  } catch {
    // The window is there without its number.
  }
}
watch(
  () => props.criterion?.test,
  () => void (resolved.value && countIn(phrase.value)),
)

/** Takes one of the windows that are offered. */
function take(text: string) {
  typed.value = text
  anchor.value = ''
  // What was clicked may be gone a moment later; the keys stay in the editor.
  box.value?.focus()
}
function keys(event: KeyboardEvent) {
  const at = event.altKey ? Number(event.code.replace(/^Digit/, '')) : NaN
  const wanted = often.value[at - 1]
  if (!wanted) return
  event.preventDefault()
  take(wanted)
}

const repeatingWords = computed(() => {
  const of = repeating.value
  if (!of) return ''
  return of.test === 'month in'
    ? `falls in ${MONTH_NAMES[of.number - 1]} of any year`
    : `falls on a ${['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'][of.number - 1]}`
})

const account = computed(() =>
  resolved.value
    ? kept(props.criterion?.test ? String(props.criterion.test) : '', resolved.value, zone.value)
    : '',
)

const today = computed(() =>
  props.asOf
    ? props.asOf.slice(0, 10)
    : localDay(session.current?.now ?? new Date().toISOString(), zone.value),
)

/** The first of two months that are shown. */
const month = ref(today.value.slice(0, 7))
watch(resolved, (r) => {
  if (!r?.firstDay || !r.dayAfterLast) return
  const first = r.firstDay.slice(0, 7)
  const second = shiftMonth(month.value, 1)
  if (first !== month.value && first !== second) month.value = first
})

function title(text: string): string {
  return `${MONTH_NAMES[Number(text.slice(5)) - 1]} ${text.slice(0, 4)}`
}
/** The days of the week from the organisation's first one on, 0 for Sunday. */
const weekStarts = computed(() =>
  ['SUNDAY', 'MONDAY', 'TUESDAY', 'WEDNESDAY', 'THURSDAY', 'FRIDAY', 'SATURDAY'].indexOf(
    session.current?.weekStarts ?? 'MONDAY',
  ),
)
const dayNames = computed(() =>
  Array.from(
    { length: 7 },
    (_, i) => ['Su', 'Mo', 'Tu', 'We', 'Th', 'Fr', 'Sa'][(i + weekStarts.value) % 7]!,
  ),
)
const isInside = (text: string) =>
  resolved.value?.firstDay && resolved.value.dayAfterLast
    ? text >= resolved.value.firstDay && text < resolved.value.dayAfterLast
    : false

const anchor = ref('')
/** The day that the arrows have gone to. */
const cursor = ref('')
const box = ref<HTMLInputElement>()
const calendar = ref<HTMLElement>()
/** The ends of what was drawn in the calendar and stands in the box. */
const drawn = ref<string[]>([])
function pick(text: string, range: boolean) {
  cursor.value = text
  if (!range || !anchor.value) anchor.value = text
  drawn.value = [anchor.value, text].sort()
  const [from, to] = drawn.value
  typed.value = from === to ? from! : `${from} to ${to}`
}
watch(typed, (now) => {
  if (now !== drawn.value.join(' to ') && now !== drawn.value[0]) drawn.value = []
})
/** The one day that Tab comes to. */
const reached = computed(() => {
  const shown = [month.value, shiftMonth(month.value, 1)]
  return (
    [cursor.value, resolved.value?.firstDay ?? '', today.value].find((d) => shown.includes(d.slice(0, 7))) ??
    month.value + '-01'
  )
})
function walk(event: KeyboardEvent) {
  const days: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -7, ArrowDown: 7 }
  const months: Record<string, number> = { PageUp: -1, PageDown: 1 }
  const from = (event.target as HTMLElement).dataset.day
  if (!from) return
  if (event.key === 'Enter' || event.key === ' ') {
    event.preventDefault()
    event.stopPropagation()
    // Enter on what is drawn already means it, and leaves a range a range.
    if (event.key === 'Enter' && drawn.value.includes(from)) emit('apply')
    else pick(from, event.shiftKey)
    return
  }
  const to =
    event.key in days
      ? shiftDay(from, days[event.key]!)
      : event.key in months
        ? shiftDayByMonths(from, months[event.key]!)
        : undefined
  if (!to) return
  event.preventDefault()
  if (event.shiftKey) {
    if (!anchor.value) anchor.value = from
    pick(to, true)
  }
  cursor.value = to
  const shown = to.slice(0, 7)
  if (shown < month.value) month.value = shown
  else if (shown > shiftMonth(month.value, 1)) month.value = shiftMonth(shown, -1)
  void nextTick(() => calendar.value?.querySelector<HTMLElement>(`[data-day="${to}"]`)?.focus())
}

// The window and its number are one message, once both are known.
announceRested(() =>
  readings.value.length
    ? `${typed.value} can be read in ${readings.value.length} ways.`
    : repeating.value
      ? `That is no window: it ${repeatingWords.value}.`
      : resolved.value
        ? [account.value, inside.value].filter(Boolean).join(', ')
        : '',
)
</script>

<template>
  <div class="picker" @keydown="keys">
    <div class="typed">
      <span v-if="verb" class="verb">{{ verb }}</span>
      <input
        ref="box"
        v-model="typed"
        class="field phrase"
        aria-label="Window"
        :aria-invalid="!!trouble"
        :aria-describedby="trouble ? troubleId : undefined"
        spellcheck="false"
      />
      <span class="hint"
        >Type it as you would say it: “next 6 months”, “Q3”, “mon last week”, “3 nov to 20 nov”…</span
      >
    </div>
    <div class="columns">
      <div v-roving class="often" role="group" aria-label="Often used">
        <button
          v-for="(p, i) in often"
          :key="p"
          type="button"
          :aria-pressed="resolved?.phrase === p"
          :aria-keyshortcuts="i < 9 ? `Alt+${i + 1}` : undefined"
          :title="i < 9 ? `Alt ${i + 1}` : undefined"
          @click="take(p)"
        >
          {{ p }}
        </button>
      </div>
      <div ref="calendar" class="months" @keydown="walk">
        <div class="turn">
          <button
            type="button"
            class="word"
            aria-label="Earlier months"
            @click="month = shiftMonth(month, -1)"
          >
            ‹
          </button>
          <button type="button" class="word" aria-label="Later months" @click="month = shiftMonth(month, 1)">
            ›
          </button>
        </div>
        <table v-for="m in [month, shiftMonth(month, 1)]" :key="m">
          <caption>
            {{
              title(m)
            }}
          </caption>
          <thead>
            <tr>
              <th v-for="d in dayNames" :key="d" scope="col">{{ d }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(week, i) in weeksOf(m, weekStarts)" :key="i">
              <td v-for="(d, j) in week" :key="j" :class="{ inside: d && isInside(d) }">
                <button
                  v-if="d"
                  type="button"
                  :class="{ today: d === today }"
                  :aria-label="day(d)"
                  :aria-pressed="isInside(d)"
                  :data-day="d"
                  :tabindex="d === reached ? 0 : -1"
                  @click="pick(d, $event.shiftKey)"
                >
                  {{ Number(d.slice(8)) }}
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <p class="hint">
          Click a day, then with Shift the last day of a range. Arrows and Page keys walk, Shift draws, Enter
          applies what is drawn.
        </p>
      </div>
    </div>
    <div v-if="readings.length" class="readings" role="group" aria-label="Which of these is meant">
      <p>“{{ typed }}” can be read in {{ readings.length }} ways. Which one is meant?</p>
      <button v-for="r in readings" :key="r.phrase" type="button" @click="take(r.phrase)">
        <strong>{{ r.phrase }}</strong> {{ bounds(r, zone) }}
      </button>
    </div>
    <p v-else-if="repeating" class="repeating">
      That is no window but comes again each {{ repeating.test === 'month in' ? 'year' : 'week' }}.
      <button type="button" class="quiet" @click="emit('repeating', repeating)">{{ repeatingWords }}</button>
    </p>
    <p v-else-if="trouble" :id="troubleId" class="notice" role="alert">
      {{ trouble.message }}
      <button v-for="s in trouble.suggestions" :key="s" type="button" class="quiet" @click="take(s)">
        {{ s }}
      </button>
    </p>
    <p v-else-if="resolved" class="account">
      <template v-if="typed.trim().toLowerCase() !== resolved.phrase.toLowerCase() && !typed.startsWith('{')"
        >Read as <strong>{{ resolved.phrase }}</strong>: </template
      ><strong>{{ account }}</strong> · {{ zone }}<template v-if="inside"> · {{ inside }}</template>
      <span class="kind">
        <template v-if="resolved.rolling"
          >rolling: it moves with the day.
          <button
            v-if="other && other.fixed !== resolved.phrase"
            type="button"
            class="word"
            @click="take(other.fixed)"
          >
            fix these dates
          </button></template
        >
        <template v-else
          >fixed: these dates stay.
          <template v-if="other?.rolling.length">
            Let it roll:
            <button v-for="r in other.rolling" :key="r" type="button" class="word" @click="take(r)">
              {{ r }}
            </button>
          </template>
        </template>
      </span>
    </p>
  </div>
</template>

<style scoped>
.repeating {
  padding: 6px 0;
}

.typed {
  display: flex;
  gap: 12px;
  align-items: center;
}

.phrase {
  flex: 0 0 190px;
  width: 190px;
  font: 400 17px var(--serif);
  border-color: var(--time-line);
}

.verb {
  color: var(--time);
  font: 400 17px var(--serif);
  white-space: nowrap;
}

.hint {
  color: var(--ink-2);
  font-size: 13.5px;
}

.columns {
  display: grid;
  grid-template-columns: 112px 1fr;
  gap: 16px;
  margin-top: 6px;
}

.often {
  display: flex;
  flex-direction: column;
}

.often button {
  border: 0;
  background: none;
  text-align: left;
  padding: 0 7px;
  min-height: 24px;
  border-radius: 3px;
  cursor: pointer;
}

.often button:hover {
  background: var(--head);
}

.often button[aria-pressed='true'] {
  background: var(--time-bg);
  font-weight: 600;
}

.months {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: flex-start;
  position: relative;
  align-content: flex-start;
}

.months .hint {
  flex-basis: 100%;
}

.turn {
  position: absolute;
  right: 0;
  top: -6px;
  display: flex;
  gap: 6px;
}

.turn .word {
  font-size: 19px;
  line-height: 1;
  padding: 4px 8px;
}

table {
  border-collapse: collapse;
}

caption {
  text-align: left;
  font-weight: 600;
  padding: 0 0 2px 5px;
}

th {
  font-weight: 400;
  font-size: 12.5px;
  color: var(--ink-2);
  width: 25px;
}

td {
  padding: 0;
  text-align: center;
}

td.inside {
  background: var(--time-bg);
}

td button {
  border: 0;
  background: none;
  width: 25px;
  height: 24px;
  padding: 0;
  font-size: 13.5px;
  cursor: pointer;
}

td button:hover {
  outline: 1px solid var(--time-line);
}

.today {
  font-weight: 700;
  border-bottom: 2px solid var(--ink) !important;
}

.account {
  color: var(--time);
  margin-top: 8px;
  border-top: 1px solid var(--rule);
  padding-top: 8px;
}

.kind {
  display: block;
  color: var(--ink-2);
}

.kind .word {
  padding: 0 2px;
  color: var(--time);
  text-decoration: underline;
}

.readings {
  margin-top: 8px;
  border-top: 1px solid var(--rule);
  padding-top: 8px;
  color: var(--time);
}

.readings button {
  display: block;
  width: 100%;
  text-align: left;
  border: 0;
  background: none;
  padding: 3px 7px;
  border-radius: 3px;
  cursor: pointer;
}

.readings button:hover,
.readings button:focus-visible {
  background: var(--time-bg);
}

.readings strong {
  display: inline-block;
  min-width: 150px;
}

.notice .quiet {
  margin-left: 6px;
}

/* One below the other where there is no room for both. */
@media (max-width: 640px) {
  .typed {
    flex-wrap: wrap;
  }

  .columns {
    grid-template-columns: minmax(0, 1fr);
  }

  .often {
    flex-flow: row wrap;
  }

  .phrase {
    max-width: 100%;
  }
}
</style>
