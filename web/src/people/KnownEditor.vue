<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, ref, watch } from 'vue'
import { api, data, sentence, type Attribute } from '@/api/client'
import { counted } from '@/platform/format'
import { useCatalogue } from '@/registers/catalogue'
import { useSession } from './session'
import SaidLine from '@/platform/SaidLine.vue'

/** Attributes, and said in statements as “my …”. */
const props = defineProps<{ known: Attribute[] }>()
const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const catalogue = useCatalogue()
const lines = ref<Attribute[]>([])
const { busy, trouble, said, act } = useActing()
const mayChange = computed(() => session.isAdministrator && session.mayWrite)
watch(
  () => props.known,
  (now) => (lines.value = now.map((k) => ({ ...k }))),
  { immediate: true },
)

/** What would go with the attributes that were taken off the list. */
const losing = ref<{ key: string; people: number }[]>([])
const askOpen = ref(false)

/** Saves at once, or asks first where values of people would go. */
async function keepAsked() {
  const gone = props.known.filter((k) => !lines.value.some((l) => l.key === k.key))
  if (!gone.length) return keep()
  trouble.value = said.value = ''
  try {
    const people = await data(api.GET('/api/people'))
    losing.value = gone.map(({ key }) => ({
      key,
      people: people.filter((p) => p.values[key]?.length).length,
    }))
    askOpen.value = true
  } catch (e) {
    trouble.value = sentence(e)
  }
}

async function keep() {
  askOpen.value = false
  await act(async () => {
    await data(api.PUT('/api/viewer-attributes', { body: lines.value }))
    said.value = 'Saved. Statements can use it from now on.'
    catalogue.forget()
    emit('changed')
  })
}
</script>

<template>
  <p class="hint">
    One view answers each reader by their own attributes: <em>site is my site</em>. Beside <em>me</em> and
    <em>my team</em>, which everybody has, an organisation may add more: a cost centre, a grade, the quays
    somebody looks after. A person may have several values of one.
  </p>
  <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
  <SaidLine :words="said" />
  <form @submit.prevent="keepAsked">
    <fieldset :disabled="!mayChange || busy">
      <table v-if="lines.length" class="lines">
        <thead>
          <tr>
            <th scope="col">In statements</th>
            <th scope="col">Name</th>
            <th scope="col">What it is</th>
            <th scope="col"><span class="hidden-text">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(k, i) in lines" :key="i">
            <td class="key">
              my
              <input
                v-model="k.key"
                class="field"
                required
                pattern="[a-z][a-z0-9_]*"
                title="one word of small letters, digits and _"
                placeholder="cost_centre"
                :aria-label="`Word of line ${i + 1}`"
                :readonly="known.some((o) => o.key === k.key && known[i]?.key === k.key)"
              />
            </td>
            <td>
              <input
                v-model="k.label"
                class="field"
                required
                maxlength="120"
                :aria-label="`Name of line ${i + 1}`"
              />
            </td>
            <td>
              <input
                v-model="k.description"
                class="field"
                maxlength="300"
                :aria-label="`What line ${i + 1} is`"
              />
            </td>
            <td>
              <button
                v-if="mayChange"
                type="button"
                class="word"
                :aria-label="`Remove my ${k.key}`"
                @click="lines.splice(i, 1)"
              >
                remove
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else class="hint">There are no attributes yet beside the name and the teams.</p>
      <p v-if="mayChange" class="acts">
        <button type="button" class="quiet" @click="lines.push({ key: '', label: '', description: '' })">
          Add a line
        </button>
        <button type="submit" class="act">Save</button>
      </p>
    </fieldset>
  </form>
  <section>
    <ElDialog
      v-model="askOpen"
      :title="losing.length === 1 ? `Remove my ${losing[0]!.key}?` : 'Remove attributes?'"
      width="440px"
    >
      <ul>
        <li v-for="l in losing" :key="l.key">
          <strong>my {{ l.key }}</strong
          >:
          {{
            l.people
              ? `${counted(l.people, 'person has', 'people have')} a value of it; those values go for good.`
              : 'nobody has a value of it.'
          }}
        </li>
      </ul>
      <p>An attribute that a view or a limit of access uses is not removed; it is said which.</p>
      <template #footer>
        <button type="button" class="word" @click="askOpen = false">Cancel</button>
        <button type="button" class="act" :disabled="busy" @click="keep">
          {{ losing.length === 1 ? 'Remove it' : 'Remove them' }}
        </button>
      </template>
    </ElDialog>
  </section>
</template>

<style scoped>
ul {
  margin: 0 0 8px;
  padding-left: 18px;
}

.key {
  white-space: nowrap;
}

.key .field {
  display: inline-block;
  width: 180px;
}
</style>
