<script setup lang="ts">
import { computed, onBeforeUnmount, provide, ref, shallowRef, watch, type Ref } from 'vue'
import {
  api,
  data,
  isAborted,
  latest,
  sentence,
  type Finding,
  type ReadStatement,
  type Register,
} from '@/api/client'
import { number } from '@/platform/format'
import { DESK, type Opened } from './desk'
import StatementPanel from './StatementPanel.vue'
import * as trees from './tree'
import type { Change, Node } from './tree'

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
const dragged = ref<string>()
const tree = computed(() => (read.value?.condition ?? trees.EVERYTHING) as Node)
const reading = latest()
const counting = latest()

/** how many records there are for whoever builds it */
const count = ref<{ matching: number; total: number }>()

async function ask(body: { statement?: string; condition?: Node }) {
  settling.value = true
  trouble.value = ''
  try {
    read.value = await reading.ask((signal) =>
      data(
        api.POST('/api/registers/{key}/statement', {
          params: { path: { key: props.register.key } },
          body: { ...body, records: false } as never,
          signal,
        }),
      ),
    )
    settling.value = false
    void recount(read.value.statement)
  } catch (e) {
    if (isAborted(e)) return
    settling.value = false
    trouble.value = sentence(e)
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

let queue = Promise.resolve()
/** Makes a change once those before it are made. */
function change(make: Change, otherwise = '') {
  queue = queue.then(async () => {
    const changed = make(tree.value)
    if (!changed) {
      trouble.value = otherwise
      return
    }
    await ask({ condition: changed })
    if (trouble.value) return
    opened.value = undefined
    emit('update:modelValue', read.value!.statement)
  })
}

async function write(statement: string) {
  await ask({ statement })
  if (trouble.value) return
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
  register: computed(() => props.register) as Ref<Register>,
  locked: ref(new Set<string>()),
  opened,
  asOf: ref(undefined),
  zone: computed(() => props.zone),
  findings: computed(() => {
    const found = new Map<string, Finding[]>()
    for (const f of read.value?.findings ?? []) found.set(f.path, [...(found.get(f.path) ?? []), f])
    return found
  }),
  mend: (mend) => void write(mend.statement),
  parts: ref(new Map()),
  matching: ref(undefined),
  open: (what) => (opened.value = what),
  close: () => (opened.value = undefined),
  apply: (node) => {
    const { path, adds } = opened.value!
    change((now) => (adds ? trees.add(now, path, adds, node) : trees.replace(now, path, node)))
  },
  take: (nodes) => change((now) => nodes.reduce((all, node) => trees.add(all, '', 'all', node), now)),
  toggleOff: (path) => change((now) => trees.toggleOff(now, path)),
  remove: (path) => change((now) => trees.remove(now, path)),
  regroup: (path, kind) => change((now) => trees.regroup(now, path, kind)),
  joinNext: (path) => change((now) => trees.joinNext(now, path, 'any')),
  move: (path, by) => change((now) => trees.move(now, path, by)),
  moveIn: (path) => change((now) => trees.moveIn(now, path)),
  moveOut: (path) => change((now) => trees.moveOut(now, path)),
  duplicate: (path) => change((now) => trees.duplicate(now, path)),
  wrap: (path, kind) => change((now) => trees.wrap(now, path, kind)),
  unwrap: (path) =>
    change((now) => trees.unwrap(now, path), 'The parts of this group would ask something else without it.'),
  dragged,
  drop: (path, before) => {
    const from = dragged.value
    dragged.value = undefined
    if (from !== undefined) change((now) => trees.moveTo(now, from, path, before))
  },
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
      @write="write"
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
