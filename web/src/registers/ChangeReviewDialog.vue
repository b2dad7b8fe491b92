<script setup lang="ts">
import type { BandReview, ViewEffect } from '@/api/client'
import { counted, number } from '@/platform/format'
import RestingView from '@/views/RestingView.vue'

/**
 * Before bands or calculations are changed that views, or what people may see, rest on: which, whose, and what comes in and
 * goes.
 */
const open = defineModel<boolean>({ required: true })
defineProps<{
  /** what rests on bands that change */
  bands: BandReview
  /** what rests on calculated fields that change */
  calculations: ViewEffect[]
  busy: boolean
}>()
const emit = defineEmits<{ keep: [] }>()

type Moves = NonNullable<ViewEffect['moves']>
const records = (n: number) => counted(n, 'record')
/** What becomes of the records, in a sentence. */
function moved({ enter, leave, both }: Moves): string {
  if (!enter && !leave) return `The same ${records(both)} as before.`
  const comes = enter ? `${number(enter)} ${enter === 1 ? 'comes' : 'come'} in` : 'none comes in'
  const goes = leave ? `${number(leave)} ${leave === 1 ? 'goes' : 'go'}` : 'none goes'
  return `${records(both + leave)} become ${number(both + enter)}: ${comes}, ${goes}. Read as of now, for you.`
}
</script>

<template>
  <ElDialog v-model="open" title="Others rest on what you change" width="660px">
    <p v-if="bands.views.length || bands.limits.length" class="hint">
      Where a band has another name, what asks for it is carried along. Where it holds something else, other
      records are found.
    </p>
    <section v-for="(l, i) in bands.limits" :key="i" class="effect">
      <h3>What {{ l.team ?? 'everybody else' }} may see</h3>
      <p class="asks">{{ l.criteria.join('; ') }}</p>
      <p v-if="l.breaks" class="alert">{{ l.breaks }} It cannot be changed so: change that line first.</p>
      <p v-else-if="l.moves" :class="{ alert: l.moves.enter || l.moves.leave }">{{ moved(l.moves) }}</p>
      <p v-else class="hint">What comes in and goes could not be counted in time.</p>
    </section>
    <RestingView v-for="v in bands.views" :key="v.view" :view="v">
      <p v-if="v.breaks" class="alert">
        {{ v.breaks }} The view will show nothing until somebody changes it.
      </p>
      <p v-else-if="v.moves" :class="{ alert: v.moves.enter || v.moves.leave }">{{ moved(v.moves) }}</p>
      <p v-else-if="v.criteria.length" class="hint">What comes in and goes could not be counted.</p>
      <p v-if="v.shown">Its records are put into groups by these bands.</p>
      <p v-if="v.refinements">
        {{ v.refinements === 1 ? 'One reader has' : `${number(v.refinements)} readers have` }} a refinement of
        their own that rests on them.
      </p>
    </RestingView>
    <h3 v-if="calculations.length && bands.views.length" class="of">By what is calculated</h3>
    <RestingView v-for="v in calculations" :key="v.view" :view="v">
      <p v-if="v.moves" :class="{ alert: v.moves.enter || v.moves.leave }">{{ moved(v.moves) }}</p>
      <p v-else-if="v.criteria.length" class="hint">What comes in and goes could not be counted.</p>
      <p v-if="v.shown">It shows what comes out.</p>
      <p v-if="v.refinements">
        {{ v.refinements === 1 ? 'One reader has' : `${number(v.refinements)} readers have` }} a refinement of
        their own that rests on it.
      </p>
    </RestingView>
    <template #footer>
      <button type="button" class="word" @click="open = false">Cancel</button>
      <button
        type="button"
        class="act"
        :disabled="busy || bands.limits.some((l) => l.breaks)"
        @click="emit('keep')"
      >
        Change it for everyone
      </button>
    </template>
  </ElDialog>
</template>

<style scoped>
.effect {
  border-top: 1px solid var(--rule);
  margin-top: 12px;
  padding-top: 10px;
}

h3 {
  font: 600 16px/1.3 var(--sans);
}

.of {
  margin-top: 18px;
}

.asks {
  font-family: var(--serif);
}

.hint {
  color: var(--ink-2);
}

.alert {
  color: var(--alert);
}

.act {
  margin-left: 10px;
}
</style>
