<script setup lang="ts">
import { ElConfigProvider } from 'element-plus'
import locale from 'element-plus/es/locale/lang/en'
import { useOutage } from '@/platform/outage'
import { announcement } from '@/platform/announcements'

const { waiting, why } = useOutage()
</script>

<template>
  <ElConfigProvider :locale="locale" :z-index="3000">
    <div class="outage" aria-live="polite">
      <template v-if="waiting">{{ why }} This page goes on by itself.</template>
    </div>
    <p class="hidden-text" role="status">{{ announcement }}</p>
    <RouterView />
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
