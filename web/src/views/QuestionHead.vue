<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, data, type Pin, type Register } from '@/api/client'
import { useSession } from '@/people/session'
import { capitalised } from '@/platform/format'
import PanelButton from '@/platform/PanelButton.vue'
import ColumnsPanel from '@/rows/ColumnsPanel.vue'
import type { Shape } from '@/rows/shape'
import ShownPanel from '@/rows/ShownPanel.vue'
import FilePanel from './FilePanel.vue'
import StepList from './StepList.vue'
import { sharing, useViews } from './store'
import type { useKeeping } from './useKeeping'
import type { useQuestion } from './useQuestion'

/** The head of a page that shows records: its name, and what can be done with the whole question. */
const props = defineProps<{
  register: Register
  question: ReturnType<typeof useQuestion>
  keeping: ReturnType<typeof useKeeping>
  /** whether the page asks something that leaves a locked part out */
  unlocked: boolean
  exportUrl: string
  /** whether the records are read as totals */
  asTotals: boolean
  /** whether the reader may change these records at once */
  mayChangeMany: boolean
  /** the zone whose days and clock count */
  zone: string
}>()
/** whether the panel of the shape is open */
const shaping = defineModel<boolean>('shaping', { required: true })
export type Wanted =
  | 'edges'
  | 'calculate'
  | 'why'
  | 'filter'
  | 'words'
  | 'link'
  | 'link-answers'
  | 'change-many'
  | 'changes'
  | 'since'
  | 'choose'
  | 'related'
  | 'post'
const emit = defineEmits<{
  shape: [shape: Shape]
  wanted: [what: Wanted]
  export: [event: Event]
  readAs: [what: 'records' | 'totals']
  /** a calculated field of this question; a new one when its key is absent */
  calculate: [key?: string]
}>()

const q = props.question
const { view, order, columns, shape, answers, changed, steps, done: stepsDone, stepsAhead } = q
const {
  busy,
  manages,
  startKeeping,
  keepReviewed,
  keepForMe,
  pin,
  besideOpen,
  shareOpen,
  historyOpen,
  accessOpen,
  deleteOpen,
} = props.keeping
const session = useSession()
const views = useViews()
/** A reader's own refinement leaves locked parts and the fields that the view calculates as they are. */
const copyOnly = computed(() => props.unlocked || q.addsOtherwise.value)
const name = computed(() => view.value?.name ?? props.register.label)

/** The view that the reader's team begins this register with. */
const beginning = ref<Pin>()
watch(
  () => (view.value ? undefined : props.register.register),
  async (key) => {
    beginning.value = undefined
    if (!key) return
    try {
      const { view: start } = await data(api.GET('/api/registers/{key}/start', { params: { path: { key } } }))
      if (props.register.register === key) beginning.value = start ?? undefined
    } catch {
      // The register opens without it.
    }
  },
  { immediate: true },
)

const HERE: Record<string, () => void> = {
  copy: () => startKeeping('copy'),
  rename: () => startKeeping('rename'),
  history: () => (historyOpen.value = true),
  access: () => (accessOpen.value = true),
  delete: () => (deleteOpen.value = true),
  'for-me': () => void keepForMe(),
  pin: () => void pin(),
  beside: () => (besideOpen.value = true),
  discard: () => void q.settle(view.value!),
}
/** what was chosen from the menu, for the page to do once it has closed: the keys are its own until then */
let chosen: Wanted | undefined
function more(what: string) {
  if (what in HERE) HERE[what]!()
  else chosen = what as Wanted
}
/** Opens the dialog once the panel that asks for it is closed. */
const columnsOpen = ref(false)
function calculate(key?: string) {
  columnsOpen.value = false
  emit('calculate', key)
}
function menuShown(now: boolean) {
  const what = chosen
  chosen = undefined
  if (!now && what) window.setTimeout(() => emit('wanted', what))
}
</script>

<template>
  <header>
    <div class="title">
      <h1 :title="name">{{ name }}</h1>
      <span v-if="view" class="about" :title="sharing(view)"
        >{{ sharing(view) }} · v{{ view.version + 1 }}</span
      >
      <span v-else class="about" :title="beginning ? `Your team begins with ${beginning.name}` : 'register'">
        register<template v-if="beginning">
          · your team begins with
          <RouterLink :to="`/views/${beginning.id}`">{{ beginning.name }}</RouterLink></template
        >
      </span>
    </div>
    <div class="acts">
      <StepList
        v-if="steps > 0 || stepsAhead > 0"
        :steps="steps"
        :done="stepsDone"
        @back="q.back()"
        @forward="q.forward()"
        @go="q.goToStep"
      />
      <template v-if="session.mayWrite">
        <button v-if="!view" type="button" class="act" @click="startKeeping('new')">
          Save as a new view
        </button>
        <button
          v-else-if="changed && view.mayChange"
          type="button"
          class="act"
          :disabled="busy"
          @click="keepReviewed()"
        >
          Save changes
        </button>
        <template v-else-if="changed">
          <button v-if="!copyOnly" type="button" class="act" :disabled="busy" @click="keepForMe()">
            Save for me
          </button>
          <button type="button" :class="copyOnly ? 'act' : 'word'" @click="startKeeping('copy')">
            Keep a copy
          </button>
        </template>
        <button v-if="manages" type="button" class="word" @click="shareOpen = true">Share</button>
      </template>
      <button
        v-else-if="view && changed && !session.watcher && !copyOnly"
        type="button"
        class="act"
        :disabled="busy"
        @click="keepForMe()"
      >
        Save for me
      </button>
      <span class="read-as" role="group" aria-label="Read as">
        <button
          v-for="what in ['records', 'totals'] as const"
          :key="what"
          type="button"
          :aria-pressed="(what === 'totals') === asTotals"
          @click="emit('readAs', what)"
        >
          {{ capitalised(what) }}
        </button>
      </span>
      <PanelButton v-if="!asTotals" v-model:open="columnsOpen" name="Columns" :width="330" class="word">
        <template #button>Columns</template>
        <ColumnsPanel
          :register="register"
          :columns="columns"
          :shape="shape"
          @calculate="calculate($event)"
          @columns="q.step({ columns: $event })"
          @shape="emit('shape', $event)"
        />
      </PanelButton>
      <PanelButton v-model:open="shaping" name="Shape" :width="370" class="word">
        <template #button>Shape</template>
        <ShownPanel
          :register="register"
          :shape="shape"
          :order="order"
          @shape="emit('shape', $event)"
          @order="(by, to) => q.step({ order: by, shape: to })"
        />
      </PanelButton>
      <PanelButton name="CSV file" :width="340" class="word">
        <template #button>CSV</template>
        <FilePanel :url="exportUrl" :zone="zone" :as-totals="asTotals" @fetch="emit('export', $event)" />
      </PanelButton>
      <ElDropdown trigger="click" @command="more" @visible-change="menuShown">
        <button type="button" class="word">More</button>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem command="edges">Edges: the last in, the first out</ElDropdownItem>
            <ElDropdownItem command="why">Why is one not here?</ElDropdownItem>
            <ElDropdownItem command="calculate">Calculate a field here</ElDropdownItem>
            <ElDropdownItem command="related">Related records</ElDropdownItem>
            <ElDropdownItem v-if="!asTotals" command="choose">Choose records</ElDropdownItem>
            <ElDropdownItem v-if="mayChangeMany" command="change-many"
              >Change these {{ register.recordsLabel }}</ElDropdownItem
            >
            <ElDropdownItem
              v-if="register.pastSince && register.capabilities.includes('records') && !asTotals"
              command="since"
              >What changed here since…</ElDropdownItem
            >
            <ElDropdownItem v-if="register.capabilities.includes('records')" command="changes"
              >What was changed at once</ElDropdownItem
            >
            <ElDropdownItem command="filter">As an open filter (CQL2)</ElDropdownItem>
            <ElDropdownItem v-if="mayChangeMany && register.transactions" command="post"
              >Post a transaction</ElDropdownItem
            >
            <ElDropdownItem command="words">Copy the statement as words</ElDropdownItem>
            <ElDropdownItem command="link">Copy the link</ElDropdownItem>
            <ElDropdownItem v-if="Object.keys(answers).length" command="link-answers"
              >Copy the link with what is filled in</ElDropdownItem
            >
            <ElDropdownItem v-if="view" command="pin">{{
              views.isPinned(view.id) ? 'Unpin from my list' : 'Pin to my list'
            }}</ElDropdownItem>
            <ElDropdownItem v-if="view && asTotals && views.isPinned(view.id)" command="beside"
              >What stands beside it on my list</ElDropdownItem
            >
            <template v-if="view">
              <ElDropdownItem v-if="changed" command="discard">Discard my changes</ElDropdownItem>
              <ElDropdownItem v-if="changed && view.mayChange && !copyOnly" command="for-me"
                >Save for me only</ElDropdownItem
              >
              <ElDropdownItem v-if="session.mayWrite" command="copy">Keep a copy</ElDropdownItem>
              <ElDropdownItem v-if="view.mayChange && session.mayWrite" command="rename"
                >Name, purpose and labels</ElDropdownItem
              >
              <ElDropdownItem command="history">History</ElDropdownItem>
              <ElDropdownItem v-if="session.readsEverything && !manages" command="access"
                >Access</ElDropdownItem
              >
              <ElDropdownItem v-if="manages" divided command="delete">Delete</ElDropdownItem>
            </template>
          </ElDropdownMenu>
        </template>
      </ElDropdown>
    </div>
  </header>
</template>

<style scoped>
.read-as {
  display: inline-flex;
  border: 1px solid var(--rule-strong);
  border-radius: 4px;
  overflow: hidden;
}

.read-as button {
  border: 0;
  background: none;
  padding: 3px 10px;
  min-height: 28px;
  font: inherit;
  cursor: pointer;
}

.read-as button[aria-pressed='true'] {
  background: var(--act-soft);
  font-weight: 600;
}

header {
  display: flex;
  gap: 16px;
  align-items: baseline;
  padding: 15px 0 9px;
  border-bottom: 1px solid var(--rule);
}

.title {
  flex: 1;
  min-width: 0;
  display: flex;
  gap: 12px;
  align-items: baseline;
}

h1 {
  unicode-bidi: isolate;
  /* What it is called comes before what is said of it. */
  flex: 0 0 auto;
  max-width: 100%;
  font: 600 23px/1.25 var(--serif);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}

.about {
  color: var(--ink-2);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  flex: 0 1000 auto;
  min-width: 0;
}

.acts {
  display: flex;
  gap: 14px;
  align-items: baseline;
  white-space: nowrap;
}

.acts a.word {
  text-decoration: none;
}

@media (max-width: 1000px) {
  header,
  .acts {
    flex-wrap: wrap;
    row-gap: 4px;
  }

  .title {
    flex: 1 1 300px;
    flex-wrap: wrap;
    gap: 0 12px;
  }

  h1 {
    white-space: normal;
    overflow-wrap: anywhere;
  }

  .about {
    white-space: normal;
  }
}
</style>
