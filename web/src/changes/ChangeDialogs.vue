<script setup lang="ts">
import type { Register } from '@/api/client'
import CommonDialog from '@/rows/CommonDialog.vue'
import CompareDialog from '@/rows/CompareDialog.vue'
import RelatedDialog from '@/rows/RelatedDialog.vue'
import type { Question } from '@/rows/useRows'
import type { Node } from '@/statements/tree'
import TransactionDialog from '@/transactions/TransactionDialog.vue'
import ManyChangeDialog from './ManyChangeDialog.vue'
import ManyChangesDialog from './ManyChangesDialog.vue'
import SinceDialog from './SinceDialog.vue'
import type { useChanging } from './useChanging'

/** The dialogs about what is done with records at once, and what was done. */
const props = defineProps<{
  changing: ReturnType<typeof useChanging>
  register: Register
  question: Question
  /** the statement in words */
  words: string
  zone: string
  /** the day that it is */
  today: string
}>()
const emit = defineEmits<{ record: [id: string]; narrow: [node: Node] }>()
const { chosen, open, ofChosen, last, done } = props.changing
</script>

<template>
  <ManyChangeDialog
    v-model="open.change"
    :register="register"
    :question="question"
    :words="words"
    :chosen="ofChosen ? chosen : undefined"
    :zone="zone"
    @changed="done"
  />
  <ManyChangesDialog
    v-model="open.changes"
    :register="register"
    :zone="zone"
    :about="last?.change"
    @changed="done"
  />
  <SinceDialog
    v-model="open.since"
    :register="register"
    :question="question"
    :zone="zone"
    :today="today"
    @record="emit('record', $event)"
  />
  <CompareDialog
    v-model="open.compare"
    :register="register"
    :ids="chosen.meant.value.ids"
    :zone="zone"
    :records-at="question.recordsAt"
  />
  <TransactionDialog
    v-if="register.transactions"
    v-model="open.post"
    :register="register"
    :rules="register.transactions"
    :zone="zone"
    @posted="(words) => done(words)"
  />
  <RelatedDialog v-model="open.related" :register="register" :question="question" />
  <CommonDialog
    v-model="open.common"
    :register="register"
    :question="question"
    :ids="chosen.meant.value.ids"
    :zone="zone"
    :records-at="question.recordsAt"
    @narrow="emit('narrow', $event)"
  />
</template>
