<script setup lang="ts">
import { computed, ref } from 'vue'
import type { FieldDescription } from '@/api/client'
import { HOW } from './typed'

/** A box for a value of a field as it is typed, or a list of those that it may have. */
const text = defineModel<string>({ required: true })
const props = defineProps<{
  field: FieldDescription
  /** what the box is called */
  label: string
  /** what stands in the list for no value; absent where there has to be one */
  none?: string
}>()

const input = ref<HTMLElement>()
defineExpose({ focus: () => input.value?.focus() })
const options = computed(() =>
  props.field.type === 'yes/no'
    ? ['yes', 'no'].map((value) => ({ value, label: value }))
    : props.field.options,
)
const isListed = computed(() => ['choice', 'person', 'yes/no'].includes(props.field.type))
const isNumber = computed(() => ['number', 'money'].includes(props.field.type))
/** The whole of it, where the box is too narrow. */
const title = computed(() =>
  isListed.value
    ? (options.value.find((o) => o.value === text.value)?.label ?? props.none)
    : text.value || undefined,
)
</script>

<template>
  <select v-if="isListed" ref="input" v-model="text" class="field" :aria-label="label" :title="title">
    <option v-if="none !== undefined" value="">{{ none }}</option>
    <option v-for="o in options" :key="o.value" :value="o.value">{{ o.label }}</option>
  </select>
  <input
    v-else
    ref="input"
    v-model="text"
    class="field"
    :placeholder="HOW[field.type] ?? none"
    :inputmode="isNumber ? 'decimal' : undefined"
    :aria-label="label"
    :title="title"
  />
</template>
