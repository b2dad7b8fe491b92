<script setup lang="ts">
import { onMounted } from 'vue'
onMounted(() => (document.title = 'Not here · Deft Lens'))
</script>

<template>
  <main class="nowhere">
    <h1>Nothing is at this address</h1>
    <p><RouterLink to="/">Go to the registers</RouterLink> or choose a view on the left.</p>
  </main>
</template>

<style scoped>
.nowhere {
  padding: 26px;
}

h1 {
  font: 600 23px var(--serif);
}
</style>
