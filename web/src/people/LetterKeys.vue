<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { useSession } from './session'

/** Switches keys of one letter on or off, for whoever dictates or strikes keys by chance. */
const session = useSession()
const { busy, trouble, act } = useActing()

async function set(on: boolean) {
  await act(async () => {
    await session.useLetterKeys(on)
  })
}
</script>

<template>
  <div>
    <label class="tick">
      <input
        type="checkbox"
        :checked="session.letterKeys"
        :disabled="busy || !!session.watcher"
        @change="set(($event.target as HTMLInputElement).checked)"
      />
      keys of one letter, <kbd>/</kbd> and <kbd>?</kbd> do something anywhere on the desk
    </label>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
  </div>
</template>

<style scoped>
.tick {
  display: flex;
  gap: 7px;
  align-items: center;
  min-height: 28px;
}
</style>
