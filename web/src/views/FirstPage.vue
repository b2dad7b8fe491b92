<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useCatalogue } from '@/registers/catalogue'
import { sentence } from '@/api/client'

const catalogue = useCatalogue()
const router = useRouter()
const trouble = ref('')
const empty = ref(false)

onMounted(async () => {
  document.title = 'Deft Lens'
  try {
    if (!catalogue.names.length) await catalogue.load()
    const first = catalogue.names[0]
    if (first) await router.replace(`/registers/${first.key}`)
    else empty.value = true
  } catch (e) {
    trouble.value = sentence(e)
  }
})
</script>

<template>
  <main class="first">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <template v-else-if="empty">
      <h1>There are no registers yet</h1>
      <p>
        A register is one kind of record. To look around with invented ones, stop this server and run
        <code>./deft demo</code>.
      </p>
    </template>
  </main>
</template>

<style scoped>
.first {
  padding: 26px;
}

h1 {
  font: 600 23px var(--serif);
}
</style>
