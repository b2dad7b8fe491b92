<script setup lang="ts">
import { computed, defineAsyncComponent, nextTick, onMounted, ref, watch } from 'vue'
import {
  api,
  data,
  isAborted,
  latest,
  sentence,
  type FieldDescription,
  type Register,
  type UsingView,
} from '@/api/client'
import type { components } from '@/api/schema'
import { cell, counted, isNumericType, typeWords } from '@/platform/format'
import { useSession } from '@/people/session'
import { overCalculations } from '@/statements/language'
import RestingView from '@/views/RestingView.vue'

const editor = () => import('@/statements/WordsEditor.vue')
const WordsEditor = defineAsyncComponent(editor)
// It is there when it is wanted: what is typed before that would be taken for the keys of the page.
onMounted(() => void editor())

/** How a calculated field comes to its value, and what comes out for some records. */
const props = defineProps<{
  register: Register
  /** the field that it is the calculation of; absent for a new one */
  field?: FieldDescription
  disabled?: boolean
  /**
   * it is of one question alone: no other view uses it, and it may come to be of another type; it is written in a form that has the
   * buttons
   */
  here?: boolean
}>()
const calculation = defineModel<string>({ required: true })
const emit = defineEmits<{ cancel: [] }>()
const session = useSession()

const writing = ref(props.here || !calculation.value)
const opener = ref<HTMLElement>()
const language = computed(() => overCalculations(props.register.key, props.field?.key))

async function leave(written?: string) {
  if (props.here) {
    if (written === undefined) emit('cancel')
    return
  }
  if (written !== undefined) calculation.value = written
  // A new one without any calculation stays open.
  writing.value = !(written ?? calculation.value)
  await nextTick()
  opener.value?.focus()
}

/** the views that ask for it or show it, also by way of what is calculated from it */
const resting = ref<UsingView[]>()
watch(writing, async (now) => {
  if (!now || !props.field || props.here || resting.value) return
  try {
    const use = await data(
      api.GET('/api/registers/{key}/fields/{field}/use', {
        params: { path: { key: props.register.key, field: props.field.key } },
      }),
    )
    resting.value = use.views
  } catch {
    // It can be changed without knowing who uses it; the list is not shown then.
  }
})

const tried = ref<components['schemas']['CalculationTried']>()
const trouble = ref('')
const asking = latest()
watch(
  calculation,
  async (text) => {
    trouble.value = ''
    if (!text) {
      // What came out before stays, dimmed, until the next text is read.
      if (!props.here) tried.value = undefined
      return
    }
    try {
      tried.value = await asking.ask((signal) =>
        data(
          api.POST('/api/registers/{key}/calculations/try', {
            params: { path: { key: props.register.key } },
            body: { calculation: text, field: props.field?.key ?? null },
            signal,
          }),
        ),
      )
    } catch (e) {
      if (isAborted(e)) return
      tried.value = undefined
      trouble.value = sentence(e)
    }
  },
  { immediate: true },
)

/** The type that it has to have: statements, columns and totals go by it. */
const otherType = computed(() =>
  props.field && !props.here && tried.value && tried.value.type !== props.field.type
    ? tried.value.type
    : undefined,
)
const named = computed(() => {
  const fields = tried.value?.fields ?? []
  return fields.flatMap((key) => props.register.fields.find((f) => f.key === key) ?? [])
})
const title = computed(() => props.register.fields.find((f) => f.key === props.register.titleField))
const columns = computed(() => [
  ...(title.value && !named.value.includes(title.value) ? [title.value] : []),
  ...named.value,
])
const outcome = (value: unknown) =>
  cell(
    {
      key: '',
      label: '',
      identifying: false,
      options: [],
      type: tried.value!.type,
    } as unknown as FieldDescription,
    value,
    session.zone,
  )
</script>

<template>
  <section class="calculation" aria-label="Calculation">
    <WordsEditor
      v-if="writing"
      :language="language"
      :statement="calculation"
      :live="here"
      label="Calculation"
      @typed="here && (calculation = $event ?? '')"
      @apply="leave($event)"
      @cancel="leave()"
    />
    <p v-else class="line">
      <code>{{ calculation }}</code>
      <button v-if="!disabled" ref="opener" type="button" class="quiet" @click="writing = true">
        Change the calculation
      </button>
    </p>
    <template v-if="writing && resting">
      <p v-if="!resting.length" class="small">No view uses it.</p>
      <details v-else>
        <summary>
          {{ counted(resting.length, 'view') }} {{ resting.length === 1 ? 'uses' : 'use' }} it, and will show
          what comes out once you save
        </summary>
        <RestingView v-for="v in resting" :key="v.view" :view="v" />
      </details>
    </template>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-if="otherType" class="notice" role="alert">
      What comes out of this is {{ typeWords(otherType) }}, and {{ field!.label }} is a
      {{ typeWords(field!.type) }} field. It cannot be saved so: add another field for it.
    </p>
    <div v-if="tried" class="tried" :class="{ stale: !calculation }">
      <p class="small">
        Gives: {{ typeWords(tried.type) }}.
        <template v-if="tried.changes"
          >Its value changes as time goes by, while the record stays as it is.</template
        >
      </p>
      <div v-if="tried.samples.length" class="samples" tabindex="0">
        <table>
          <caption class="small">
            {{
              tried.empty
                ? 'Nothing comes out for any record. The first are:'
                : 'The first records that something comes out for:'
            }}
          </caption>
          <thead>
            <tr>
              <th v-for="c in columns" :key="c.key" scope="col" :class="{ figure: isNumericType(c.type) }">
                {{ c.label }}
              </th>
              <th scope="col" class="out" :class="{ figure: isNumericType(tried.type) }">Comes out</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="s in tried.samples" :key="s.id">
              <td
                v-for="c in columns"
                :key="c.key"
                :class="{ figure: isNumericType(c.type) }"
                :title="isNumericType(c.type) ? undefined : cell(c, s.values[c.key], session.zone)"
              >
                {{ cell(c, s.values[c.key], session.zone) }}
              </td>
              <td
                class="out"
                :class="{ figure: isNumericType(tried.type) }"
                :title="isNumericType(tried.type) ? undefined : outcome(s.values[tried.column])"
              >
                {{ outcome(s.values[tried.column]) }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-else class="small">There are no records to try it on.</p>
    </div>
  </section>
</template>

<style scoped>
.calculation {
  margin-top: 8px;
}

.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: baseline;
}

.line code {
  font: 400 17px/1.5 var(--serif);
  overflow-wrap: anywhere;
}

.tried.stale {
  opacity: 0.45;
}

.samples {
  overflow-x: auto;
}

table {
  border-collapse: collapse;
  font-size: 14px;
}

caption {
  text-align: left;
  padding-bottom: 3px;
}

th,
td {
  text-align: left;
  padding: 3px 14px 3px 0;
  border-bottom: 1px solid var(--rule);
  white-space: nowrap;
  max-width: 240px;
  overflow: hidden;
  text-overflow: ellipsis;
}

th {
  font-weight: 400;
  color: var(--ink-2);
}

.figure {
  text-align: right;
  font-variant-numeric: tabular-nums;
}

.out {
  font-weight: 600;
  padding-right: 0;
}
</style>
