<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

/** One place of the list of views and registers, with its number. */
const props = defineProps<{ to: string; name: string; count?: string; title?: string; within?: boolean }>()
const route = useRoute()
const here = computed(() => (props.within ? route.path.startsWith(props.to) : route.path === props.to))
</script>

<template>
  <li>
    <RouterLink :to="to" :class="{ here }" :title="title ?? name">
      <span class="name">{{ name }}</span><span v-if="count !== undefined" class="count">{{ count }}</span>
    </RouterLink>
  </li>
</template>

<style scoped>
a {
  display: flex;
  gap: 8px;
  color: var(--ink);
  text-decoration: none;
  padding: 3px 8px;
  border-left: 3px solid transparent;
  border-radius: 2px;
}

a:hover {
  background: var(--head);
}

a.here {
  background: var(--act-soft);
  border-left-color: var(--act);
  font-weight: 600;
}

/* A long name takes two lines; one of another script does not turn its neighbours round. */
.name {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  overflow: hidden;
  overflow-wrap: anywhere;
  unicode-bidi: isolate;
  flex: 1;
}

.count {
  color: var(--ink-3);
  font-weight: 400;
}

a:hover .count,
.here .count {
  color: var(--ink-2);
}

@media (forced-colors: active) {
  a:not(.here) {
    border-color: Canvas;
  }
}
</style>
