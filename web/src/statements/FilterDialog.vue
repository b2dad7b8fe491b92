<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, data, sentence } from '@/api/client'
import { useFieldError } from '@/platform/useFieldError'
import { announceEach } from '@/platform/announcements'
import { vRoving } from '@/platform/roving'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  registerKey: string
  statement: string
  asOf?: string
  zone?: string
  answers: Record<string, string>
}>()
const emit = defineEmits<{ read: [statement: string] }>()

const written = ref<{ text: string; json: string; notes: string[] }>()
const refused = ref('')
const pasted = ref('')
const trouble = ref('')
const troubleId = useFieldError(
  () => document.querySelectorAll('#cql2-read'),
  () => trouble.value,
)
const encoding = ref<'text' | 'json'>('text')
const said = ref('')

watch(open, async (now) => {
  if (!now) return
  written.value = undefined
  refused.value = trouble.value = said.value = ''
  try {
    const { statement, asOf, zone, answers } = props
    const found = await data(
      api.POST('/api/registers/{key}/cql2/write', {
        params: { path: { key: props.registerKey } },
        body: { statement, asOf, zone, answers },
      }),
    )
    written.value = { text: found.text, json: JSON.stringify(found.json, null, 2), notes: found.notes }
  } catch (e) {
    refused.value = sentence(e)
  }
})

async function copy() {
  try {
    await navigator.clipboard.writeText(written.value![encoding.value])
    said.value = 'Copied.'
  } catch {
    said.value = 'Mark the text and copy it by hand.'
  }
}

async function read() {
  trouble.value = ''
  let body: { text?: string; json?: unknown; zone?: string }
  const text = pasted.value.trim()
  try {
    body = text.startsWith('{') ? { json: JSON.parse(text), zone: props.zone } : { text, zone: props.zone }
  } catch {
    trouble.value = 'This begins like JSON and is none: a bracket, a comma or a quote is missing.'
    return
  }
  try {
    const found = await data(
      api.POST('/api/registers/{key}/cql2/read', {
        params: { path: { key: props.registerKey } },
        body: body as never,
      }),
    )
    pasted.value = ''
    open.value = false
    emit('read', found.statement)
  } catch (e) {
    trouble.value = sentence(e)
  }
}
announceEach(() => said.value)
</script>

<template>
  <ElDialog v-model="open" title="As an open filter" width="640px">
    <p class="hint">
      OGC CQL2, the open filter language that map and data services read. It carries what it has words for.
    </p>
    <p v-if="refused" class="notice" role="alert">{{ refused }}</p>
    <template v-if="written">
      <div class="encodings">
        <div v-roving="(item: HTMLElement) => item.click()" role="radiogroup" aria-label="Encoding">
          <button type="button" role="radio" :aria-checked="encoding === 'text'" @click="encoding = 'text'">
            Text
          </button>
          <button type="button" role="radio" :aria-checked="encoding === 'json'" @click="encoding = 'json'">
            JSON
          </button>
        </div>
        <button type="button" class="word copy" @click="copy">Copy</button>
        <span>{{ said }}</span>
      </div>
      <pre tabindex="0" aria-label="The filter">{{ written[encoding] }}</pre>
      <ul v-if="written.notes.length">
        <li v-for="note in written.notes" :key="note">{{ note }}</li>
      </ul>
    </template>
    <form @submit.prevent="read">
      <label for="cql2-read">Read one</label>
      <textarea
        id="cql2-read"
        v-model="pasted"
        class="field"
        rows="4"
        spellcheck="false"
        placeholder="severity >= 3 AND due < DATE('2026-11-23')"
      />
      <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
      <button type="submit" class="act" :disabled="!pasted.trim()">Use it as the statement</button>
    </form>
  </ElDialog>
</template>

<style scoped>
.hint {
  color: var(--ink-2);
  margin-bottom: 8px;
}

.encodings,
.encodings [role='radiogroup'] {
  display: flex;
  gap: 6px;
  align-items: center;
}

.encodings [role='radio'] {
  border: 1px solid var(--rule-strong);
  border-radius: 4px;
  background: none;
  padding: 2px 12px;
  cursor: pointer;
}

.encodings [aria-checked='true'] {
  background: var(--act-soft);
  font-weight: 600;
}

.copy {
  margin-left: auto;
}

pre {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  max-height: 220px;
  overflow: auto;
  background: var(--page);
  border: 1px solid var(--rule);
  padding: 10px 12px;
  margin: 8px 0;
  font-size: 13.5px;
}

ul {
  margin: 0 0 10px;
  padding-left: 18px;
  color: var(--time);
  font-size: 13.5px;
}

label {
  display: block;
  font-weight: 600;
  margin: 12px 0 4px;
}

.act {
  margin-top: 8px;
}
</style>
