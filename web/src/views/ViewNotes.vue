<script setup lang="ts">
import { computed } from 'vue'
import type { Own, Register, Together, Unsaved, View } from '@/api/client'
import RefinedNote from './RefinedNote.vue'
import { useSession } from '@/people/session'
import { moment } from '@/platform/format'
import { useViews } from './store'
import TogetherNote from './TogetherNote.vue'
import { announceEach } from '@/platform/announcements'

/** What is to be known about a view before its answer is read: what it is for, what is hidden, who else is at it. */
const props = defineProps<{
  register: Register
  view?: View
  own?: Own
  refined?: NonNullable<Own['refined']>
  asShared: boolean
  together?: Together
  /** whether the view was deleted or closed while the page was open */
  gone: boolean
  /** changes of an earlier time that were neither saved nor discarded */
  unsaved?: Unsaved
  /** whether there are changes on the page that are not saved */
  changed: boolean
  /** whether the page asks something that leaves a locked part out */
  unlocked: boolean
}>()
const emit = defineEmits<{
  takeNewer: []
  asShared: [wanted: boolean]
  drop: []
  showUnsaved: []
  discardUnsaved: []
}>()
const views = useViews()
const session = useSession()
/** The time of day of changes of today, the day too of older ones. */
const unsavedAt = computed(() => {
  const at = props.unsaved && moment(props.unsaved.at, session.zone)
  const today = session.current && moment(session.current.now, session.zone)
  return at && at.split(',')[0] === today?.split(',')[0] ? at.split(', ')[1] : at
})

/** What of the register the reader does not see. */
const limited = computed(() => {
  const { limitsInWords: limits, hiddenFields } = props.register
  const records = limits.length ? `You see only the records for which ${limits.join(', or ')}` : ''
  const fields =
    hiddenFields && `${hiddenFields} of its fields ${hiddenFields > 1 ? 'are' : 'is'} not shown to you`
  return [records, fields].filter(Boolean).join('; ')
})
const NOT_SAID_BY_THE_STATEMENT = [
  'unused',
  'shared-with-gone',
  'owner-gone',
  'unfit',
  'fields-gone',
  'shape-unfit',
  'table-gone',
  'table-changed',
  'unreachable',
]
/** What the nightly look found beside what the statement itself says, for those who can see to it. */
const atNight = computed(() =>
  props.view?.may === 'MANAGE'
    ? (views.use[props.view.id]?.attention ?? []).filter((n) => NOT_SAID_BY_THE_STATEMENT.includes(n.code))
    : [],
)

announceEach(() => (props.gone ? 'This view was deleted, or is no longer shared with you.' : ''))
</script>

<template>
  <p v-if="unsaved" class="unsaved">
    You have unsaved changes from {{ unsavedAt }}.
    <button type="button" class="word" @click="emit('showUnsaved')">Show them</button>
    <button type="button" class="word" @click="emit('discardUnsaved')">Discard them</button>
  </p>
  <p v-if="view && (view.purpose || view.labels.length)" class="note">
    {{ view.purpose }}
    <RouterLink
      v-for="l in view.labels"
      :key="l"
      class="label"
      :to="{ path: '/views', query: { label: l } }"
      >{{ l }}</RouterLink
    >
  </p>
  <p v-if="limited" class="note limited">{{ limited }}.</p>
  <p v-for="g in register.gaps" :key="g" class="note alert">{{ g }}</p>
  <p v-if="gone" class="note alert">
    This view was deleted just now, or is no longer shared with you. What you see is still yours to keep as a
    copy.
  </p>
  <TogetherNote
    v-if="view && together && !gone"
    :together="together"
    :view="view"
    :changed="changed"
    @theirs="emit('takeNewer')"
  />
  <RefinedNote
    v-if="view"
    :refined="refined"
    :as-shared="asShared"
    :has="Boolean(own?.refined)"
    :owner="view.changedBy.fullName"
    @as-shared="emit('asShared', $event)"
    @drop="emit('drop')"
  />
  <p v-for="n in atNight" :key="n.message" class="note alert">{{ n.message }}</p>
  <p v-if="unlocked" class="note alert">
    This leaves out a part that whoever manages the view has locked: it is a question of your own now. Keep a
    copy, or step back.
  </p>
</template>

<style scoped>
.note {
  color: var(--ink-2);
  padding-top: 7px;
}

.label {
  border: 1px solid var(--rule-strong);
  border-radius: 10px;
  padding: 0 8px;
  margin-left: 6px;
  color: var(--ink-2);
  text-decoration: none;
  font-size: 13.5px;
}

.unsaved {
  display: flex;
  gap: 12px;
  padding-top: 7px;
}

.limited {
  color: var(--viewer);
}

.alert {
  color: var(--alert);
}
</style>
