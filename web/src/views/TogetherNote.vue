<script setup lang="ts">
import { computed } from 'vue'
import type { Together, View } from '@/api/client'
import { moment } from '@/platform/format'
import { useSession } from '@/people/session'
import { announceEach } from '@/platform/announcements'

/** Says who else has the view open, and that somebody changed it since the page read it. */
const props = defineProps<{ together: Together; view: View; changed: boolean }>()
const emit = defineEmits<{ theirs: [] }>()
const session = useSession()

const newer = computed(() => props.together.version > props.view.version)
const changing = computed(() => props.together.others.filter((o) => o.changing).map((o) => o.who.fullName))
const looking = computed(() => props.together.others.filter((o) => !o.changing).map((o) => o.who.fullName))
function list(names: string[]): string {
  return names.length < 3
    ? names.join(' and ')
    : `${names.slice(0, 2).join(', ')} and ${names.length - 2} more`
}

const words = computed(() =>
  newer.value
    ? `${props.together.changedBy.fullName} changed this view.`
    : changing.value.length
      ? `${list(changing.value)} ${changing.value.length > 1 ? 'are' : 'is'} changing this view.`
      : '',
)
announceEach(() => words.value)
</script>

<template>
  <p v-if="newer" class="together newer">
    {{ together.changedBy.fullName }} changed this view, {{ moment(together.changedAt, session.zone) }} (v{{
      together.version + 1
    }}).
    <button type="button" class="word" @click="emit('theirs')">
      {{ changed ? 'Compare theirs with mine' : 'Take theirs' }}
    </button>
  </p>
  <p v-else-if="changing.length || looking.length" class="together">
    <template v-if="changing.length"
      >{{ list(changing) }} {{ changing.length > 1 ? 'are' : 'is' }} changing this view just now.
    </template>
    <template v-if="looking.length"
      >{{ list(looking) }} {{ looking.length > 1 ? 'have' : 'has' }} it open too.</template
    >
  </p>
</template>

<style scoped>
.together {
  color: var(--ink-2);
  padding-top: 6px;
  font-size: 13.5px;
}

.newer {
  background: var(--act-soft);
  color: var(--ink);
  padding: 4px 10px;
  margin-top: 8px;
  font-size: inherit;
}

.word {
  color: var(--act);
  text-decoration: underline;
  padding: 0 3px;
}
</style>
