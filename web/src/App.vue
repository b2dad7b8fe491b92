<script setup lang="ts">
import { ElConfigProvider, usePopperContainerId } from 'element-plus'
import { onMounted, ref } from 'vue'
import locale from 'element-plus/es/locale/lang/en'
import { useOutage } from '@/platform/outage'
import { announcement } from '@/platform/announcements'

const { waiting, why } = useOutage()
const popups = usePopperContainerId()

// A list that opens is scrolled by the keys of its own field; whoever comes to it otherwise scrolls it by its own.
const lists = ref<HTMLElement>()
onMounted(() =>
  new MutationObserver(() =>
    lists.value
      ?.querySelectorAll('.el-scrollbar__wrap:not([tabindex])')
      .forEach((list) => list.setAttribute('tabindex', '0')),
  ).observe(lists.value!, { childList: true, subtree: true }),
)
</script>

<template>
  <ElConfigProvider :locale="locale" :z-index="3000">
    <div class="outage" aria-live="polite">
      <template v-if="waiting">{{ why }} This page goes on by itself.</template>
    </div>
    <p class="hidden-text" role="status">{{ announcement }}</p>
    <RouterView />
    <!-- Lists that open over the page stand here: in a place of its own, not between those of the page. -->
    <section :id="popups.id.value" ref="lists" aria-label="Opened lists" />
  </ElConfigProvider>
</template>

<style scoped>
.outage:not(:empty) {
  position: sticky;
  top: 0;
  z-index: 20;
  padding: 8px 24px;
  background: var(--alert-bg);
  border-bottom: 2px solid var(--alert);
  color: var(--ink);
}
</style>
