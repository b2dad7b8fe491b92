<script setup lang="ts">
import { computed, onBeforeUnmount, provide, ref, shallowRef, watch } from 'vue'
import { api, data, isAborted, latest, sentence, type ReadStatement, type Register } from '@/api/client'
import { number } from '@/platform/format'
import {
  actsOn,
  byPath,
  CHANGED_MEANWHILE,
  DESK,
  haveChanged,
  placing,
  type Opened,
  type Resting,
} from './desk'
import StatementPanel from './StatementPanel.vue'
import { EVERYTHING, type Change, type Node } from './tree'

/**
 * A statement that is built as the one of a view is, on a page that shows no records: what limits who sees what. Changes
 * are made one after the other, each of what those before it left.
 */
const props = defineProps<{
  register: Register
  /** the statement; empty for every record */
  modelValue: string
  zone: string
}>()
const emit = defineEmits<{ 'update:modelValue': [statement: string] }>()

const read = shallowRef<ReadStatement>()
const settling = ref(false)
const trouble = ref('')
const writing = ref(false)
const opened = ref<Opened>()
const tree = computed(() => (read.value?.condition ?? EVERYTHING) as Node)
const reading = latest()
const counting = latest()

/** how many records there are for whoever builds it */
const count = ref<{ matching: number; total: number }>()

/** Reads a statement, or says why it cannot be read; whether it was read. */
async function ask(body: { statement?: string; condition?: Node }): Promise<boolean> {
  settling.value = true
  trouble.value = ''
  try {
    read.value = await reading.ask((signal) =>
      data(
        api.POST('/api/registers/{key}/statement', {
          params: { path: { key: props.register.key } },
          body: { ...body, records: false },
          signal,
        }),
      ),
    )
    settling.value = false
    void recount(read.value.statement)
    return true
  } catch (e) {
    if (isAborted(e)) return false
    settling.value = false
    trouble.value = sentence(e)
    return false
  }
}

async function recount(statement: string) {
  count.value = undefined
  if (read.value?.asks.length) return
  try {
    const found = await counting.ask((signal, name) =>
      data(
        api.POST('/api/registers/{key}/count', {
          params: { path: { key: props.register.key }, header: { 'X-Question': name } },
          body: { statement },
          signal,
        }),
      ),
    )
    if (found.exact) count.value = found
  } catch {
    // The number is a help only; the statement stands without it.
  }
}

/** the statement in which the open part was pointed at */
let openedIn = tree.value
watch(opened, () => (openedIn = tree.value), { flush: 'sync' })

let queue = Promise.resolve()
/** Makes a change once those before it are made, of what they left. */
function change(make: Change, resting: Resting = {}): Promise<void> {
  const seen = resting.seen ?? tree.value
  queue = queue.then(async () => {
    const changed = haveChanged(seen, tree.value, resting.paths) ? undefined : make(tree.value)
    if (changed) await write({ condition: changed })
    else
      trouble.value = haveChanged(seen, tree.value, resting.paths)
        ? CHANGED_MEANWHILE
        : (resting.otherwise ?? '')
  })
  return queue
}

async function write(body: { statement?: string; condition?: Node }) {
  const was = opened.value
  if (!(await ask(body))) return
  // What was opened meanwhile stays open.
  if (opened.value === was) opened.value = undefined
  writing.value = false
  emit('update:modelValue', read.value!.statement)
}

watch(
  () => props.modelValue,
  (now) => {
    if (now !== read.value?.statement) void ask({ statement: now })
  },
  { immediate: true },
)
onBeforeUnmount(() => [reading, counting].forEach((one) => one.stop()))

provide(DESK, {
  ...actsOn(change, ref<string>()),
  register: computed(() => props.register),
  locked: ref(new Set<string>()),
  opened,
  asOf: ref(undefined),
  zone: computed(() => props.zone),
  findings: computed(() => byPath(read.value?.findings)),
  mend: (mend) => void write({ statement: mend.statement }),
  parts: ref(new Map()),
  matching: ref(undefined),
  open: (what) => (opened.value = what),
  close: () => (opened.value = undefined),
  apply: (node) => void change(...placing(opened.value!, node, openedIn)),
})
</script>

<template>
  <div class="builder">
    <StatementPanel
      v-model:writing="writing"
      :register="register"
      :outline="read?.outline"
      :statement="modelValue"
      :settling="settling"
      @write="write({ statement: $event })"
    />
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-else-if="count" class="hint">
      For you: {{ number(count.matching) }} of {{ number(count.total) }}. What is <em>my</em> is each reader’s
      own.
    </p>
  </div>
</template>

<style scoped>
.builder {
  border-left: 3px solid var(--rule-strong);
  padding: 4px 0 4px 14px;
  margin: 6px 0 10px;
}

.hint {
  color: var(--ink-2);
  font-size: 13.5px;
}
</style>
