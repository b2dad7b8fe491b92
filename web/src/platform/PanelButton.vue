<script lang="ts">
import { shallowRef } from 'vue'
import { FOCUSABLE } from './focusKeeper'

/** the panel that is open: one at a time */
const opened = shallowRef<symbol>()
</script>

<script setup lang="ts">
import { autoUpdate, flip, offset, shift, size, useFloating } from '@floating-ui/vue'
import { nextTick, onBeforeUnmount, ref, watch } from 'vue'

/**
 * A button with a panel below it: a dialog that is named, takes the keys when it opens, and gives them back to its button when it
 * closes (Esc, a click elsewhere, or another panel that opens).
 */
defineOptions({ inheritAttrs: false })
const props = withDefaults(
  defineProps<{
    /** what the panel is called */
    name: string
    /** in CSS pixels; never wider than the window */
    width: number
    placement?: 'bottom-start' | 'bottom-end'
  }>(),
  { placement: 'bottom-end' },
)
const open = defineModel<boolean>('open', { default: false })

const button = ref<HTMLElement>()
const panel = ref<HTMLElement>()
const own = Symbol('panel')

/** Space left between the panel and the edges of the window, in CSS pixels. */
const ROOM = 12
const { floatingStyles } = useFloating(button, panel, {
  open,
  placement: () => props.placement,
  strategy: 'fixed',
  transform: false,
  whileElementsMounted: autoUpdate,
  middleware: [
    offset(6),
    flip({ padding: ROOM }),
    shift({ padding: ROOM }),
    size({
      padding: ROOM,
      apply: ({ availableHeight, elements }) => {
        elements.floating.style.maxHeight = `${Math.max(160, availableHeight)}px`
      },
    }),
  ],
})

/** What the keys go to in the panel, in order; of radio buttons the one that is chosen. */
const stops = () =>
  [...(panel.value?.querySelectorAll<HTMLElement>(FOCUSABLE) ?? [])].filter(
    (e) =>
      e.tabIndex >= 0 &&
      (e.checkVisibility?.() ?? true) &&
      !(e instanceof HTMLInputElement && e.type === 'radio' && !e.checked),
  )

watch(open, async (now) => {
  if (now) {
    document.addEventListener('pointerdown', outside, true)
    document.addEventListener('keydown', lost)
    opened.value = own
    await nextTick()
    const first = stops()[0] ?? panel.value
    // Where it will stand is not known yet: the page must not scroll to where it is drawn first.
    first?.focus({ preventScroll: true })
    return
  }
  document.removeEventListener('pointerdown', outside, true)
  document.removeEventListener('keydown', lost)
  if (opened.value === own) opened.value = undefined
  const at = document.activeElement
  if (at === document.body || panel.value?.contains(at)) button.value?.focus()
})
watch(opened, (now) => {
  if (now !== own) open.value = false
})

function keys(event: KeyboardEvent) {
  if (event.key === 'Escape') {
    event.stopPropagation()
    open.value = false
    button.value?.focus()
  } else if (event.key === 'Tab') {
    const all = stops()
    const [from, to] = event.shiftKey ? [all[0], all.at(-1)] : [all.at(-1), all[0]]
    if (document.activeElement === from || !all.length || document.activeElement === panel.value) {
      event.preventDefault()
      to?.focus()
    }
  }
}
/** Where nothing has the keys, Esc is for the panel: what had them may have gone with what was shown before. */
function lost(event: KeyboardEvent) {
  if (event.key === 'Escape' && event.target === document.body) open.value = false
}
function outside(event: PointerEvent) {
  const target = event.target as HTMLElement
  if (open.value && !button.value?.contains(target) && !target.closest?.('.panel, .el-popper'))
    open.value = false
}
onBeforeUnmount(() => {
  document.removeEventListener('pointerdown', outside, true)
  document.removeEventListener('keydown', lost)
  if (opened.value === own) opened.value = undefined
})
</script>

<template>
  <button
    ref="button"
    type="button"
    v-bind="$attrs"
    aria-haspopup="dialog"
    :aria-expanded="open"
    @click="open = !open"
    @keydown.esc="open && ($event.stopPropagation(), (open = false))"
  >
    <slot name="button" />
  </button>
  <Teleport to="body">
    <div
      v-if="open"
      ref="panel"
      class="panel"
      role="dialog"
      :aria-label="name"
      tabindex="-1"
      :style="{ ...floatingStyles, width: `min(${width}px, calc(100vw - 24px))` }"
      @keydown="keys"
    >
      <slot />
    </div>
  </Teleport>
</template>

<style scoped>
.panel {
  z-index: 2000;
  background: var(--card);
  border: 1px solid var(--rule-strong);
  border-radius: 5px;
  box-shadow: var(--shadow);
  padding: 12px;
  overflow: auto;
  /* What has the keys is never below what stays at the bottom. */
  scroll-padding-bottom: 56px;
}

.panel:focus {
  outline: none;
}
</style>
