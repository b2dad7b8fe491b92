<script setup lang="ts">
import { computed } from 'vue'
import type { Register } from '@/api/client'
import { isNumeric } from '@/platform/format'
import { useSession } from '@/people/session'
import type { NamesDraft } from './draft'

/** What a register and its records are called, and the order they stand in at rest. */
const names = defineModel<NamesDraft>({ required: true })
const props = defineProps<{ register: Register; disabled: boolean }>()
const emit = defineEmits<{ remove: [] }>()
const session = useSession()
/** whether whoever is here may only read it */
const reads = computed(() => !session.isAdministrator)
const orderable = computed(() => props.register.fields.filter((f) => f.orderable))
</script>

<template>
  <fieldset :disabled="disabled">
    <legend class="hidden-text">Names and order</legend>
    <div class="pair">
      <label>Name <input v-model="names.label" name="label" class="field" required maxlength="120" /></label>
      <label
        >One record
        <input v-model="names.recordLabel" name="recordLabel" class="field" required maxlength="60"
      /></label>
      <label>Several records <input v-model="names.recordsLabel" class="field" maxlength="60" /></label>
      <label>
        Main date
        <select v-model="names.mainField" name="mainField" class="field">
          <option value="">none</option>
          <option
            v-for="f in register.fields.filter(
              (f) => (f.type === 'date' || f.type === 'moment') && !f.calculation,
            )"
            :key="f.key"
            :value="f.key"
          >
            {{ f.label }}
          </option>
        </select>
      </label>
      <label>
        Records are named by
        <select v-model="names.titleField" name="titleField" class="field">
          <option v-for="f in register.fields.filter((f) => f.type !== 'span')" :key="f.key" :value="f.key">
            {{ f.label }}
          </option>
        </select>
      </label>
      <label>
        Running total of
        <select v-model="names.running" name="running" class="field">
          <option value="">nothing</option>
          <option v-for="f in register.fields.filter(isNumeric)" :key="f.key" :value="f.key">
            {{ f.label }}
          </option>
        </select>
      </label>
    </div>
    <label class="about">
      Description
      <textarea v-model="names.description" class="field" rows="2" maxlength="1000" />
    </label>
    <h2>Default order</h2>
    <p v-if="!names.order.length" class="small">By the main date, newest first.</p>
    <div v-for="(o, i) in names.order" :key="i" class="relation">
      <select v-model="o.field" class="field" :aria-label="`Order by, ${i + 1}`">
        <option v-for="f in orderable" :key="f.key" :value="f.key">{{ f.label }}</option>
      </select>
      <select
        v-model="o.descending"
        class="field"
        :aria-label="`Direction of ${i + 1}`"
        :title="o.descending ? 'highest or latest first' : 'lowest or earliest first'"
      >
        <option :value="false">lowest or earliest first</option>
        <option :value="true">highest or latest first</option>
      </select>
      <button
        v-if="!reads"
        type="button"
        class="word"
        :aria-label="`remove order ${i + 1}`"
        @click="names.order.splice(i, 1)"
      >
        remove
      </button>
    </div>
    <p v-if="!reads" class="acts">
      <button
        type="button"
        class="quiet"
        @click="names.order.push({ field: orderable[0]!.key, descending: false, emptiesFirst: false })"
      >
        Order by another field
      </button>
    </p>
    <p v-if="!reads" class="acts">
      <button type="button" class="word" @click="emit('remove')">Remove this register…</button>
    </p>
  </fieldset>
</template>

<style scoped>
.about {
  display: block;
  margin-top: 10px;
}
</style>
