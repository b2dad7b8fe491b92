<script setup lang="ts">
import { ElConfigProvider } from 'element-plus'
import en from 'element-plus/es/locale/lang/en'

const locale = { ...en, el: { ...en.el } }
</script>

<template>
  <ElConfigProvider :locale="locale" :z-index="3000">
    <RouterView />
  </ElConfigProvider>
</template>
