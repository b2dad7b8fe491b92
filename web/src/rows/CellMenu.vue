<script setup lang="ts">
import { nextTick, onBeforeUnmount, onMounted, ref } from 'vue'
import type { Offer } from '@/statements/narrowing'

const props = defineProps<{ x: number; y: number; title: string; offers: Offer[]; text?: string }>()
const emit = defineEmits<{ take: [offer: Offer]; open: []; close: [] }>()

const menu = ref<HTMLElement>()
const place = ref({ left: props.x + 'px', top: props.y + 'px' })
const copied = ref(false)

/** Where it was asked for, as far as there is room. */
function settle() {
  const box = menu.value!.getBoundingClientRect()
  place.value = {
    left: Math.max(4, Math.min(props.x, innerWidth - box.width - 8)) + 'px',
    top: Math.max(44, Math.min(props.y, innerHeight - box.height - 8)) + 'px',
  }
}
onMounted(async () => {
  await nextTick()
  settle()
  items()[0]?.focus()
  window.addEventListener('resize', settle)
})
onBeforeUnmount(() => window.removeEventListener('resize', settle))

const items = () => [...menu.value!.querySelectorAll<HTMLElement>('[role=menuitem]')]

function keys(event: KeyboardEvent) {
  const all = items()
  const at = all.indexOf(document.activeElement as HTMLElement)
  if (event.key === 'ArrowDown') all[(at + 1) % all.length]?.focus()
  else if (event.key === 'ArrowUp') all[(at - 1 + all.length) % all.length]?.focus()
  else if (event.key === 'Home') all[0]?.focus()
  else if (event.key === 'End') all.at(-1)?.focus()
  else if (event.key === 'Escape' || event.key === 'Tab') emit('close')
  else if (event.key.length === 1 && !event.ctrlKey && !event.metaKey) {
    const wanted = event.key.toLowerCase()
    const next = [...all.slice(at + 1), ...all].find((i) => i.innerText.toLowerCase().startsWith(wanted))
    next?.focus()
    event.stopPropagation()
    return
  } else return
  event.preventDefault()
  event.stopPropagation()
}

async function copy() {
  await navigator.clipboard.writeText(props.text ?? '').catch(() => {})
  copied.value = true
  emit('close')
}
</script>

<template>
  <Teleport to="body">
    <div class="ground" @pointerdown="emit('close')" @contextmenu.prevent="emit('close')" />
    <section aria-label="What to do with this value">
      <div ref="menu" class="cell-menu" role="menu" :aria-label="title" :style="place" @keydown="keys">
        <p class="title" aria-hidden="true">{{ title }}</p>
        <button
          v-for="o in offers"
          :key="o.words"
          type="button"
          role="menuitem"
          tabindex="-1"
          :title="o.words"
          @click="emit('take', o)"
        >
          {{ o.words }}
        </button>
        <hr role="separator" />
        <button v-if="text" type="button" role="menuitem" tabindex="-1" @click="copy">Copy it</button>
        <button type="button" role="menuitem" tabindex="-1" @click="emit('open')">Open the record</button>
      </div>
    </section>
  </Teleport>
</template>

<style scoped>
.ground {
  position: fixed;
  inset: 0;
  z-index: 2000;
}

.cell-menu {
  position: fixed;
  z-index: 2001;
  min-width: 200px;
  max-width: 340px;
  max-height: calc(100vh - 60px);
  overflow: auto;
  background: var(--card);
  border: 1px solid var(--rule-strong);
  border-left: 3px solid var(--act);
  box-shadow: var(--shadow);
  padding: 6px 0;
}

.title {
  font: 600 13px var(--sans);
  color: var(--ink-2);
  padding: 1px 12px 4px;
}

button {
  display: block;
  width: 100%;
  border: 0;
  background: none;
  text-align: left;
  padding: 3px 12px;
  min-height: 26px;
  cursor: pointer;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

button:hover,
button:focus {
  background: var(--act-soft);
}

button:focus {
  outline: 2px solid var(--focus);
  outline-offset: -2px;
}

hr {
  border: 0;
  border-top: 1px solid var(--rule);
  margin: 5px 0;
}
</style>
