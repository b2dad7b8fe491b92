<script setup lang="ts">
import { computed } from 'vue'
import type { Reliance } from '@/api/client'
import { day, localDay } from '@/platform/format'
import { useSession } from '@/people/session'

/** Who leans on a view, and where. */
const props = defineProps<{ reliance: Reliance }>()
const session = useSession()

const others = computed(() => props.reliance.readers.filter((r) => r.who.id !== session.current?.person.id))
const places = computed(() => {
  const r = props.reliance
  return [
    r.pinnedBy && `pinned by ${r.pinnedBy} ${r.pinnedBy > 1 ? 'others' : 'other'}`,
    r.listOf.length && `on the list of ${r.listOf.join(', ')}`,
    r.beginningOf.length && `what ${r.beginningOf.join(', ')} begin with`,
    r.refinedBy &&
      `refined by ${r.refinedBy} ${r.refinedBy > 1 ? 'others' : 'other'}, whose own parts are carried along`,
  ].filter(Boolean)
})
</script>

<template>
  <p v-if="others.length">
    Opened in the last 30 days by
    <template v-for="(r, i) in others.slice(0, 6)" :key="r.who.id"
      ><template v-if="i">, </template><strong>{{ r.who.fullName }}</strong> ({{ r.times }}×, last
      {{ day(localDay(r.lastAt, session.zone)) }})</template
    ><template v-if="others.length > 6"> and {{ others.length - 6 }} more</template>.
  </p>
  <p v-else>Nobody else has opened it in the last 30 days.</p>
  <p v-if="places.length" class="places">It is {{ places.join('; ') }}.</p>
</template>

<style scoped>
.places {
  color: var(--ink-2);
  margin-top: 6px;
}
</style>
