<script setup lang="ts">
import { computed } from 'vue'
import PanelButton from '@/platform/PanelButton.vue'
import type { Register } from '@/api/client'
import { AS_LISTED, directionWords, orderWords, readOrder, writeOrder } from './orders'

const props = defineProps<{
  register: Register
  order: string[]
  /** the fields held against a list whose order the records can follow */
  listed?: string[]
}>()
const emit = defineEmits<{ order: [order: string[]] }>()

const field = (key: string) => props.register.fields.find((f) => f.key === readOrder(key).field)
const free = computed(() =>
  props.register.fields.filter((f) => f.orderable && !props.order.some((o) => readOrder(o).field === f.key)),
)

const words = computed(() => orderWords(props.register, props.order))

const following = computed(() => props.order[0]?.startsWith(AS_LISTED) ?? false)
const turn = (i: number) =>
  emit(
    'order',
    props.order.map((o, j) =>
      j === i ? writeOrder({ ...readOrder(o), descending: !readOrder(o).descending }) : o,
    ),
  )
const turnEmpties = (i: number) =>
  emit(
    'order',
    props.order.map((o, j) =>
      j === i ? writeOrder({ ...readOrder(o), emptiesFirst: !readOrder(o).emptiesFirst }) : o,
    ),
  )
const drop = (i: number) =>
  emit(
    'order',
    props.order.filter((_, j) => j !== i),
  )
const add = (key: string) => key && emit('order', following.value ? [key] : [...props.order, key])
</script>

<template>
  <span class="order">
    by
    <PanelButton
      name="Order"
      :width="380"
      placement="bottom-start"
      class="phrase"
      :aria-label="`${words || 'record number, newest first'}: change the order`"
    >
      <template #button>{{ words || 'record number, newest first' }}</template>
      <p v-for="key in listed" :key="key" class="listed">
        <button type="button" class="word" @click="emit('order', following ? [] : [AS_LISTED + key])">
          {{
            following
              ? 'Leave the order of the list'
              : `As listed: in the order of the list of ${field(key)?.label}`
          }}
        </button>
      </p>
      <ul v-if="!following">
        <li v-for="(o, i) in order" :key="o">
          <span class="name">{{ field(o)?.label ?? o }}</span>
          <button type="button" class="word" @click="turn(i)">
            {{ directionWords(field(o)?.type, readOrder(o).descending) }}
          </button>
          <button
            v-if="field(o) && !field(o)!.required"
            type="button"
            class="word"
            :aria-label="`empties ${readOrder(o).emptiesFirst ? 'first' : 'last'}: where records without ${field(o)!.label} come`"
            @click="turnEmpties(i)"
          >
            empties {{ readOrder(o).emptiesFirst ? 'first' : 'last' }}
          </button>
          <button
            type="button"
            class="word"
            :aria-label="`remove ${field(o)?.label} from the order`"
            @click="drop(i)"
          >
            remove
          </button>
        </li>
      </ul>
      <select
        class="field"
        aria-label="Then by"
        value=""
        @change="add(($event.target as HTMLSelectElement).value)"
      >
        <option value="">{{ order.length ? 'then by…' : 'order by…' }}</option>
        <option v-for="f in free" :key="f.key" :value="f.key">{{ f.label }}</option>
      </select>
    </PanelButton>
  </span>
</template>

<style scoped>
.order {
  font: 400 19.5px/29px var(--serif);
  color: var(--ink-3);
}

.order :deep(.phrase) {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  text-align: left;
  color: var(--ink);
  cursor: pointer;
  border-bottom: 1px solid var(--act-line);
  line-height: 24px;
}

ul {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}

li {
  display: flex;
  gap: 10px;
  align-items: baseline;
}

.name {
  flex: 1;
}

.hint {
  color: var(--ink-2);
  font-size: 13.5px;
  margin-top: 6px;
}
</style>
