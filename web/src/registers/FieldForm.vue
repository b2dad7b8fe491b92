<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { FieldDescription, Register, TeamEntry } from '@/api/client'
import { typeWords } from '@/platform/format'
import { vRoving } from '@/platform/roving'
import SkipLink from '@/platform/SkipLink.vue'
import { useSession } from '@/people/session'
import BandsEditor from './BandsEditor.vue'
import CalculationEditor from './CalculationEditor.vue'
import { useCatalogue } from './catalogue'
import type { FieldDraft } from './draft'

/** What the catalogue says of one field. */
const field = defineModel<FieldDraft>({ required: true })
defineProps<{
  register: Register
  /** those that may be the ones who correct it */
  teams: TeamEntry[]
  disabled: boolean
  /** whether there is something to be saved */
  changed: boolean
}>()
const emit = defineEmits<{ move: [by: -1 | 1]; retype: []; remove: [] }>()
const catalogue = useCatalogue()
const session = useSession()
/** whether whoever is here may only read it */
const reads = computed(() => !session.isAdministrator)

/** The fields of another register, for relating them by their values. */
const others = ref<Record<string, FieldDescription[]>>({})
async function fieldsOf(other: string) {
  if (!other || others.value[other]) return
  const described = await catalogue.describe(other)
  others.value = { ...others.value, [other]: described.fields.filter((f) => f.type !== 'span') }
}
watch(field, (now) => now.relates.forEach((r) => void fieldsOf(r.register)), { immediate: true })
</script>

<template>
  <fieldset :disabled="disabled" class="one">
    <legend class="hidden-text">{{ field.label }}</legend>
    <div class="pair">
      <label
        >Name
        <input
          v-model="field.label"
          :name="`fields/${field.key}/label`"
          class="field"
          required
          maxlength="60"
      /></label>
      <label v-if="['number', 'money'].includes(field.given.type)">
        Unit <input v-model="field.unit" class="field" maxlength="20" placeholder="none" />
      </label>
      <p class="small what">
        {{ typeWords(field.given.type) }}, {{ field.given.required ? 'in every record' : 'may be empty' }}; in
        statements
        <code>{{ field.key }}</code>
      </p>
    </div>
    <template v-if="field.given.calculation">
      <h2>Calculation</h2>
      <p v-if="field.given.calculation.trouble" class="notice" role="alert">
        It cannot be calculated any more, and is empty in every record.
        {{ field.given.calculation.trouble }}
      </p>
      <CalculationEditor
        :key="field.key"
        v-model="field.calculation"
        :register="register"
        :field="field.given"
        :disabled="disabled"
      />
    </template>
    <label class="about">
      What people should know of it
      <textarea v-model="field.description" class="field" rows="2" maxlength="500" />
    </label>
    <p class="ticks">
      <label v-if="field.given.type !== 'span'" class="tick">
        <input v-model="field.shown" type="checkbox" /> shown by default
      </label>
      <label class="tick"><input v-model="field.useful" type="checkbox" /> shown first</label>
      <label v-if="field.given.type !== 'span'" class="tick">
        <input v-model="field.identifying" type="checkbox" /> identifies the record
      </label>
      <label v-if="field.given.origin === 'COLUMN' && register.capabilities.includes('fields')" class="tick">
        <input v-model="field.correctable" type="checkbox" /> people may correct it
      </label>
      <ElSelect
        v-if="field.correctable && field.given.origin === 'COLUMN'"
        v-model="field.correctors"
        multiple
        filterable
        class="correctors"
        placeholder="everybody who sees it"
        :aria-label="`Teams that correct ${field.label}`"
      >
        <ElOption v-for="t in teams" :key="t.id" :value="t.id" :label="t.name" />
      </ElSelect>
    </p>
    <p v-if="!reads" v-roving class="acts" role="toolbar" :aria-label="field.label">
      <button type="button" class="quiet" @click="emit('move', -1)">Move up</button>
      <button type="button" class="quiet" @click="emit('move', 1)">Move down</button>
      <button
        v-if="register.capabilities.includes('fields') && field.given.origin === 'COLUMN'"
        type="button"
        class="quiet"
        @click="emit('retype')"
      >
        Change type…
      </button>
      <button v-if="field.given.origin !== 'MEMBER'" type="button" class="quiet" @click="emit('remove')">
        Remove…
      </button>
    </p>
    <SkipLink v-if="changed" to="save-register">Skip to Save</SkipLink>
    <label v-if="['choice', 'tags'].includes(field.given.type) && !field.given.calculation" class="about">
      Known values, one on each line, in their order
      <textarea v-model="field.options" class="field" rows="6" />
    </label>
    <template v-if="!['span', 'tags', 'yes/no'].includes(field.given.type)">
      <h2>Bands</h2>
      <BandsEditor
        v-model="field.bands"
        :register-key="register.key"
        :field="field.given"
        :disabled="reads"
      />
    </template>
    <template v-if="field.given.type !== 'span' && field.given.origin === 'COLUMN'">
      <h2>The same values elsewhere</h2>
      <p class="hint">A record’s panel leads to the records of other registers that hold the same value.</p>
      <div v-for="(r, i) in field.relates" :key="i" class="relation">
        <select
          v-model="r.register"
          class="field"
          :aria-label="`Register ${i + 1} with the same values`"
          @change="((r.field = ''), fieldsOf(r.register))"
        >
          <option value="">a register…</option>
          <option v-for="n in catalogue.names" :key="n.key" :value="n.key">{{ n.label }}</option>
        </select>
        <select v-model="r.field" class="field" :aria-label="`Field ${i + 1} with the same values`">
          <option value="">its field…</option>
          <option v-for="f in others[r.register] ?? []" :key="f.key" :value="f.key">
            {{ f.label }}
          </option>
        </select>
        <button
          v-if="!reads"
          type="button"
          class="word"
          :aria-label="`remove relation ${i + 1}`"
          @click="field.relates.splice(i, 1)"
        >
          remove
        </button>
      </div>
      <p v-if="!field.relates.length && reads" class="small">None.</p>
      <button
        v-if="!reads"
        type="button"
        class="quiet"
        @click="field.relates.push({ register: '', field: '' })"
      >
        Add a register
      </button>
    </template>
  </fieldset>
</template>

<style scoped>
.what {
  align-self: end;
}

.about {
  display: block;
  margin-top: 10px;
}

.ticks {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 20px;
  margin-top: 10px;
}

.correctors {
  width: 260px;
}
</style>
