<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { onBeforeRouteLeave, onBeforeRouteUpdate, type RouteLocationNormalized } from 'vue-router'

/** Asks before a page is left with work on it that is not kept; the browser asks in its own words when it is closed. */
const props = defineProps<{
  unsaved: boolean
  /** what would be lost, as the subject of a sentence: "Your changes of Defects" */
  what: string
}>()

const open = ref(false)
let answer: (leave: boolean) => void = () => {}

function ask(to: RouteLocationNormalized, from: RouteLocationNormalized): Promise<boolean> | boolean {
  // Another place on the same page loses nothing; who was signed out has to go.
  if (!props.unsaved || to.path === from.path || to.name === 'sign-in') return true
  open.value = true
  return new Promise((decided) => (answer = decided))
}
onBeforeRouteLeave(ask)
onBeforeRouteUpdate(ask)

function decide(leave: boolean) {
  open.value = false
  answer(leave)
}

const closing = (event: BeforeUnloadEvent) => {
  if (props.unsaved) event.preventDefault()
}
onMounted(() => window.addEventListener('beforeunload', closing))
onBeforeUnmount(() => window.removeEventListener('beforeunload', closing))
</script>

<template>
  <!-- Inside a section, so that the head of the dialog is no banner of the page, and no rule of the page holds for it. -->
  <section>
    <ElDialog v-model="open" title="Leave without saving?" width="420px" @close="decide(false)">
      <p>{{ what }} would be lost.</p>
      <template #footer>
        <button type="button" class="word" @click="decide(true)">Leave without saving</button>
        <button type="button" class="act" @click="decide(false)">Stay here</button>
      </template>
    </ElDialog>
  </section>
</template>
