<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { api, data, isAborted, latest, sentence, type Edge, type Outline, type Register } from '@/api/client'
import { counted, cell } from '@/platform/format'
import { partAt, partWords } from '@/statements/words'
import { askedOf, type Question } from './useRows'
import { announceEach } from '@/platform/announcements'

const props = defineProps<{
  register: Register
  question: Question
  outline?: Outline
  zone: string
  selected?: string
}>()
const emit = defineEmits<{ select: [id: string] }>()

const edges = ref<Edge[]>()
const trouble = ref('')
const asking = latest()

const slow = ref(false)
/** What the edges depend on; the order and the columns of the page change nothing about them. */
const asked = computed(() => ({ register: props.question.register, body: askedOf(props.question) }))
watch(() => JSON.stringify(asked.value), load, { immediate: true })
onBeforeUnmount(() => asking.stop())

async function load() {
  trouble.value = ''
  // Edges of the question before must not stand beside the records of this one.
  edges.value = undefined
  const timer = window.setTimeout(() => (slow.value = true), 300)
  const { register, body } = asked.value
  try {
    edges.value = await asking.ask((signal, name) => {
      const params = { path: { key: register }, header: { 'X-Question': name } }
      return data(api.POST('/api/registers/{key}/edges', { params, body, signal }))
    })
  } catch (e) {
    if (!isAborted(e)) trouble.value = sentence(e)
  } finally {
    window.clearTimeout(timer)
    if (JSON.stringify(asked.value) === JSON.stringify({ register, body })) slow.value = false
  }
}
function stop() {
  asking.stop()
  trouble.value = 'Stopped.'
}

/** The criterion as the page says it. */
function words(edge: Edge): string {
  const part = partAt(props.outline, edge.path)
  const said = part ? partWords(part) : edge.statement
  // Those of a field that stands for a statement are of the fields in that.
  return part && part.field !== edge.field ? `${said}, by ${edge.label}` : said
}

type Boundary = Edge['boundaries'][number]
type Near = Boundary['inside']
interface Line {
  key: string
  id?: string
  name: string
  value: string
  note: string
  in: boolean
}

/** A boundary as it is read from above to below: what lies below it in value comes first. */
function lines(edge: Edge, boundary: Boundary): { above: Line[]; below: Line[] } {
  const field = props.register.fields.find((f) => f.key === edge.field)
  const make = (near: Near, inside: boolean): Line[] => [
    ...near.rows.map((r, i) => ({
      key: `${inside}${r.record.id}`,
      id: r.record.id,
      name: String(r.record.values[props.register.fields[0]!.key] ?? r.record.id),
      value: shown(edge, r.value),
      // What else lets a record in, or leaves it out, is not this boundary's doing.
      note: i === 0 && r.matches === inside ? note(boundary, inside) : '',
      in: r.matches,
    })),
    ...near.values.map((v) => ({
      key: `${inside}${String(v.value)}`,
      name: field ? cell(field, v.value, props.zone) : String(v.value),
      value: counted(v.count, 'record'),
      note: '',
      in: v.matches,
    })),
  ]
  const inside = make(boundary.inside, true)
  const outside = make(boundary.outside, false)
  return boundary.begins
    ? { above: outside.reverse(), below: inside }
    : { above: inside.reverse(), below: outside }
}

/** Which one it is, read from above to below: where the answer begins, the last one out comes before the first one in. */
function note(boundary: Boundary, inside: boolean): string {
  if (boundary.begins) return inside ? 'first one in' : 'last one out'
  return inside ? 'last one in' : 'first one out'
}

/** A value by the field that is really compared: of a span, its start or end. */
function shown(edge: Edge, value: unknown): string {
  const own = props.register.fields.find((f) => f.key === edge.field)
  const ends = own?.ends
  const field = ends ? props.register.fields.find((f) => f.key === ends.start) : own
  return field ? cell(field, value, props.zone) : String(value)
}

function says(boundary: Boundary): string {
  const exactly = boundary.belongs ? 'counts' : 'does not count'
  if (typeof boundary.at === 'number') return `${boundary.words} ${exactly}`
  return `${boundary.words}: ${boundary.begins ? 'begins' : 'ends'} here`
}

announceEach(
  () => edges.value && `The edges of ${counted(edges.value.length, 'criterion', 'criteria')} are shown.`,
)
</script>

<template>
  <section class="edges" aria-label="Edges">
    <p v-if="trouble" class="notice" role="alert">
      {{ trouble }} <button type="button" class="quiet" @click="load">Look again</button>
    </p>
    <p v-else-if="slow" class="hint">
      Looking for the edges… <button type="button" class="word" @click="stop">Stop</button>
    </p>
    <p v-else-if="edges && !edges.length" class="hint">
      No criterion here has a boundary: there is no date window, no time and no more or less.
    </p>
    <div v-for="edge in edges" :key="`${edge.path} ${edge.field}`" class="edge">
      <h2>{{ words(edge) }}</h2>
      <template v-for="(b, i) in edge.boundaries" :key="i">
        <ul>
          <li v-for="line in lines(edge, b).above" :key="line.key" :class="{ in: line.in }">
            <button v-if="line.id !== undefined" type="button" @click="emit('select', line.id!)">
              {{ line.name }}
            </button>
            <span v-else class="name">{{ line.name }}</span>{{ ' ' }}
            <span class="value"
              >{{ line.value }}<i v-if="line.note"> · {{ line.note }}</i></span
            >
          </li>
          <li v-if="!lines(edge, b).above.length" class="none">nothing on this side</li>
        </ul>
        <p class="boundary">{{ says(b) }}</p>
        <ul>
          <li v-for="line in lines(edge, b).below" :key="line.key" :class="{ in: line.in }">
            <button v-if="line.id !== undefined" type="button" @click="emit('select', line.id!)">
              {{ line.name }}
            </button>
            <span v-else class="name">{{ line.name }}</span>{{ ' ' }}
            <span class="value"
              >{{ line.value }}<i v-if="line.note"> · {{ line.note }}</i></span
            >
          </li>
          <li v-if="!lines(edge, b).below.length" class="none">nothing on this side</li>
        </ul>
      </template>
      <template v-if="edge.empties.rows.length">
        <p class="boundary empties">without {{ edge.label.toLowerCase() }}</p>
        <ul>
          <li v-for="r in edge.empties.rows" :key="r.record.id" :class="{ in: r.matches }">
            <button type="button" @click="emit('select', r.record.id)">
              {{ r.record.values[register.fields[0]!.key] ?? r.record.id }}</button>{{ ' ' }}
            <span class="value">— · {{ r.matches ? 'let in' : 'left out' }}</span>
          </li>
        </ul>
      </template>
    </div>
  </section>
</template>

<style scoped>
.edge {
  border-bottom: 1px solid var(--rule);
  padding-bottom: 12px;
  margin-bottom: 12px;
}

h2 {
  font: 600 14.5px/1.35 var(--sans);
  margin-bottom: 6px;
  overflow-wrap: anywhere;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 8px;
  align-items: baseline;
  padding: 2px 0;
  color: var(--ink-3);
  font-variant-numeric: tabular-nums;
}

li.in {
  color: var(--ink);
}

li.none {
  display: block;
  font-style: italic;
}

li button,
li .name {
  border: 0;
  background: none;
  padding: 0;
  min-height: 24px;
  font: inherit;
  color: inherit;
  text-align: left;
  white-space: nowrap;
}

li button {
  cursor: pointer;
  text-decoration: underline;
  text-decoration-color: var(--rule-strong);
  text-underline-offset: 3px;
}

.value {
  line-height: 24px;
}

.value i {
  font-style: normal;
}

.boundary {
  border-top: 2px solid var(--time-line);
  color: var(--time);
  font-weight: 600;
  font-size: 13.5px;
  padding: 3px 0;
  margin-top: 3px;
}

.empties {
  border-top: 1px dashed var(--rule-strong);
  color: var(--ink-2);
}

.hint {
  color: var(--ink-2);
}
</style>
