<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, data, latest, Problem, isAborted, sentence, type Resolved } from '@/api/client'
import { day, localDay, moment, MONTH_NAMES } from '@/platform/format'
import { useSession } from '@/people/session'

const props = defineProps<{ clock: boolean; asOf?: string; zone?: string }>()
const phrase = defineModel<string>({ required: true })
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

const resolved = ref<Resolved>()
/** The same window as a fixed phrase, and as rolling ones. */
const other = ref<{ fixed: string; rolling: string[] }>()
const trouble = ref<{ message: string; suggestions: string[] }>()
const question = latest()
let timer = 0

watch(phrase, (now) => {
  window.clearTimeout(timer)
  timer = window.setTimeout(() => void resolve(now), 120)
})
void resolve(phrase.value)

async function resolve(text: string) {
  try {
    const body = { phrase: text, now: props.asOf, zone: zone.value }
    resolved.value = await question.ask((signal) => data(api.POST('/api/windows/resolve', { body, signal })))
    trouble.value = undefined
    other.value = await question.ask((signal) => data(api.POST('/api/windows/fix', { body, signal })))
  } catch (e) {
    if (isAborted(e)) return
    resolved.value = undefined
    other.value = undefined
    trouble.value = {
      message: sentence(e),
      suggestions: e instanceof Problem ? ((e.details.suggestions as string[] | undefined) ?? []) : [],
    }
  }
}

const account = computed(() => {
  const r = resolved.value
  if (!r) return ''
  if (r.kind === 'days' && r.firstDay && r.dayAfterLast) {
    const last = shift(r.dayAfterLast, -1)
    const days = between(r.firstDay, r.dayAfterLast)
    return days === 1
      ? `${weekday(r.firstDay)} ${day(r.firstDay)}, the whole day`
      : days < 1
        ? 'nothing: it ends before it begins'
        : `from ${weekday(r.firstDay)} ${day(r.firstDay)} up to and including ${weekday(last)} ${day(last)} · ${days} days`
  }
  return r.start === r.end
    ? moment(r.start, zone.value)
    : `from ${moment(r.start, zone.value)} up to, not including, ${moment(r.end, zone.value)}`
})

const today = computed(() =>
  localDay(props.asOf ?? session.current?.now ?? new Date().toISOString(), zone.value),
)

/** The first of two months that are shown. */
const month = ref(today.value.slice(0, 7))
watch(resolved, (r) => {
  if (!r?.firstDay || !r.dayAfterLast) return
  const first = r.firstDay.slice(0, 7)
  const second = nextMonth(month.value)
  if (first !== month.value && first !== second) month.value = first
})

function utc(iso: string): Date {
  return new Date(iso + 'T00:00:00Z')
}
function iso(date: Date): string {
  return date.toISOString().slice(0, 10)
}
function shift(text: string, days: number): string {
  const date = utc(text)
  date.setUTCDate(date.getUTCDate() + days)
  return iso(date)
}
function between(from: string, to: string): number {
  return Math.round((utc(to).getTime() - utc(from).getTime()) / 86_400_000)
}
function weekday(text: string): string {
  return ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'][utc(text).getUTCDay()]!
}
function nextMonth(text: string, by = 1): string {
  const date = utc(text + '-01')
  date.setUTCMonth(date.getUTCMonth() + by)
  return iso(date).slice(0, 7)
}
function title(text: string): string {
  return `${MONTH_NAMES[Number(text.slice(5)) - 1]} ${text.slice(0, 4)}`
}
function weeks(text: string): (string | null)[][] {
  const first = utc(text + '-01')
  const blanks = (first.getUTCDay() + 6) % 7
  const days = new Date(Date.UTC(first.getUTCFullYear(), first.getUTCMonth() + 1, 0)).getUTCDate()
  const cells: (string | null)[] = Array.from({ length: blanks }, () => null)
  for (let d = 1; d <= days; d++) cells.push(`${text}-${String(d).padStart(2, '0')}`)
  while (cells.length % 7) cells.push(null)
  return Array.from({ length: cells.length / 7 }, (_, i) => cells.slice(i * 7, i * 7 + 7))
}
const inside = (text: string) =>
  resolved.value?.firstDay && resolved.value.dayAfterLast
    ? text >= resolved.value.firstDay && text < resolved.value.dayAfterLast
    : false

const anchor = ref('')
function pick(text: string, event: MouseEvent | KeyboardEvent) {
  if (event.shiftKey && anchor.value) {
    const [from, to] = [anchor.value, text].sort()
    phrase.value = from === to ? from! : `${from} to ${to}`
  } else {
    anchor.value = text
    phrase.value = text
  }
}
</script>

<template>
  <div class="picker">
    <div class="typed">
      <input
        v-model="phrase"
        class="field phrase"
        aria-label="Window"
        :aria-invalid="!!trouble"
        spellcheck="false"
      />
      <span class="hint">Type a window: “next 6 months”, “2026-Q3”, “2026-11-03 to 2026-11-20”…</span>
    </div>
    <div class="columns">
      <div class="often" role="group" aria-label="Often used">
        <button
          v-for="p in clock ? [...OFTEN, ...CLOCK] : OFTEN"
          :key="p"
          type="button"
          :aria-pressed="resolved?.phrase === p"
          @click="phrase = p"
        >
          {{ p }}
        </button>
      </div>
      <div class="months">
        <div class="turn">
          <button
            type="button"
            class="word"
            aria-label="Earlier months"
            @click="month = nextMonth(month, -1)"
          >
            ‹
          </button>
          <button type="button" class="word" aria-label="Later months" @click="month = nextMonth(month)">
            ›
          </button>
        </div>
        <table v-for="m in [month, nextMonth(month)]" :key="m">
          <caption>
            {{
              title(m)
            }}
          </caption>
          <thead>
            <tr>
              <th v-for="d in ['Mo', 'Tu', 'We', 'Th', 'Fr', 'Sa', 'Su']" :key="d" scope="col">{{ d }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(week, i) in weeks(m)" :key="i">
              <td v-for="(d, j) in week" :key="j" :class="{ inside: d && inside(d) }">
                <button
                  v-if="d"
                  type="button"
                  :class="{ today: d === today }"
                  :aria-label="day(d)"
                  :aria-pressed="inside(d)"
                  :tabindex="d === today || d === resolved?.firstDay ? 0 : -1"
                  @click="pick(d, $event)"
                >
                  {{ Number(d.slice(8)) }}
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <p class="hint">Click a day; with Shift, the last day of a range.</p>
      </div>
    </div>
    <p v-if="trouble" class="notice" role="alert">
      {{ trouble.message }}
      <button v-for="s in trouble.suggestions" :key="s" type="button" class="quiet" @click="phrase = s">
        {{ s }}
      </button>
    </p>
    <p v-else-if="resolved" class="account" role="status">
      <strong>{{ account }}</strong> · {{ zone }}
      <span class="kind">
        <template v-if="resolved.rolling"
          >rolling: it moves with the day.
          <button
            v-if="other && other.fixed !== resolved.phrase"
            type="button"
            class="word"
            @click="phrase = other.fixed"
          >
            fix it at {{ other.fixed }}
          </button></template
        >
        <template v-else
          >fixed: these dates stay.
          <template v-if="other?.rolling.length">
            Let it roll:
            <button v-for="r in other.rolling" :key="r" type="button" class="word" @click="phrase = r">
              {{ r }}
            </button>
          </template>
        </template>
      </span>
    </p>
  </div>
</template>

<style scoped>
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

.notice .quiet {
  margin-left: 6px;
}
</style>
