<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, data, isAborted, latest, sentence, type Register, type Row } from '@/api/client'
import { full } from '@/platform/format'

const props = defineProps<{ register: Register; id: number; zone: string }>()

const record = ref<Row>()
const trouble = ref('')
const asking = latest()

watch(
  () => [props.register.key, props.id] as const,
  async ([key, id]) => {
    trouble.value = ''
    try {
      record.value = await asking.ask((signal) =>
        data(api.GET('/api/registers/{key}/records/{id}', { params: { path: { key, id } }, signal })),
      )
    } catch (e) {
      if (isAborted(e)) return
      record.value = undefined
      trouble.value = sentence(e)
    }
  },
  { immediate: true },
)
</script>

<template>
  <section class="record" :aria-label="register.recordLabel" aria-live="polite">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <template v-else-if="record">
      <h2>
        {{
          full(
            register.fields.find((f) => f.key === register.titleField)!,
            record.values[register.titleField],
            zone,
          )
        }}
      </h2>
      <dl>
        <template v-for="f in register.fields.filter((f) => f.type !== 'span')" :key="f.key">
          <template v-if="f.key !== register.titleField">
            <dt>{{ f.label }}</dt>
            <dd :class="{ none: record.values[f.key] == null }">{{ full(f, record.values[f.key], zone) }}</dd>
          </template>
        </template>
      </dl>
    </template>
  </section>
</template>

<style scoped>
h2 {
  font: 600 18px/1.3 var(--serif);
  margin-bottom: 10px;
  overflow-wrap: anywhere;
}

dl {
  display: grid;
  grid-template-columns: 92px 1fr;
  gap: 4px 10px;
  margin: 0 0 12px;
}

dt {
  color: var(--ink-2);
}

dd {
  margin: 0;
  overflow-wrap: anywhere;
}

dd.none {
  color: var(--ink-3);
}
</style>
