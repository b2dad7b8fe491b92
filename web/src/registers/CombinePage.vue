<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import SkipLink from '@/platform/SkipLink.vue'
import { typeWords } from '@/platform/format'
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, data, type Register } from '@/api/client'
import { useLeaving } from '@/platform/leaving'
import { useCatalogue } from './catalogue'

const route = useRoute()
const router = useRouter()
const leaving = useLeaving()
const catalogue = useCatalogue()

interface Member {
  register: Register
  label: string
}
interface Line {
  /** the field that it is, where the register is there already */
  key?: string
  label: string
  from: Record<string, string>
  shown: boolean
}

const members = ref<Member[]>([])
const lines = ref<Line[]>([])
const label = ref('')
const recordLabel = ref('')
const mainField = ref('')
const titleField = ref('')
const { busy, trouble, troubleId, refused, act } = useActing()

/** the combined register that is changed; none while one is made */
const there = ref<Register>()

onMounted(async () => {
  document.title = 'Combine registers · Deft Lens'
  try {
    if (!catalogue.names.length) await catalogue.load()
    if (route.params.key) await take(String(route.params.key))
  } catch (e) {
    refused(e)
  }
})

/** Opens a combined register to be changed, with each field as it is read now. */
async function take(key: string) {
  const register = await data(api.GET('/api/registers/{key}', { params: { path: { key } } }))
  document.title = `${register.label}, what it is read from · Deft Lens`
  members.value = await Promise.all(
    register.members.map(async (m) => ({ register: await catalogue.describe(m.key), label: m.label })),
  )
  const has = (member: string, field?: string) =>
    members.value.find((m) => m.register.key === member)!.register.fields.some((f) => f.key === field)
  lines.value = register.fields
    .filter((f) => f.origin === 'COLUMN')
    .map((f) => ({
      key: f.key,
      label: f.label,
      shown: register.columns.includes(f.key),
      // What is gone is not chosen any more.
      from: Object.fromEntries(
        register.members.filter((m) => has(m.key, m.mapping[f.key])).map((m) => [m.key, m.mapping[f.key]!]),
      ),
    }))
  const labelOf = (field?: string | null) => register.fields.find((f) => f.key === field)?.label ?? ''
  label.value = register.label
  recordLabel.value = register.recordLabel
  mainField.value = labelOf(register.mainField)
  titleField.value = labelOf(register.titleField)
  there.value = register
}

const choices = computed(() => catalogue.names.filter((r) => r.origin !== 'COMBINED'))
const isMember = (key: string) => members.value.some((m) => m.register.key === key)

async function toggle(key: string) {
  trouble.value = ''
  if (isMember(key)) members.value = members.value.filter((m) => m.register.key !== key)
  else {
    try {
      const register = await catalogue.describe(key)
      const one = register.recordLabel
      members.value.push({ register, label: one[0]!.toUpperCase() + one.slice(1) })
    } catch (e) {
      refused(e)
    }
  }
  propose()
}

const stored = (register: Register) =>
  register.fields.filter((f) => f.type !== 'span' && ['COLUMN', 'CALCULATED'].includes(f.origin))
const kind = (type: string) =>
  type === 'choice' || type === 'person' ? 'text' : type === 'money' ? 'number' : type

/** Fields of one name, the main dates, the identifying fields and the titles belong together. */
function propose() {
  if (members.value.length < 2) {
    lines.value = []
    return
  }
  const used = new Map(members.value.map((m) => [m.register.key, new Set<string>()]))
  const found: Line[] = []
  const add = (words: string, pick: (r: Register) => string | undefined, least = 2) => {
    const from: Record<string, string> = {}
    const types = new Set<string>()
    for (const { register } of members.value) {
      const key = pick(register)
      const field = stored(register).find((f) => f.key === key && !used.get(register.key)!.has(f.key))
      if (field) {
        from[register.key] = field.key
        types.add(kind(field.type))
      }
    }
    if (Object.keys(from).length < least || types.size > 1) return
    for (const [register, key] of Object.entries(from)) used.get(register)!.add(key)
    found.push({ label: words, from, shown: true })
  }
  add('Number', (r) => stored(r).find((f) => f.identifying)?.key)
  add('Name', (r) => r.titleField)
  add('At', (r) => r.mainField ?? undefined)
  for (const field of stored(members.value[0]!.register)) {
    add(field.label, (r) => stored(r).find((f) => f.label.toLowerCase() === field.label.toLowerCase())?.key)
  }
  lines.value = found
  mainField.value = found.find((l) => l.label === 'At')?.label ?? ''
  titleField.value = (found.find((l) => l.label === 'Name') ?? found[0])?.label ?? ''
}

const typeOf = (line: Line) => {
  const types = members.value
    .map((m) => m.register.fields.find((f) => f.key === line.from[m.register.key])?.type)
    .filter((t) => t !== undefined)
  return [...new Set(types)].join(' and ')
}

async function combine() {
  const left = leaving()
  await act(async () => {
    const body = {
      label: label.value,
      recordLabel: recordLabel.value || 'entry',
      members: members.value.map((m) => ({ register: m.register.key, label: m.label })),
      fields: lines.value.map((l) => ({
        ...l,
        from: Object.fromEntries(Object.entries(l.from).filter(([, key]) => key)),
      })),
      mainField: mainField.value || null,
      titleField: titleField.value,
      version: there.value?.version ?? null,
    }
    const made = await data(
      there.value
        ? api.PUT('/api/combined/{key}', { params: { path: { key: there.value.key } }, body })
        : api.POST('/api/combined', { body }),
    )
    catalogue.forget()
    await catalogue.load()
    if (!left()) await router.push(there.value ? `/catalogue/${made.key}` : `/registers/${made.key}`)
  })
}
</script>

<template>
  <main class="paper">
    <h1>{{ there ? `What ${there.label} is read from` : 'Combine registers' }}</h1>
    <p class="hint">
      Several registers become one to ask: their fields are laid onto each other, and each record says where
      it comes from. The records stay where they are, and everybody sees of them what they may.
    </p>
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    <form @submit.prevent="combine">
      <template v-if="there">
        <p v-for="g in there.gaps" :key="g" class="notice">{{ g }}</p>
      </template>
      <fieldset v-else>
        <legend class="hidden-text">Registers</legend>
        <h2>Registers</h2>
        <p class="which">
          <label v-for="r in choices" :key="r.key" class="tick">
            <input type="checkbox" :checked="isMember(r.key)" @change="toggle(r.key)" /> {{ r.label }}
          </label>
        </p>
      </fieldset>
      <template v-if="members.length >= 2">
        <div class="pair">
          <label>Name <input v-model="label" name="label" class="field" required maxlength="120" /></label>
          <label>
            One record
            <input
              v-model="recordLabel"
              name="recordLabel"
              class="field"
              maxlength="60"
              placeholder="entry"
            />
          </label>
          <label v-for="(m, i) in members" :key="m.register.key">
            Records of {{ m.register.label }} are called
            <input v-model="m.label" :name="`members[${i}].label`" class="field" required maxlength="60" />
          </label>
        </div>
        <h2>Fields</h2>
        <SkipLink to="past-fields">Skip past the fields</SkipLink>
        <table class="lines">
          <thead>
            <tr>
              <th scope="col">Name</th>
              <th v-for="m in members" :key="m.register.key" scope="col">{{ m.register.label }}</th>
              <th scope="col">Holds</th>
              <th scope="col">Shown by default</th>
              <th scope="col"><span class="hidden-text">Remove</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(line, i) in lines" :key="i">
              <td>
                <input
                  v-model="line.label"
                  :name="`fields[${i}].label`"
                  class="field"
                  required
                  :aria-label="`Name of field ${i + 1}`"
                />
              </td>
              <td v-for="m in members" :key="m.register.key">
                <select
                  v-model="line.from[m.register.key]"
                  class="field"
                  :aria-label="`${line.label || `Field ${i + 1}`} from ${m.register.label}`"
                >
                  <option :value="undefined">—</option>
                  <option v-for="f in stored(m.register)" :key="f.key" :value="f.key">
                    {{ f.label }} ({{ typeWords(f.type) }})
                  </option>
                </select>
              </td>
              <td>{{ typeOf(line) || '—' }}</td>
              <td><input v-model="line.shown" type="checkbox" :aria-label="`Show ${line.label}`" /></td>
              <td>
                <button
                  type="button"
                  class="word"
                  :aria-label="`Remove ${line.label}`"
                  @click="lines.splice(i, 1)"
                >
                  remove
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <p id="past-fields" class="acts">
          <button type="button" class="quiet" @click="lines.push({ label: '', from: {}, shown: true })">
            Add a field
          </button>
        </p>
        <div class="pair">
          <label>
            Main date
            <select v-model="mainField" name="mainField" class="field">
              <option value="">none</option>
              <option v-for="l in lines.filter((l) => /^(date|moment)$/.test(typeOf(l)))" :key="l.label">
                {{ l.label }}
              </option>
            </select>
          </label>
          <label>
            Records are named by
            <select v-model="titleField" name="titleField" class="field">
              <option v-for="l in lines" :key="l.label">{{ l.label }}</option>
            </select>
          </label>
        </div>
        <p class="acts">
          <button type="submit" class="act" :disabled="busy || !label.trim() || !lines.length">
            {{ there ? 'Save' : 'Combine them' }}
          </button>
          <RouterLink v-if="there" class="word" :to="`/catalogue/${there.key}`">Cancel</RouterLink>
        </p>
      </template>
      <p v-else-if="!route.params.key" class="small">Choose two or more.</p>
    </form>
  </main>
</template>

<style scoped>
.which {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
}
</style>
