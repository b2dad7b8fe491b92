<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import {
  api,
  data,
  isAborted,
  latest,
  sentence,
  type Outline,
  type Register,
  type Verdict,
  type WhyAnswer,
} from '@/api/client'
import { cell } from '@/platform/format'
import { announceEach } from '@/platform/announcements'
import { useDescribed } from '@/registers/useDescribed'

const props = defineProps<{
  register: Register
  /** the record that is open, if one is */
  id?: string
  statement: string
  asOf?: string
  recordsAt?: string
  zone: string
  answers?: Record<string, string>
  /** the statement's own words, by path */
  outline?: Outline
}>()
const emit = defineEmits<{ found: [id: string] }>()

const named = ref('')
const answer = ref<WhyAnswer>()
const trouble = ref('')
const asking = latest()
onBeforeUnmount(() => asking.stop())

const asIs = () =>
  JSON.stringify([
    props.register.key,
    props.statement,
    props.asOf,
    props.recordsAt,
    props.zone,
    props.answers,
  ])
/** the record that was asked about last, and under which question */
let found: { id: string; question: string } | undefined

async function ask(record: string) {
  trouble.value = ''
  const question = asIs()
  try {
    answer.value = (await asking.ask((signal) =>
      data(
        api.POST('/api/registers/{key}/why', {
          params: { path: { key: props.register.key } },
          body: {
            record,
            statement: props.statement,
            asOf: props.asOf,
            recordsAt: props.recordsAt,
            zone: props.zone,
            answers: props.answers,
          },
          signal,
        }),
      ),
    )) as WhyAnswer
    found = { id: answer.value.record.id, question }
    if (found.id !== props.id) emit('found', found.id)
  } catch (e) {
    if (isAborted(e)) return
    answer.value = undefined
    trouble.value = sentence(e)
  }
}

watch(
  () =>
    [
      props.id,
      props.register.key,
      props.statement,
      props.asOf,
      props.recordsAt,
      props.zone,
      JSON.stringify(props.answers),
    ].join('\u0001'),
  () => {
    const { id } = props
    // A record that was found by its number is opened; what is said of it stands.
    if (id !== undefined && id === found?.id && asIs() === found.question) return
    answer.value = undefined
    if (id !== undefined) void ask(String(id))
    else asking.stop()
  },
  { immediate: true },
)

const words = computed(() => {
  const found = new Map<string, string>()
  const walk = (part: Outline) => {
    found.set(part.path, [part.fieldWords, part.verb, part.object].filter(Boolean).join(' '))
    part.parts.forEach(walk)
  }
  if (props.outline) walk(props.outline)
  return found
})

interface Line {
  verdict: Verdict
  depth: number
  words: string
  value?: string
  /** what the value is calculated from */
  from?: string
  /** in which register no record has the value */
  nowhere?: string
}

const othersOf = (v: Verdict): string[] => [
  ...(v.other ? [v.other.register] : []),
  ...v.parts.flatMap(othersOf),
]
/** The registers of other records that were looked at. Without its description a value is left out. */
const others = useDescribed(() => (answer.value ? othersOf(answer.value.outcome) : []))

function fromWords({ field: key, value }: Verdict['from'][number]): string {
  const field = props.register.fields.find((f) => f.key === key)!
  return `${field.label} ${cell(field, value, props.zone)}`
}

const HEADS: Record<string, string> = { all: 'all of', any: 'any of', none: 'none of' }
const lines = computed<Line[]>(() => {
  const found: Line[] = []
  const walk = (v: Verdict, depth: number, register: Register | undefined) => {
    const field = register?.fields.find((f) => f.key === v.field)
    const there = v.path.endsWith('/where') && v.other ? v.other : undefined
    if (there)
      found.push({
        verdict: { ...v, path: v.path + '/record' },
        depth,
        words: `${there.title} of ${there.label}, which has it`,
      })
    const level = there ? depth + 1 : depth
    if (v.kind === 'criterion') {
      found.push({
        verdict: v,
        depth: level,
        words: words.value.get(v.path) || v.words,
        value: field ? cell(field, v.value, props.zone) : undefined,
        from: v.from.map(fromWords).join(', '),
        nowhere: there || v.value == null || v.value === '' ? undefined : v.other?.label,
      })
    } else if (v.kind !== 'off' && v.path !== '') {
      found.push({ verdict: v, depth: level, words: HEADS[v.kind] ?? v.kind })
    }
    const deeper = v.path === '' || v.kind === 'off' ? level : level + 1
    v.parts.forEach((p) =>
      walk(p, deeper, p.path.endsWith('/where') ? others.get(p.other?.register ?? '') : register),
    )
  }
  if (answer.value) walk(answer.value.outcome, 0, props.register)
  return found
})
const SAID = { IN: 'yes', OUT: 'no', OFF: 'off' }

const verdict = computed(() =>
  answer.value ? (answer.value.matches ? 'It is in this answer.' : 'It is not in this answer.') : '',
)
announceEach(() => verdict.value)
</script>

<template>
  <section class="why" aria-label="Why">
    <template v-if="answer">
      <p class="verdict">
        {{ verdict }}
      </p>
      <ul>
        <li
          v-for="line in lines"
          :key="line.verdict.path"
          :class="line.verdict.verdict.toLowerCase()"
          :style="{ marginLeft: line.depth * 14 + 'px' }"
        >
          <strong class="said">{{ SAID[line.verdict.verdict] }}</strong>{{ ' ' }}
          <span class="words">{{ line.words }}</span>
          <span v-if="line.value !== undefined" class="held">
            it has {{ line.value === '—' ? 'nothing there' : line.value
            }}<template v-if="line.from">, from {{ line.from }}</template
            ><template v-if="line.nowhere">; none of {{ line.nowhere }} has that</template
            ><template v-if="line.verdict.window">; the window is {{ line.verdict.window }}</template>
          </span>
        </li>
        <li v-if="!lines.length">There are no criteria: every {{ register.recordLabel }} is in.</li>
      </ul>
    </template>
    <form @submit.prevent="named.trim() && ask(named.trim())">
      <label for="why-named">Looking for one that is not here?</label>
      <p class="hint">Type its number and see what shuts it out.</p>
      <input id="why-named" v-model="named" class="field" autocomplete="off" />
    </form>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.verdict {
  font: 600 17px/1.3 var(--serif);
  margin-bottom: 8px;
}

ul {
  list-style: none;
  margin: 0 0 18px;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: 32px 1fr;
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}

.out .said {
  color: var(--alert);
}

.in .said {
  color: var(--act);
}

.off {
  color: var(--ink-3);
}

.off .words {
  text-decoration: line-through;
}

.words {
  font: 400 16px/1.35 var(--serif);
}

.held {
  grid-column: 2;
  color: var(--ink-2);
  font-size: 13.5px;
}

label {
  font-weight: 600;
}

.hint {
  color: var(--ink-2);
  font-size: 13.5px;
  margin-bottom: 5px;
}

.notice {
  margin-top: 8px;
}
</style>
