<script setup lang="ts">
import { computed, defineAsyncComponent, nextTick, onMounted, ref, watch } from 'vue'
import type { Register } from '@/api/client'
import type { Shape } from '@/rows/shape'
import type { TotalsFigure, TotalsFinding } from './sheet'
import { overFigures } from './useTotals'

const editor = () => import('@/statements/WordsEditor.vue')
const WordsEditor = defineAsyncComponent(editor)
// It is there when it is wanted: what is typed before that would be taken for the keys of the page.
onMounted(() => void editor())

/** The criteria on figures, apart from those on records: what rows are left out by once everything is added up. */
const props = defineProps<{
  register: Register
  shape: Shape
  /** those there are, for the words of the criteria */
  figures: TotalsFigure[]
  /** criteria on records that may have been meant to be on figures */
  findings?: TotalsFinding[]
  /** whether these can be put where they may belong: not where the statement has blanks, whose answers it would be written with */
  mendable?: boolean
}>()
const emit = defineEmits<{ keep: [statement: string]; mend: [finding: TotalsFinding] }>()

const writing = ref(false)
const opener = ref<HTMLElement>()
const keep = computed(() => props.shape.totals?.keep ?? '')
/** What people call the figures, also while others are on their way. */
const labels = ref(new Map<string, string>())
watch(
  () => props.figures,
  (now) => {
    if (now.length) labels.value = new Map(now.map((f) => [f.name, f.label]))
  },
  { immediate: true },
)
/** The same with the figures by what people call them. */
const words = computed(() => {
  // What stands in quotes is a value.
  return keep.value.replace(/"(?:\\.|[^"\\])*"|\w+/g, (word) => labels.value.get(word) ?? word)
})
const language = computed(() => overFigures(props.register.key, props.shape))

async function write() {
  await editor()
  writing.value = true
}
async function leave(statement?: string) {
  writing.value = false
  if (statement !== undefined && statement !== keep.value) emit('keep', statement)
  await nextTick()
  opener.value?.focus()
}
</script>

<template>
  <section class="keep" aria-label="Criteria on figures">
    <template v-if="writing">
      <p class="lead">Only rows where</p>
      <WordsEditor
        :language="language"
        :statement="keep"
        label="Criteria on figures"
        @apply="leave($event)"
        @cancel="leave()"
      />
      <p class="small">
        The statement above leaves records out before anything is added up; this leaves rows out afterwards.
      </p>
    </template>
    <p v-else class="line">
      <span v-if="keep">Only rows where </span>
      <button ref="opener" type="button" :class="keep ? 'phrase' : 'add'" @click="write()">
        {{ words || 'only rows where…' }}
      </button>
      <button v-if="keep" type="button" class="word" @click="emit('keep', '')">show all rows</button>
      <span class="small">held after adding up</span>
    </p>
    <p v-for="f in findings" :key="f.keep" class="small">
      {{ f.message }}
      <button v-if="mendable" type="button" class="word mend" @click="emit('mend', f)">
        Hold it after adding up
      </button>
    </p>
  </section>
</template>

<style scoped>
.keep {
  padding: 2px 0 8px;
}

.line {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: baseline;
}

.line,
.lead {
  font: 400 17px/1.5 var(--serif);
}

.phrase,
.add {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  cursor: pointer;
  border-bottom: 1px solid var(--act-line);
}

.add {
  color: var(--act);
  font-style: italic;
  border-bottom: 1px dashed var(--act-line);
}

.word {
  font: 400 14px/1.4 var(--sans);
}

.mend {
  padding: 0;
  color: var(--act);
  text-decoration: underline;
}

.small {
  color: var(--ink-2);
  font: 400 13.5px/1.4 var(--sans);
}
</style>
