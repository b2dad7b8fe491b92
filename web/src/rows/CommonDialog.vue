<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, data, isAborted, latest, type Register } from '@/api/client'
import { counted, number } from '@/platform/format'
import { useRefusal } from '@/platform/useRefusal'
import { commonOf } from '@/statements/common'
import type { Offer } from '@/statements/narrowing'
import type { Node } from '@/statements/tree'
import { useChosenRecords } from './useChosenRecords'
import type { Question } from './useRows'

/** What the chosen records have in common: criteria that hold for all of them, those with the fewest others first. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  register: Register
  question: Question
  ids: string[]
  zone: string
  recordsAt?: string
}>()
const emit = defineEmits<{ narrow: [node: Node] }>()

const { rows, trouble: unread } = useChosenRecords(open, props)
/** how many records of the register each criterion has */
const counts = ref<Map<string, { alone: number; more: boolean }>>()
const counting = latest()
const { trouble, refused } = useRefusal()
const offers = computed(() =>
  commonOf(
    props.register.fields,
    rows.value.map((r) => r.values),
    props.zone,
  ),
)
const sorted = computed(() =>
  counts.value
    ? offers.value
        .map((offer) => ({ offer, count: counts.value!.get(offer.words) }))
        .sort((a, b) => (a.count?.alone ?? Infinity) - (b.count?.alone ?? Infinity))
    : [],
)

watch(offers, async (now) => {
  counts.value = undefined
  trouble.value = ''
  if (!now.length) return
  const { asOf, recordsAt, zone } = props.question
  try {
    const found = await counting.ask((signal, name) =>
      data(
        api.POST('/api/registers/{key}/parts', {
          params: { path: { key: props.register.key }, header: { 'X-Question': name } },
          body: { condition: { any: now.map((o) => o.node) }, asOf, recordsAt, zone },
          signal,
        }),
      ),
    )
    const parts = new Map(found.parts.map((p) => [p.path, { alone: p.alone, more: p.aloneMore }]))
    counts.value = new Map(
      now.flatMap((o, i) => {
        const count = parts.get(now.length === 1 ? '' : `/any/${i}`)
        return count ? [[o.words, count] as const] : []
      }),
    )
  } catch (e) {
    if (!isAborted(e)) refused(e)
  }
})

function take(offer: Offer) {
  open.value = false
  emit('narrow', offer.node)
}
</script>

<template>
  <ElDialog v-model="open" title="What they have in common" width="560px">
    <p v-if="trouble || unread" class="notice" role="alert">{{ trouble || unread }}</p>
    <p v-else-if="!rows.length || (offers.length && !counts)" role="status">Reading…</p>
    <p v-else-if="!offers.length">Nothing that could be asked for.</p>
    <ul v-else>
      <li v-for="{ offer, count } in sorted" :key="offer.words">
        <button type="button" class="plain offer" @click="take(offer)">{{ offer.words }}</button>{{ ' ' }}
        <span v-if="count" class="small"
          >{{ number(count.alone) }}{{ count.more ? '+' : '' }} of all {{ register.recordsLabel }}</span
        >
      </li>
    </ul>
    <p v-if="sorted.length" class="small">
      Each holds for the {{ counted(rows.length, register.recordLabel, register.recordsLabel) }}. A click
      narrows what you see by it.
    </p>
  </ElDialog>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0 0 10px;
}

li {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  gap: 12px;
  border-top: 1px solid var(--rule);
  padding: 4px 0;
}

.offer {
  color: var(--act);
  font-weight: 600;
  text-align: left;
  min-height: 24px;
  overflow-wrap: anywhere;
}

.small {
  color: var(--ink-2);
  white-space: nowrap;
}

p.small {
  white-space: normal;
}
</style>
