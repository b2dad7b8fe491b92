<script setup lang="ts">
import { ElConfigProvider } from 'element-plus'
import locale from 'element-plus/es/locale/lang/en'
</script>

<template>
  <ElConfigProvider :locale="locale" :z-index="3000">
    <RouterView />
  </ElConfigProvider>
</template>
