<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, data, Problem, type Settings } from '@/api/client'
import SkipLink from '@/platform/SkipLink.vue'
import { useActing } from '@/platform/useActing'
import { MONTH_NAMES } from '@/platform/format'
import UnsavedDialog from '@/platform/UnsavedDialog.vue'
import { useSession } from '@/people/session'
import SaidLine from '@/platform/SaidLine.vue'

const session = useSession()
const mayChange = computed(() => session.current?.person.role === 'ADMINISTRATOR')

interface Single {
  day: string
  label: string
  hours: string
}
const settings = ref<Settings>()
const name = ref('')
const zone = ref('')
const weekStarts = ref('MONDAY')
const fiscal = ref(1)
/** the hours of each weekday as they are typed: `08:00–12:00, 13:00–17:00` */
const weekly = ref<string[]>([])
/** The date phrases that are shown first, one on a line. */
const windows = ref('')
const singles = ref<Single[]>([])
const picker = ref<HTMLInputElement>()
const { busy: saving, trouble, troubleId, said, refused, act } = useActing()
/** What is done with a file of holidays. */
const filing = useActing()
const { said: fileSaid, trouble: fileTrouble } = filing
const busy = computed(() => saving.value || filing.busy.value)

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const zones = Intl.supportedValuesOf('timeZone')

onMounted(async () => {
  document.title = 'Organisation · Deft Lens'
  try {
    take(await data(api.GET('/api/organisation')))
  } catch (e) {
    refused(e)
  }
})

type Stretch = Settings['weekly'][number]['hours'][number]
const short = (time: unknown) => String(time).slice(0, 5)
const typed = (hours: Stretch[]) => hours.map((h) => `${short(h.from)}–${short(h.to)}`).join(', ')

function take(fresh: Settings) {
  settings.value = fresh
  name.value = fresh.name
  zone.value = fresh.zone
  weekStarts.value = fresh.weekStarts
  fiscal.value = fresh.fiscalYearStartsMonth
  weekly.value = DAYS.map((_, i) => typed(fresh.weekly.find((d) => d.weekday === i + 1)?.hours ?? []))
  windows.value = fresh.windows.join('\n')
  singles.value = fresh.exceptions.map((e) => ({ day: e.day, label: e.label, hours: typed(e.hours) }))
  taken.value = asTyped()
}

/** All of it as it is typed, to know whether something was changed. */
const asTyped = () =>
  JSON.stringify([
    name.value,
    zone.value,
    weekStarts.value,
    fiscal.value,
    weekly.value,
    windows.value,
    singles.value,
  ])
const taken = ref('')
const changed = computed(() => settings.value !== undefined && asTyped() !== taken.value)

/** Hours as they are typed; nothing is a day off. */
function hours(text: string, whose: string, at: string): Stretch[] {
  return text
    .split(',')
    .map((piece) => piece.trim())
    .filter(Boolean)
    .map((piece) => {
      const found = /^(\d{1,2}:\d\d)\s*(?:-|–|to)\s*(\d{1,2}:\d\d)$/.exec(piece)
      if (!found)
        throw new Problem(422, 'bad-hours', `“${piece}” for ${whose} is written like 08:00–12:00.`, { at })
      return { from: found[1]!.padStart(5, '0'), to: found[2]!.padStart(5, '0') } as Stretch
    })
}

async function keep() {
  await act(
    async () => {
      const body = {
        name: name.value,
        zone: zone.value,
        weekStarts: weekStarts.value as Settings['weekStarts'],
        fiscalYearStartsMonth: fiscal.value,
        weekly: weekly.value.map((text, i) => ({
          weekday: i + 1,
          hours: hours(text, DAYS[i]!, `weekly/${i}`),
        })),
        exceptions: singles.value
          .map((s, i) => ({ day: s.day, label: s.label, hours: hours(s.hours, s.day, `exceptions/${i}`) }))
          .filter((s) => s.day),
        windows: windows.value
          .split('\n')
          .map((w) => w.trim())
          .filter(Boolean),
        version: settings.value!.version,
      }
      take(await data(api.PUT('/api/organisation', { body })))
      fileSaid.value = ''
      said.value = 'Saved. Working days and hours count anew from the next question on.'
      await session.load(true)
    },
    (e) => {
      if (e instanceof Problem && e.code === 'changed-meanwhile')
        trouble.value += ' Load the page again to see theirs; copy what you want to save first.'
    },
  )
}

/** Takes the days of a file over into the list; what stands there already stays as it is. */
async function addFile(event: Event) {
  const box = event.target as HTMLInputElement
  const file = box.files?.[0]
  if (!file) return
  await filing.act(async () => {
    if (file.size > MOST_BYTES)
      throw new Error(
        `${file.name} is larger than a file of holidays; leave the years out that do not matter.`,
      )
    const { days, notes } = await data(
      api.POST('/api/organisation/holidays', { body: { text: await textOf(file) } }),
    )
    const there = new Set(singles.value.map((s) => s.day))
    const fresh = days.filter((d) => !there.has(d.day))
    singles.value = [
      ...singles.value,
      ...fresh.map((d) => ({ day: d.day, label: d.label, hours: typed(d.hours) })),
    ].sort((a, b) => a.day.localeCompare(b.day))
    const known = days.length - fresh.length
    return [
      `${daysWords(fresh.length)} of ${file.name} ${fresh.length === 1 ? 'was' : 'were'} added${known ? `, ${daysWords(known)} ${known === 1 ? 'was' : 'were'} there already` : ''}.`,
      ...notes,
      fresh.length ? 'Nothing is saved yet.' : '',
    ]
      .filter(Boolean)
      .join(' ')
  })
  box.value = ''
}
const MOST_BYTES = 1_000_000
const daysWords = (count: number) => (count === 1 ? '1 day' : `${count} days`)

/** The text of a small file: UTF-8, or what older programs write. */
async function textOf(file: File): Promise<string> {
  const bytes = await file.arrayBuffer()
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return new TextDecoder('windows-1252').decode(bytes)
  }
}

function addSingle() {
  singles.value.push({ day: '', label: '', hours: '' })
}
</script>

<template>
  <main class="organisation-page">
    <UnsavedDialog :unsaved="changed" what="Your changes of the organisation" />
    <h1>Organisation</h1>
    <p class="hint">
      The calendar that every window is read in: whose days count, when weeks and fiscal years begin, and when
      people work. {{ mayChange ? '' : 'Administrators change it.' }}
    </p>
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    <SaidLine :words="said" />
    <form v-if="settings" @submit.prevent="keep">
      <fieldset :disabled="!mayChange || busy">
        <div class="pair">
          <label>Name <input v-model="name" name="name" class="field" required maxlength="120" /></label>
          <label>
            Time zone
            <select v-model="zone" name="zone" class="field">
              <option v-if="!zones.includes(zone)">{{ zone }}</option>
              <option v-for="z in zones" :key="z">{{ z }}</option>
            </select>
          </label>
          <label>
            Weeks begin on
            <select v-model="weekStarts" class="field">
              <option v-for="d in DAYS" :key="d" :value="d.toUpperCase()">{{ d }}</option>
            </select>
          </label>
          <label>
            Fiscal years begin in
            <select v-model.number="fiscal" class="field">
              <option v-for="(m, i) in MONTH_NAMES" :key="m" :value="i + 1">{{ m }}</option>
            </select>
          </label>
        </div>
        <h2>Windows shown first</h2>
        <p class="hint">
          One date phrase on a line, such as <em>last full month</em> or <em>this fiscal quarter</em>. They
          stand in every window editor in this order; without any, the usual ones do.
        </p>
        <textarea
          v-model="windows"
          name="windows"
          class="field offered"
          rows="5"
          aria-label="Windows shown first"
          placeholder="today&#10;this week&#10;last fiscal quarter"
        />
        <h2>Working hours</h2>
        <p class="hint">
          Stretches like 08:00–12:00, 13:00–17:00; to 00:00 is the end of the day; empty is a day off.
        </p>
        <div class="week">
          <label v-for="(d, i) in DAYS" :key="d">
            {{ d }} <input v-model="weekly[i]" :name="`weekly/${i}`" class="field" placeholder="day off" />
          </label>
        </div>
        <h2>Single days</h2>
        <p class="hint">
          Holidays and closures without hours, half days with fewer, worked weekends with some. A file of
          holidays is an iCalendar (.ics), or a CSV with a day, what it is and, where people work, the hours.
        </p>
        <SkipLink v-if="singles.length > 2" to="past-days">Skip past the days</SkipLink>
        <table v-if="singles.length">
          <thead>
            <tr>
              <th scope="col">Day</th>
              <th scope="col">What it is</th>
              <th scope="col">Hours instead</th>
              <th scope="col"><span class="hidden-text">Remove</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(s, i) in singles" :key="i">
              <td>
                <input
                  v-model="s.day"
                  class="field"
                  pattern="\d{4}-\d\d-\d\d"
                  placeholder="2026-12-25"
                  title="year-month-day: 2026-12-25"
                  :aria-label="`Day ${i + 1}`"
                />
              </td>
              <td>
                <input v-model="s.label" class="field" maxlength="80" :aria-label="`What day ${i + 1} is`" />
              </td>
              <td>
                <input
                  v-model="s.hours"
                  :name="`exceptions/${i}`"
                  class="field"
                  placeholder="day off"
                  :aria-label="`Hours of day ${i + 1}`"
                />
              </td>
              <td>
                <button
                  type="button"
                  class="word"
                  :aria-label="`Remove ${s.label || s.day}`"
                  @click="singles.splice(i, 1)"
                >
                  remove
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="mayChange" id="past-days" class="acts">
          <button type="button" class="quiet" @click="addSingle">Add a day</button>
          <button type="button" class="quiet" @click="picker?.click()">Add days from a file…</button>
          <input
            ref="picker"
            type="file"
            class="hidden-text"
            tabindex="-1"
            accept=".ics,.csv,.txt,text/calendar,text/csv"
            aria-label="A file of holidays"
            @change="addFile"
          />
          <button type="submit" class="act">Save</button>
        </p>
        <p v-if="fileTrouble" class="notice" role="alert">{{ fileTrouble }}</p>
        <SaidLine :words="fileSaid" />
      </fieldset>
    </form>
  </main>
</template>

<style scoped>
.offered {
  width: min(320px, 100%);
  resize: vertical;
}

.organisation-page {
  padding: 18px 22px 40px;
  max-width: 860px;
  overflow: auto;
}

h1 {
  font: 600 23px/1.3 var(--serif);
}

h2 {
  font: 600 17px/1.3 var(--serif);
  margin-top: 22px;
}

.hint {
  color: var(--ink-2);
}

.said {
  color: var(--act);
  min-height: 20px;
}

fieldset {
  border: 0;
  padding: 0;
  margin: 0;
}

.pair {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(250px, 100%), 1fr));
  gap: 10px 18px;
}

.week {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(250px, 100%), 1fr));
  gap: 8px 18px;
  margin-top: 6px;
}

label {
  font-weight: 600;
}

label .field {
  font-weight: 400;
  margin-top: 2px;
}

table {
  border-collapse: collapse;
  width: 100%;
  margin-top: 6px;
}

th {
  text-align: left;
  font-weight: 600;
  padding: 2px 8px 4px 0;
}

td {
  padding: 2px 8px 2px 0;
}

.acts {
  display: flex;
  gap: 12px;
  margin-top: 14px;
}
</style>
