<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, ref } from 'vue'
import {
  api,
  data,
  Problem,
  sentence,
  type FieldDescription,
  type Register,
  type TypePreview,
  type UsingView,
} from '@/api/client'
import { cell, counted, number, typeWords } from '@/platform/format'
import { staying } from '@/platform/staying'
import { useSession } from '@/people/session'
import RestingView from '@/views/RestingView.vue'
import { DURATION_UNITS } from '@/imports/plan'
import { FIELD_TYPES } from './fieldTypes'
import { announceRested } from '@/platform/announcements'

/** Gives a field another type, once it is said what becomes of its values and of what rests on it. */
const props = defineProps<{ register: Register }>()
const emit = defineEmits<{ changed: [field: FieldDescription, former: string] }>()
const session = useSession()

type Order = NonNullable<TypePreview['order']>
type Decimal = NonNullable<TypePreview['decimal']>
type Unit = NonNullable<TypePreview['unit']>

const open = ref(false)
const field = ref<FieldDescription>()
const type = ref('')
/** how texts are read, where whoever changes the type says so */
const order = ref<Order>()
const decimal = ref<Decimal>()
const unit = ref<Unit>()
const preview = ref<TypePreview>()
const views = ref<UsingView[]>([])
const { busy, trouble, act } = useActing()

const types = computed(() => FIELD_TYPES.filter((t) => t !== field.value?.type))

/** Opens the dialog about a field. */
function ask(about: FieldDescription) {
  field.value = about
  open.value = true
  choose('')
}

function choose(wanted: string) {
  type.value = wanted
  order.value = decimal.value = unit.value = undefined
  void look()
}
function readAs(how: { order?: Order; decimal?: Decimal; unit?: Unit }) {
  order.value = how.order
  decimal.value = how.decimal
  unit.value = how.unit
  void look()
}

const wanted = () => ({
  type: type.value,
  order: order.value ?? null,
  decimal: decimal.value ?? null,
  unit: unit.value ?? null,
})
/** what is wanted, anew each time: an answer about another is not shown */
const asked = ref({})
const looking = staying(() => asked.value)

/** Says what the type would do. Whatever was looked at before is not shown any more. */
async function look() {
  asked.value = {}
  const stays = looking()
  preview.value = undefined
  views.value = []
  trouble.value = ''
  if (!type.value) return
  const path = { key: props.register.key, field: field.value!.key }
  try {
    const [found, without] = await Promise.all([
      data(
        api.POST('/api/registers/{key}/fields/{field}/type/preview', { params: { path }, body: wanted() }),
      ),
      data(
        api.GET('/api/registers/{key}/fields/{field}/type/views', {
          params: { path, query: { type: type.value } },
        }),
      ),
    ])
    if (stays()) [preview.value, views.value] = [found, without]
  } catch (e) {
    if (stays()) trouble.value = sentence(e)
  }
}

async function change() {
  const about = field.value!
  await act(
    async () => {
      const done = await data(
        api.PUT('/api/registers/{key}/fields/{field}/type', {
          params: { path: { key: props.register.key, field: about.key } },
          body: {
            // As it was read in the preview, so that nothing is guessed anew.
            wanted: {
              type: type.value,
              order: preview.value!.order ?? null,
              decimal: preview.value!.decimal ?? null,
              unit: preview.value!.unit ?? null,
            },
            unread: preview.value!.unread,
            version: props.register.version,
          },
        }),
      )
      open.value = false
      emit('changed', about, done.former)
    },
    async (e) => {
      if (e instanceof Problem && e.code === 'more-unread') {
        await look()
        trouble.value = 'Records were changed meanwhile. Nothing was changed; look at it once more.'
      } else if (e instanceof Problem && e.code === 'changed-meanwhile') {
        trouble.value += ' Load the page again first.'
      }
    },
  )
}

/** The field as it would be, for writing its values as people read them. */
const after = computed(() => ({ ...field.value!, type: type.value }))
const undecided = computed(() => preview.value?.ask ?? false)

/** What whoever changes the type may say of how texts are read, where that matters. */
const readings = computed(() => {
  const { order: day, decimal: sign } = preview.value ?? {}
  const days = {
    asks: 'Which is the day?',
    unsaid: 'Nothing in its values says which is the day:',
    options: (['DAY_FIRST', 'MONTH_FIRST'] as const).map((order) => ({
      words: order === 'DAY_FIRST' ? 'the day first' : 'the month first',
      chosen: day === order,
      how: { order },
    })),
  }
  const numbers = {
    asks: 'How are numbers written?',
    unsaid: 'Nothing in its values says how they are written:',
    options: (['POINT', 'COMMA'] as const).map((decimal) => ({
      words: `decimals behind a ${decimal === 'POINT' ? 'point' : 'comma'}`,
      chosen: sign === decimal,
      how: { decimal },
    })),
  }
  const lengths = {
    asks: 'What are its numbers?',
    unsaid: 'Nothing in its values says what the numbers are:',
    options: DURATION_UNITS.map((unit) => ({
      words: unit.toLowerCase(),
      chosen: preview.value?.unit === unit,
      how: { unit },
    })),
  }
  const units = type.value === 'duration' && ['number', 'money'].includes(field.value?.type ?? '')
  return [...(day ? [days] : []), ...(sign ? [numbers] : []), ...(units ? [lengths] : [])]
})

defineExpose({ ask })

announceRested(() =>
  preview.value
    ? `${number(preview.value.values - preview.value.unread)} of ${counted(preview.value.values, 'value')} fit the type ${typeWords(type.value)}.`
    : '',
)
</script>

<template>
  <ElDialog v-model="open" :title="`Type of ${field?.label}`" width="660px">
    <label class="choice">
      {{ field && typeWords(field.type) }} becomes
      <select
        :value="type"
        class="field"
        aria-label="New type"
        @change="choose(($event.target as HTMLSelectElement).value)"
      >
        <option value="">choose a type…</option>
        <option v-for="t in types" :key="t" :value="t">{{ typeWords(t) }}</option>
      </select>
    </label>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-if="type && !preview && !trouble" class="small">Reading its values…</p>
    <template v-if="preview">
      <div v-if="preview.needed.length" class="notice">
        <p v-for="reason in preview.needed" :key="reason">{{ reason }}</p>
      </div>
      <div v-for="r in readings" :key="r.asks" class="reading" role="group" :aria-label="r.asks">
        <span :class="{ alert: undecided }">{{ undecided ? r.unsaid : 'Read with' }}</span>
        <button
          v-for="o in r.options"
          :key="o.words"
          type="button"
          class="quiet"
          :aria-pressed="!undecided && o.chosen"
          @click="readAs(o.how)"
        >
          {{ o.words }}
        </button>
      </div>
      <p>
        <template v-if="!preview.values">No record has a value of it.</template>
        <template v-else-if="!preview.unread">
          All {{ number(preview.values) }} values fit the type {{ typeWords(type) }}.
        </template>
        <template v-else>
          {{ number(preview.values - preview.unread) }} of {{ number(preview.values) }} values fit the type
          {{ typeWords(type) }}.
          <strong class="alert">
            {{ counted(preview.unread, 'record') }} {{ preview.unread === 1 ? 'has' : 'have' }} one that does
            not, and would be without.
          </strong>
        </template>
      </p>
      <div
        v-if="preview.values"
        class="scrolls"
        tabindex="0"
        role="region"
        aria-label="What becomes of its values"
      >
        <table class="values">
          <thead>
            <tr>
              <th scope="col">Value</th>
              <th scope="col">becomes</th>
              <th scope="col" class="numeric">Records</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="v in preview.odd" :key="v.was">
              <td>{{ v.was }}</td>
              <td class="alert">{{ v.reason }}</td>
              <td class="numeric">{{ number(v.records) }}</td>
            </tr>
            <tr v-for="v in preview.read" :key="v.was">
              <td>{{ v.was }}</td>
              <td>{{ cell(after, v.becomes, session.zone) }}</td>
              <td class="numeric">{{ number(v.records) }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="preview.different > preview.read.length + preview.odd.length" class="small">
          The most frequent of {{ counted(preview.different, 'different value') }}.
        </p>
      </div>
      <p v-for="f in preview.follows" :key="f">{{ f }}</p>
      <p class="small">
        The values as they are now are kept, under <em>Removed</em>. While they are read, nobody can change
        records of {{ register.label }}.
      </p>
      <RestingView v-for="v in views" :key="v.view" :view="v">
        <p v-if="v.criteria.length" class="alert">
          This does not fit {{ typeWords(type) }}. The view shows nothing until somebody changes it.
        </p>
        <p v-else>It is ordered, grouped or added up by the field; it goes on without.</p>
      </RestingView>
    </template>
    <template #footer>
      <button type="button" class="word" @click="open = false">Cancel</button>
      <button
        type="button"
        class="act"
        :disabled="busy || !preview || preview.needed.length > 0 || undecided"
        @click="change"
      >
        {{ busy ? 'Changing…' : 'Change the type' }}
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
.choice {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 10px;
}

.choice .field {
  width: auto;
}

.reading {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  margin-bottom: 8px;
}

.alert {
  color: var(--alert);
}

.scrolls {
  max-height: 260px;
  overflow: auto;
  margin: 8px 0;
  border-block: 1px solid var(--rule);
}

.values {
  width: 100%;
  border-collapse: collapse;
}

.values th {
  text-align: left;
  font-weight: 600;
  color: var(--ink-2);
}

.values th,
.values td {
  padding: 3px 10px 3px 0;
  vertical-align: top;
  overflow-wrap: anywhere;
}

.values .numeric {
  text-align: right;
  white-space: nowrap;
}

.act {
  margin-left: 10px;
}
</style>
