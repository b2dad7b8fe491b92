<script setup lang="ts">
import { computed, provide, ref, watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { type Outline, type Register } from '@/api/client'
import { capitalised, cell, localDay, number } from '@/platform/format'
import { useSession } from '@/people/session'
import OrderPhrase from '@/rows/OrderPhrase.vue'
import { recordLines } from '@/rows/lines'
import RecordTable from '@/rows/RecordTable.vue'
import { partSize, runs, shapeWords, type Shape } from '@/rows/shape'
import TimeRail from '@/rows/TimeRail.vue'
import ChangeDialogs from '@/changes/ChangeDialogs.vue'
import { useChanging } from '@/changes/useChanging'
import ChosenBar from '@/rows/ChosenBar.vue'
import AddedFieldDialog from '@/registers/AddedFieldDialog.vue'
import AskRow from '@/statements/AskRow.vue'
import { actsOn, byPath, DESK } from '@/statements/desk'
import FilterDialog from '@/statements/FilterDialog.vue'
import { narrow } from '@/statements/narrowing'
import type { Node } from '@/statements/tree'
import StatementPanel from '@/statements/StatementPanel.vue'
import { partWords } from '@/statements/words'
import AsOfNote from './AsOfNote.vue'
import AsOfPicker from './AsOfPicker.vue'
import BesidePanel from './BesidePanel.vue'
import NothingFound from './NothingFound.vue'
import QuestionHead, { type Wanted } from './QuestionHead.vue'
import TotalsSheet from './TotalsSheet.vue'
import ViewDialogs from './ViewDialogs.vue'
import ViewNotes from './ViewNotes.vue'
import { useViews } from './store'
import { useBeside } from './useBeside'
import { useActs } from './useActs'
import { useCalculating } from './useCalculating'
import { useAnnouncements } from './useAnnouncements'
import { useCarrying } from './useCarrying'
import { useChanges } from './useChanges'
import { useKeysKept } from './useKeysKept'
import { useKeeping } from './useKeeping'
import { useLocks } from './useLocks'
import { usePresence } from './usePresence'
import { useHeld } from './useHeld'
import { READERS_ZONE, useQuestion } from './useQuestion'
import { useQuestionActs } from './useQuestionActs'
import { useMatches } from './useMatches'
import { useNews } from './useNews'
import { useTotalsOf } from './useTotalsOf'
import { useUnsaved } from './useUnsaved'
import { useWindows } from './useWindows'
import { announce, announceEach } from '@/platform/announcements'

const q = useQuestion()
const {
  register,
  view,
  own,
  refined,
  asShared,
  read,
  unreadable,
  settling,
  worded,
  missing,
  where,
  order,
  columns,
  shape,
  asTotals,
  grouped,
  groups,
  totals,
  asOf,
  recordsAt,
  side: asOfSide,
  chosenZone,
  answers,
  changed,
  answer,
} = q
const { rows, opening, readAt, count, parts, counted, slow, before, trouble, done, stopped } = answer

const { compare, words: newsWords, bringIn } = useNews(q)
const { together, gone } = usePresence(view, changed)
watch(
  () => view.value?.id,
  (id) => {
    if (id !== undefined) views.noteOpened(id)
  },
  { immediate: true },
)
const session = useSession()
const views = useViews()
const route = useRoute()
const router = useRouter()

const scroller = ref<HTMLElement>()
const writing = ref(false)
const { said, announceChanges } = useAnnouncements()
const zone = computed(() => q.zone.value ?? session.zone)
const changes = useChanges(q)
const { tree, opened, mishap, change } = changes
const { locked, unlocked } = useLocks(view, tree, read)

watch([where, () => route.path], () => (writing.value = false))
// An address whose statement cannot be read is opened for writing, with the text as it came.
watch(unreadable, (now) => {
  if (now) writing.value = true
})

const dragged = ref<string>()
const acts = actsOn(change, dragged)
provide(DESK, {
  ...acts,
  // The statement is drawn only once the register is there.
  register: register as Ref<Register>,
  locked,
  opened,
  asOf,
  zone,
  findings: computed(() => byPath(read.value?.findings)),
  mend: (mend) => void q.step({ where: mend.statement }),
  parts,
  matching: computed(() => (count.value?.exact ? count.value.matching : undefined)),
  open: (what) => (opened.value = what),
  close: () => (opened.value = undefined),
  apply: (node) => void changes.apply(node),
})

// ------------------------------------------------------------------ narrowing by pointing

/** Opens the editor for a field: of the criterion that is there, or of a new one. */
function writeOn(field: string) {
  const parts = 'all' in tree.value ? (tree.value.all as Node[]) : [tree.value]
  const at = parts.findIndex((p) => p.field === field)
  opened.value = at < 0 ? { path: '', adds: 'all', field } : { path: 'all' in tree.value ? `/all/${at}` : '' }
  scroller.value?.scrollTo({ top: 0 })
}

const { setWindow, stepWindow } = useWindows(q, zone, change, said, mishap)

/** The fields that the statement tests, for the marks under the column heads. */
const tested = computed(() => {
  const found: string[] = []
  const walk = (part: Outline) => {
    if (part.kind === 'off') return
    if (part.field) found.push(part.field)
    part.parts.forEach(walk)
  }
  if (read.value) walk(read.value.outline)
  return found
})

/** The fields held against a list of several values, whose order the records can follow. */
const listedFields = computed(() => {
  const found: string[] = []
  const walk = (part: Outline) => {
    if (part.kind === 'off') return
    const node = part.node as Node
    if (part.field && node.test === 'is in' && (node.values as unknown[]).length > 2) found.push(part.field)
    part.parts.forEach(walk)
  }
  if (read.value) walk(read.value.outline)
  return found
})

const matching = computed(() => {
  if (!count.value) return ''
  return `${number(count.value.matching)}${count.value.exact ? '' : '+'} of ${number(count.value.total)}`
})

const selected = computed(() => (typeof route.query.record === 'string' ? route.query.record : undefined))
function select(id?: string) {
  void router.replace({
    query: { ...route.query, record: id },
    hash: route.hash,
    state: q.stateOfStep(),
  })
}

announceChanges({
  question: () =>
    JSON.stringify([register.value?.key, where.value, asOf.value, recordsAt.value, answers.value]),
  step: () => q.done.value[q.steps.value - 1],
  // A step is said in the words in which its statement was read, also where the number is known before these.
  matching: () =>
    q.isAsked.value && count.value?.exact && !slow.value && worded.value ? matching.value : undefined,
})
// Which record the panel on the right is about: it changes while the keys stay in the table.
watch(selected, (id) => {
  const row = rows.value.find((r) => r.id === id)
  const title = register.value?.fields.find((f) => f.key === register.value!.titleField)
  if (row && title)
    announce(
      `${capitalised(register.value!.recordLabel)} ${cell(title, row.values[title.key], zone.value)} is open.`,
    )
})

const {
  side,
  beside,
  show: showBeside,
  close: closeSide,
} = useBeside(selected, select, () => void page.value?.focus())
const asked = computed(() => ({
  register: register.value?.key ?? '',
  statement: where.value,
  order: order.value,
  columns: columns.value,
  asOf: asOf.value,
  recordsAt: recordsAt.value,
  zone: q.zone.value,
  answers: answers.value,
  shape: shape.value,
  putting: q.openings.value,
}))

// ------------------------------------------------------------------ keeping

const keeping = useKeeping(q, said, mishap)
const { dropMine, takeNewer } = keeping
const unsaved = useUnsaved(q, said)
const filterOpen = ref(false)
const changing = useChanging({ register, asked, count, recordsAt, asTotals }, said, () => answer.again())
/** Narrows what is seen by a criterion, or by all of several. */
function narrowBy(node: Node) {
  const parts = 'all' in node ? (node.all as Node[]) : [node]
  void change((now) => parts.reduce(narrow, now))
}
const calculating = useCalculating(q, tree)
const { exportUrl, exportLong, copyLink, copyWords } = useCarrying(
  q,
  zone,
  said,
  () => (writing.value = true),
)
const WANTED: Record<Wanted, () => void> = {
  edges: () => void showBeside('edges'),
  why: () => void showBeside('why'),
  calculate: () => calculating.start(),
  filter: () => (filterOpen.value = true),
  related: () => (changing.open.related = true),
  choose: () => (changing.boxes.value = !changing.boxes.value),
  'change-many': () => changing.begin('all'),
  since: () => (changing.open.since = true),
  changes: () => changing.list(),
  post: () => (changing.open.post = true),
  words: () => void copyWords(),
  link: () => void copyLink(false),
  'link-answers': () => void copyLink(true),
}

// ------------------------------------------------------------------ shape

const shaping = ref(false)
const reshape = (to: Shape) => void q.step({ shape: to })
const totalling = useTotalsOf(q, {
  mishap,
  // What the rows are is the first thing to say; the panel opens once it is the one of totals.
  shapeFirst: () => (shaping.value = true),
  toTop: () => scroller.value?.scrollTo({ top: 0 }),
})
const { readAs } = totalling
watch(grouped, () => scroller.value?.scrollTo({ top: 0 }), { flush: 'post' })
/** Orders anew; a running total goes where the order is no longer that of time. */
function reorder(to: string[]) {
  const lost = shape.value.running && !runs(register.value!, to)
  void q.step(lost ? { order: to, shape: { ...shape.value, running: undefined } } : { order: to })
}
const shapeSaid = computed(() => {
  if (!register.value) return ''
  // What rows are left out by stands above them.
  const { totals: read } = shape.value
  return shapeWords(
    register.value,
    read ? { ...shape.value, totals: { ...read, keep: undefined } } : shape.value,
  )
})
/** How many of the matches are shown, where that is not all of them. */
const shownOf = computed(() => {
  if (!count.value) return ''
  const { take } = shape.value
  return take ? `${number(partSize(take, count.value.matching))} shown of` : ''
})
/** The lines of the table: records, or groups with what is in those that are open. */
const lines = computed(() =>
  grouped.value
    ? groups.lines.value
    : recordLines(rows.value, {
        running: shape.value.running ?? undefined,
        newestFirst: order.value[0]?.startsWith('-') ?? false,
        opening: opening.value,
        done: done.value,
      }),
)

const page = ref<InstanceType<typeof RecordTable>>()
const totalsSheet = ref<InstanceType<typeof TotalsSheet>>()
const { noMatch, toMatch } = useMatches(answer, page, () => asked.value)
announceEach(() => noMatch.value)
announceEach(() => q.renewed.value)

// ------------------------------------------------------------------ for the keys

const hasTime = computed(() => register.value?.fields.some((f) => /^(date|moment|span)$/.test(f.type)))
const SKIPS = computed(() => [
  { to: 'statement', words: 'the statement' },
  ...(hasTime.value ? [{ to: 'rail', words: 'the time rail' }] : []),
  ...(table.value ? [{ to: 'records', words: 'the records' }] : []),
  ...(sums.value ? [{ to: 'totals', words: 'the totals' }] : []),
  ...(beside.value ? [{ to: 'panel', words: 'the panel' }] : []),
])
const PLACES: Record<string, string> = {
  statement: '.paragraph .phrase, .paragraph .add',
  rail: '.rail .drawing',
  panel: 'aside.side [role=tab][aria-selected=true]',
}
/** Takes the keys past what comes before. */
function skipTo(place: string) {
  if (place === 'records') void page.value?.focus()
  else if (place === 'totals') void totalsSheet.value?.focus()
  else document.querySelector<HTMLElement>(PLACES[place]!)?.focus()
}

// ------------------------------------------------------------------ columns

function toggleColumn(key: string) {
  const now = columns.value.includes(key) ? columns.value.filter((c) => c !== key) : [...columns.value, key]
  if (now.length) void q.step({ columns: now })
}

// ------------------------------------------------------------------ what can be done, by key and in the palette

const acting = useQuestionActs(q, {
  keeping,
  said,
  unlocked,
  writing,
  shaping,
  asTotals,
  opened,
  wanted: (what) => WANTED[what](),
  readAs,
  stepWindow,
  writeOn,
  toggleColumn,
})
useActs(
  // A key that is pressed while the page is still being opened counts.
  () => (missing.value ? [] : acting()),
  { back: () => q.back(), forward: () => q.forward() },
  () => {
    if (opened.value) opened.value = undefined
    else closeSide()
  },
)

const nothing = computed(() => rows.value.length === 0 && done.value && !trouble.value && !unreadable.value)
/** What the table shows. It is drawn once the words stand above it, so that it stays where it is. */
const live = computed(() =>
  !asTotals.value &&
  rows.value.length &&
  worded.value &&
  !unreadable.value &&
  register.value &&
  // Groups of another question are none of this one.
  !(grouped.value && groups.stale.value)
    ? {
        register: register.value,
        columns: columns.value,
        lines: lines.value,
        shape: shape.value,
        total: count.value?.matching,
        whole: grouped.value || groups.stale.value ? undefined : groups.whole.value,
        done: done.value,
        tested: tested.value,
        zone: zone.value,
      }
    : undefined,
)
const table = useHeld(
  () => live.value,
  (answer) =>
    asTotals.value ||
    Boolean(unreadable.value || trouble.value || stopped.value || nothing.value) ||
    register.value?.key !== answer.register.key,
  // Another answer is read from its beginning.
  () => scroller.value?.scrollTo({ top: 0 }),
)
useKeysKept(table, page)
const liveTotals = computed(() =>
  asTotals.value && totals.answer.value && worded.value && !unreadable.value && register.value
    ? { register: register.value, answer: totals.answer.value, shape: shape.value, zone: zone.value }
    : undefined,
)
const sums = useHeld(
  () => liveTotals.value,
  (shown) =>
    !asTotals.value ||
    Boolean(unreadable.value || totals.trouble.value) ||
    register.value?.key !== shown.register.key,
)
useKeysKept(sums, totalsSheet)
</script>

<template>
  <div v-if="missing" class="missing">
    <h1>It cannot be opened</h1>
    <p>{{ missing }}</p>
    <p><RouterLink to="/views">See all views</RouterLink> or choose a register on the left.</p>
  </div>
  <div v-else-if="register" class="question" :class="{ beside }">
    <Teleport defer to="#as-of-place">
      <AsOfPicker
        :as-of="asOf"
        :records-at="recordsAt"
        :past-since="register.pastSince ?? undefined"
        :chosen-zone="chosenZone"
        :organisations-zone="session.zone"
        :readers-zone="READERS_ZONE"
        @as-of="q.step({ asOf: $event })"
        @records-at="q.step({ recordsAt: $event })"
        @zone="q.step({ zone: $event })"
      />
    </Teleport>
    <main ref="scroller" class="sheet">
      <div class="skips">
        <button v-for="s in SKIPS" :key="s.to" type="button" class="quiet" @click="skipTo(s.to)">
          Skip to {{ s.words }}
        </button>
      </div>
      <div class="still">
        <QuestionHead
          v-model:shaping="shaping"
          :register="register"
          :question="q"
          :keeping="keeping"
          :unlocked="unlocked"
          :export-url="exportUrl"
          :zone="zone"
          :as-totals="asTotals"
          :may-change-many="changing.mayChange.value"
          @read-as="readAs"
          @export="exportLong"
          @shape="reshape"
          @calculate="calculating.start"
          @wanted="WANTED[$event]()"
        />
        <ViewNotes
          :register="register"
          :view="view"
          :own="own"
          :refined="refined"
          :as-shared="asShared"
          :together="together"
          :gone="gone"
          :unsaved="unsaved.offered.value"
          :changed="changed"
          :unlocked="unlocked"
          @show-unsaved="unsaved.show"
          @discard-unsaved="unsaved.discard"
          @take-newer="takeNewer"
          @as-shared="
            router.push({ path: route.path, query: $event ? { as: 'shared' } : {}, state: q.stateOfStep() })
          "
          @drop="dropMine"
        />
        <p v-if="q.renewed.value" class="note">{{ q.renewed.value }}</p>
        <p v-if="mishap" class="notice" role="alert">{{ mishap }}</p>
        <AsOfNote
          v-if="asOf || recordsAt"
          :question="asked"
          :side="asOfSide"
          :ready="read !== undefined && (rows.length > 0 || done)"
          @now="q.step({ asOf: null })"
          @records-now="q.step({ recordsAt: null })"
          @side="q.step({ side: $event })"
        />
        <AskRow
          v-if="read?.asks.length"
          :asks="read.asks"
          :answers="answers"
          :fields="register?.fields"
          @answer="q.step({ answers: $event })"
        />
        <div class="paragraph">
          <StatementPanel
            v-model:writing="writing"
            :register="register"
            :outline="read?.outline"
            :statement="where"
            :settling="settling"
            :unchecked="q.unchecked.value"
            @check="q.checkAgain()"
            @write="q.step({ where: $event }).then(() => (writing = false))"
          >
            <template #order>
              <OrderPhrase
                v-if="!asTotals"
                :register="register"
                :order="order"
                :listed="listedFields"
                @order="reorder"
              />
              <span v-if="shapeSaid" class="shaped">
                <button type="button" class="phrase" @click="shaping = true">{{ shapeSaid }}</button>
                <template v-if="grouped"
                  ><button type="button" class="word" @click="groups.openAll()">open all</button
                  ><button type="button" class="word" @click="groups.closeAll()">close all</button></template
                >
              </span>
            </template>
          </StatementPanel>
          <aside class="margin" aria-label="Counts">
            <span v-if="shownOf" class="shown-of">{{ shownOf }}</span>
            <strong v-if="matching" class="matching">{{ matching }}</strong>
          </aside>
        </div>
        <TimeRail
          v-if="!unreadable"
          :register="register"
          :question="asked"
          :outline="read?.outline"
          :zone="zone"
          :now="readAt ?? session.current!.now"
          :ready="read !== undefined && (rows.length > 0 || done)"
          @window="setWindow"
          @step="stepWindow"
        />
        <div class="wait">
          <template v-if="slow || groups.slow.value || totals.slow.value">
            <span class="bar" /><span v-if="before"
              >Busy: {{ before }} {{ before === 1 ? 'question' : 'questions' }} before yours…</span
            ><span v-else>Reading…</span>
            <button type="button" class="word" @click="(answer.stop(), groups.stop(), totals.stop())">
              Stop
            </button>
          </template>
          <template v-else-if="newsWords">
            <span>Since you opened it: {{ newsWords }}.</span>
            <button type="button" class="word bring" @click="bringIn()">Show it now</button>
          </template>
          <span v-else-if="said"
            >{{ said }}
            <button
              v-if="changing.last.value?.words === said"
              type="button"
              class="word"
              @click="changing.open.changes = true"
            >
              Take it back
            </button></span
          >
        </div>
        <p v-if="trouble && !unreadable" class="notice" role="alert">
          {{ trouble }} <button type="button" class="quiet" @click="answer.again()">Try again</button>
        </p>
        <p v-else-if="groups.trouble.value || totals.trouble.value" class="notice" role="alert">
          {{ groups.trouble.value || totals.trouble.value }}
        </p>
        <p v-else-if="stopped && !rows.length" class="empty">
          Stopped. <button type="button" class="quiet" @click="answer.again()">Ask again</button>
        </p>
        <NothingFound
          v-else-if="nothing"
          :register="register"
          :outline="read?.outline"
          :as-of="asOf"
          :parts="parts"
          :counted="counted"
          @switch-off="acts.toggleOff"
        />
      </div>
      <TotalsSheet
        v-if="asTotals"
        ref="totalsSheet"
        :register="register"
        :shape="shape"
        :answer="totals.answer.value"
        :sums="sums"
        :failed="totals.trouble.value !== ''"
        :nothing="nothing"
        :mendable="read !== undefined && !read.asks.length"
        :scroller="scroller"
        :zone="zone"
        :now="asOf ?? session.current!.now"
        @open="totalling.openFigure"
        @change="totalling.change"
        @mend="totalling.holdAfter"
        @window="(phrase, field) => setWindow(phrase, field, totalling.placeOfWindow(field))"
      />
      <RecordTable
        v-if="table"
        ref="page"
        v-bind="table.answer"
        :order="order"
        :waiting="table.held"
        :selected="selected"
        :chosen="changing.chosen"
        :choosing="changing.boxes.value || changing.chosen.some.value"
        :scroller="scroller"
        :tree="tree"
        :question="asked"
        @narrow="change"
        @write="writeOn"
        @calculate="calculating.start"
        @order="reorder"
        @shape="reshape"
        @select="select"
        @more="answer.more()"
        @match="toMatch"
      >
        <template #matches>
          <button type="button" class="word" title="Shift ↑ in the records" @click="toMatch(-1)">
            previous match
          </button>
          <button type="button" class="word" title="Shift ↓ in the records" @click="toMatch(1)">
            next match
          </button>
          <span class="no-match">{{ noMatch }}</span>
        </template>
      </RecordTable>
      <ChosenBar
        v-if="table && changing.chosen.some.value"
        :register="register"
        :chosen="changing.chosen"
        :fields="register.fields.filter((f) => columns.includes(f.key))"
        :zone="zone"
        :may-change="changing.mayChange.value"
        @change="changing.begin('chosen')"
        @compare="changing.open.compare = true"
        @common="changing.open.common = true"
        @said="said = $event"
      />
      <p v-if="done && !grouped && !asTotals && rows.length > 20" class="end">
        That is all: {{ number(rows.length) }}.
      </p>
    </main>
    <BesidePanel
      v-if="beside"
      v-model="side"
      :register="register"
      :question="q"
      :asked="asked"
      :zone="zone"
      :selected="selected"
      @select="select"
      @close="closeSide"
      @changed="compare"
      @posted="changing.done"
    />
    <!-- Inside a section, so that the heads of dialogs are no banners of the page. -->
    <section>
      <ViewDialogs
        :question="q"
        :keeping="keeping"
        :figures="totals.answer.value?.figures.filter((f) => f.kind !== 'change') ?? []"
        @said="said = $event"
      />
      <AddedFieldDialog
        v-model="calculating.open.value"
        :register="register"
        :field="calculating.field.value"
        :criteria="calculating.criteria.value"
        :of-view="view !== undefined"
        @added="calculating.take"
        @removed="calculating.drop"
      />
      <ChangeDialogs
        :changing="changing"
        :register="register"
        :question="asked"
        :words="read ? partWords(read.outline) : ''"
        :zone="zone"
        :today="localDay(readAt ?? session.current!.now, zone)"
        @record="select"
        @narrow="narrowBy"
      />
      <FilterDialog
        v-model="filterOpen"
        :register-key="register.key"
        :statement="where"
        :as-of="asOf"
        :zone="q.zone.value"
        :answers="answers"
        @read="q.step({ where: $event })"
      />
    </section>
  </div>
</template>

<style scoped>
.question {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  min-height: 0;
}

.question.beside {
  grid-template-columns: minmax(0, 1fr) 288px;
}

.sheet {
  overflow: auto;
  min-width: 0;
  padding: 0 20px 30px 22px;
  scrollbar-gutter: stable;
}

/* For the keys: seen when they come to them. */
.skips .quiet {
  position: absolute;
  left: -999px;
  z-index: 10;
}

.skips .quiet:focus {
  left: 8px;
  top: 4px;
}

/* Stays where it is while a wide table is scrolled sideways. */
.still {
  position: sticky;
  left: 0;
}

.paragraph {
  --margin: 150px;
  display: grid;
  grid-template-columns: minmax(0, 1fr) var(--margin);
  padding: 8px 0 6px;
}

.margin {
  border-left: 1px solid var(--rule);
  margin-left: 14px;
  display: flex;
  flex-direction: column;
  justify-content: flex-end;
  align-items: flex-end;
  gap: 2px;
}

.matching {
  white-space: nowrap;
  line-height: 29px;
}

.wait {
  display: flex;
  gap: 10px;
  align-items: center;
  height: 24px;
  margin-top: -12px;
  color: var(--ink-2);
  font-size: 13.5px;
}

.shaped {
  font: 400 19.5px/29px var(--serif);
}

.shaped .phrase {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  line-height: 24px;
  text-align: left;
  cursor: pointer;
  border-bottom: 1px solid var(--act-line);
}

.shaped .word {
  font: 400 14px/1.4 var(--sans);
  margin-left: 10px;
}

.shown-of {
  color: var(--ink-2);
  white-space: nowrap;
}

.wait .bring {
  color: var(--act);
  text-decoration: underline;
}

.wait .word {
  padding: 0;
}

.bar {
  width: 120px;
  height: 3px;
  border-radius: 2px;
  background: linear-gradient(90deg, var(--rule) 0 40%, var(--act) 50%, var(--rule) 60%) 0 / 300% 100%;
  animation: run 1.2s linear infinite;
}

@keyframes run {
  from {
    background-position: 100% 0;
  }

  to {
    background-position: -50% 0;
  }
}

@media (prefers-reduced-motion: reduce) {
  .bar {
    animation: none;
  }
}

.empty {
  padding: 22px 0;
  font: 400 18px/1.5 var(--serif);
}

.end {
  color: var(--ink-3);
  padding: 10px 6px;
}

.missing {
  padding: 26px;
}

.notice {
  margin: 8px 0;
}

.note {
  background: var(--act-soft);
  border-left: 3px solid var(--act);
  padding: 5px 10px;
  margin-top: 8px;
}

@media (max-width: 560px) {
  .paragraph {
    --margin: 106px;
  }

  .sheet {
    padding-inline: 12px;
  }
}

/* Where there is no room for both, what is open beside the page stands in its place until it is closed. */
@media (max-width: 760px) {
  .question.beside {
    position: relative;
    grid-template-columns: minmax(0, 1fr);
  }

  .question.beside .sheet {
    visibility: hidden;
  }

  .question.beside > :deep(aside) {
    position: absolute;
    inset: 0;
    border-left: 0;
  }
}
</style>
