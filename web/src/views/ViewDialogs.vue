<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, data, type Profile, type Reliance } from '@/api/client'
import { useSession } from '@/people/session'
import type { TotalsFigure } from '@/totals/sheet'
import AccessCheck from './AccessCheck.vue'
import BesideDialog from './BesideDialog.vue'
import ConflictDialog from './ConflictDialog.vue'
import HistoryDialog from './HistoryDialog.vue'
import KeepDialog from './KeepDialog.vue'
import RelianceNote from './RelianceNote.vue'
import ReviewDialog from './ReviewDialog.vue'
import ShareDialog from './ShareDialog.vue'
import { sharing } from './store'
import type { useKeeping } from './useKeeping'
import type { useQuestion } from './useQuestion'

/** Everything that is asked before a view is kept, shared, changed for others, put back or deleted. */
const props = defineProps<{
  question: ReturnType<typeof useQuestion>
  keeping: ReturnType<typeof useKeeping>
  /** those of the totals on the page */
  figures: TotalsFigure[]
}>()
const emit = defineEmits<{ said: [words: string] }>()
const { register, view, read, where, answers, changed } = props.question
const {
  keepOpen,
  keepAs,
  keepRefusal,
  shareOpen,
  historyOpen,
  accessOpen,
  reviewOpen,
  conflictOpen,
  deleteOpen,
  besideOpen,
  theirs,
  busy,
  startKeeping,
  keep,
  keepChanges,
  openTheirs,
  putBack,
  remove,
  shared,
} = props.keeping
const session = useSession()
const TITLES = { new: 'Save as a new view', copy: 'Keep a copy', rename: 'Name, purpose and labels' }

/** Those whose access can be looked at. */
const people = ref<Profile[]>([])
watch(accessOpen, async (now) => {
  if (!now || people.value.length) return
  try {
    people.value = (await data(api.GET('/api/people'))).filter((p) => p.active)
  } catch {
    // The shares are there without it.
  }
})

/** Who would miss a view that is about to be deleted. */
const leaning = ref<Reliance>()
watch(deleteOpen, async (now) => {
  leaning.value = undefined
  if (!now) return
  try {
    leaning.value = (await data(
      api.GET('/api/views/{id}/reliance', { params: { path: { id: view.value!.id } } }),
    )) as Reliance
  } catch {
    // It can be deleted without knowing, and brought back.
  }
})
</script>

<template>
  <KeepDialog
    v-model="keepOpen"
    :title="TITLES[keepAs]"
    :labels="view?.labels ?? []"
    :name="view ? (keepAs === 'copy' ? `${view.name}, copy` : view.name) : ''"
    :purpose="view?.purpose ?? ''"
    :refusal="keepRefusal"
    :busy="busy"
    :everything="keepAs !== 'rename' && where === ''"
    @keep="keep"
  />
  <template v-if="view && register">
    <ShareDialog
      v-model="shareOpen"
      :view="view"
      :outline="changed ? undefined : read?.outline"
      @shared="shared"
    />
    <HistoryDialog
      v-model="historyOpen"
      :view="view"
      :register="register"
      :may-put-back="session.mayWrite && view.mayChange"
      @put-back="putBack"
    />
    <ElDialog v-model="accessOpen" :title="`Access to “${view.name}”`" width="560px">
      <p>{{ sharing(view) }}.</p>
      <AccessCheck :view="view" :people="people" />
    </ElDialog>
    <ReviewDialog
      v-model="reviewOpen"
      :view="view"
      :statement="where"
      :register="register.key"
      :answers="answers"
      :busy="busy"
      @keep="keepChanges()"
      @copy="startKeeping('copy')"
    />
    <ConflictDialog
      v-model="conflictOpen"
      :theirs="theirs"
      :mine="where"
      :register="register.key"
      :answers="answers"
      :busy="busy"
      @theirs="openTheirs"
      @overwrite="keepChanges(theirs!.version)"
      @copy="((conflictOpen = false), startKeeping('copy'))"
    />
    <BesideDialog
      v-model="besideOpen"
      :view="view"
      :figures="figures"
      :changed="changed"
      @told="emit('said', $event)"
    />
    <ElDialog v-model="deleteOpen" :title="`Delete “${view.name}”?`" width="440px">
      <p>
        {{ view.shares.length ? 'Those it is shared with lose it too.' : 'It is shared with nobody.' }}
        It can be restored for 30 days under All views.
      </p>
      <RelianceNote v-if="leaning" :reliance="leaning" />
      <template #footer>
        <button type="button" class="word" @click="deleteOpen = false">Cancel</button>
        <button type="button" class="act" :disabled="busy" @click="remove">Delete</button>
      </template>
    </ElDialog>
  </template>
</template>
