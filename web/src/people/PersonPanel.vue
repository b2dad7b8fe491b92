<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, onMounted, ref, watch } from 'vue'
import {
  api,
  data,
  Problem,
  type Attribute,
  type PersonEntry,
  type Profile,
  type TeamEntry,
} from '@/api/client'
import { counted, moment } from '@/platform/format'
import { useCatalogue } from '@/registers/catalogue'
import { ROLE_SENTENCES, ROLES } from './roles'
import { useSession } from './session'
import { vFocusFirst } from '@/platform/focusKeeper'

/** One person: what is said of them, and how they sign in; or somebody who is to be added. */
const props = defineProps<{ id?: string; teams: TeamEntry[]; known: Attribute[]; people: Profile[] }>()
const emit = defineEmits<{ changed: [words: string, entry?: PersonEntry]; close: [] }>()
const session = useSession()
const catalogue = useCatalogue()

const entry = ref<PersonEntry>()
const name = ref('')
const password = ref('')
const fullName = ref('')
const role = ref<Profile['role']>('MEMBER')
const memberOf = ref<string[]>([])
const values = ref<Record<string, string[]>>({})
const heir = ref<string>()
const { busy, trouble, troubleId, refused, act } = useActing()
const owned = computed(() => entry.value?.views ?? 0)
/** whether it is being asked if somebody leaves */
const leaving = ref(false)

watch(() => props.id, load, { immediate: true })
async function load() {
  entry.value = undefined
  trouble.value = ''
  if (props.id === undefined) {
    values.value = Object.fromEntries(props.known.map((k) => [k.key, []]))
    return
  }
  try {
    take(await data(api.GET('/api/people/{id}', { params: { path: { id: props.id } } })))
  } catch (e) {
    refused(e)
  }
}
function take(fresh: PersonEntry) {
  leaving.value = false
  entry.value = fresh
  fullName.value = fresh.person.fullName
  role.value = fresh.person.role
  memberOf.value = fresh.person.teams.map((t) => t.id)
  values.value = Object.fromEntries(props.known.map((k) => [k.key, [...(fresh.person.values[k.key] ?? [])]]))
}
/**
 * What can be chosen for an attribute: the values of the choice fields of its name, and what others have. Anything else can be
 * typed too.
 */
const choices = ref<Record<string, string[]>>({})
onMounted(async () => {
  if (!catalogue.names.length) await catalogue.load().catch(() => {})
  // What cannot be read offers nothing.
  const registers = await Promise.allSettled(catalogue.names.map((r) => catalogue.describe(r.key)))
  const fields = registers.flatMap((r) => (r.status === 'fulfilled' ? r.value.fields : []))
  choices.value = Object.fromEntries(
    props.known.map((k) => [
      k.key,
      [
        ...new Set([
          ...fields
            .filter((f) => f.key === k.key && f.type === 'choice')
            .flatMap((f) => f.options.map((o) => o.value)),
          ...props.people.flatMap((p) => p.values[k.key] ?? []),
        ]),
      ].sort(),
    ]),
  )
})

/** What is being looked for in the box of each attribute. */
const sought = ref<Record<string, string>>({})

/** The values that match, and behind them what was typed as a new one: Enter takes what is there before what is not. */
function offered(key: string): { value: string; fresh: boolean }[] {
  const text = (sought.value[key] ?? '').trim()
  const there = [...new Set([...(choices.value[key] ?? []), ...(values.value[key] ?? [])])]
  const found = there.filter((v) => v.toLowerCase().includes(text.toLowerCase()))
  const fresh = text && !there.some((v) => v.toLowerCase() === text.toLowerCase())
  return [
    ...found.map((value) => ({ value, fresh: false })),
    ...(fresh ? [{ value: text, fresh: true }] : []),
  ]
}

async function attempt(words: string, what: () => Promise<PersonEntry | undefined>) {
  await act(
    async () => {
      const fresh = await what()
      if (fresh) take(fresh)
      emit('changed', words, fresh)
    },
    (e) => {
      if (e instanceof Problem && e.code === 'changed-meanwhile' && e.details.current) {
        entry.value = e.details.current as PersonEntry
        trouble.value += ' Press Save again to write yours over it.'
      }
    },
  )
}

const path = computed(() => ({ params: { path: { id: props.id! } } }))
const version = computed(() => ({ version: entry.value!.version }))
function keep() {
  const body = { fullName: fullName.value, role: role.value, teams: memberOf.value, values: values.value }
  if (props.id === undefined) {
    return attempt(
      `${fullName.value} is added. They choose a password of their own at their first sign-in.`,
      () =>
        data(
          api.POST('/api/people', { body: { name: name.value, password: password.value, ...body } }),
        ) as Promise<PersonEntry>,
    )
  }
  return attempt(
    `${fullName.value} is kept.`,
    () =>
      data(
        api.PUT('/api/people/{id}', { ...path.value, body: { ...version.value, ...body } }),
      ) as Promise<PersonEntry>,
  )
}
const leave = () =>
  attempt(
    `${fullName.value} can no longer sign in; sessions and tokens are ended.`,
    () =>
      data(
        api.POST('/api/people/{id}/leave', { ...path.value, body: version.value }),
      ) as Promise<PersonEntry>,
  )
const comeBack = () =>
  attempt(
    `${fullName.value} can sign in again.`,
    () =>
      data(
        api.POST('/api/people/{id}/return', { ...path.value, body: version.value }),
      ) as Promise<PersonEntry>,
  )
const setPassword = () =>
  attempt(`${fullName.value} signs in with the new password and changes it there.`, async () => {
    await api.PUT('/api/people/{id}/password', { ...path.value, body: { password: password.value } })
    password.value = ''
    return data(api.GET('/api/people/{id}', path.value)) as Promise<PersonEntry>
  })
const signOut = () =>
  attempt(`${fullName.value} is signed out everywhere.`, async () => {
    await api.DELETE('/api/people/{id}/sessions', path.value)
    return data(api.GET('/api/people/{id}', path.value)) as Promise<PersonEntry>
  })
const unlink = () =>
  attempt(
    `${fullName.value} is no longer linked to the identity provider.`,
    () => data(api.DELETE('/api/people/{id}/identity', path.value)) as Promise<PersonEntry>,
  )
function handOver() {
  const to = props.people.find((p) => p.id === heir.value)!
  return attempt(`The views of ${fullName.value} are ${to.fullName}’s now.`, async () => {
    await api.POST('/api/people/{id}/hand-over', { ...path.value, body: { to: to.id } })
    return data(api.GET('/api/people/{id}', path.value)) as Promise<PersonEntry>
  })
}
async function lookAs() {
  try {
    await session.lookAs(props.id!, '/')
  } catch (e) {
    refused(e)
  }
}
const mayChange = computed(() => session.isAdministrator && session.mayWrite)
const heirs = computed(() =>
  props.people.filter((p) => p.active && p.id !== props.id && p.role !== 'AUDITOR'),
)
</script>

<template>
  <section class="person" :aria-label="entry?.person.fullName ?? 'A new person'">
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    <form v-if="entry || id === undefined" v-focus-first @submit.prevent="keep">
      <fieldset :disabled="!mayChange || busy">
        <div class="pair">
          <template v-if="id === undefined">
            <label
              >Signs in as
              <input v-model="name" name="name" class="field" required maxlength="60" autocomplete="off"
            /></label>
            <label>
              First password
              <input
                v-model="password"
                name="password"
                class="field"
                type="password"
                required
                minlength="9"
                autocomplete="new-password"
              />
            </label>
          </template>
          <label
            >Full name <input v-model="fullName" name="fullName" class="field" required maxlength="120"
          /></label>
          <label>
            Role
            <select v-model="role" class="field" aria-describedby="role-means">
              <option v-for="(words, key) in ROLES" :key="key" :value="key">{{ words }}</option>
            </select>
            <span id="role-means" class="small">{{ ROLE_SENTENCES[role] }}</span>
          </label>
          <label v-for="k in known" :key="k.key">
            {{ k.label }}
            <ElSelect
              v-model="values[k.key]"
              multiple
              filterable
              default-first-option
              :filter-method="(text: string) => (sought[k.key] = text)"
              :reserve-keyword="false"
              :placeholder="`my ${k.key}`"
              :aria-label="k.label"
              :title="k.description || undefined"
              no-data-text="Type a value"
            >
              <ElOption
                v-for="o in offered(k.key)"
                :key="o.value"
                :value="o.value"
                :label="o.fresh ? `${o.value} (new)` : o.value"
              />
            </ElSelect>
          </label>
        </div>
        <fieldset class="teams">
          <legend>Teams</legend>
          <label v-for="t in teams" :key="t.id" class="tick">
            <input v-model="memberOf" type="checkbox" :value="t.id" /> {{ t.name }}
          </label>
        </fieldset>
        <p class="acts">
          <button v-if="mayChange" type="submit" class="act">{{ id === undefined ? 'Add' : 'Save' }}</button>
          <button type="button" class="word" @click="emit('close')">Close</button>
        </p>
      </fieldset>
    </form>
    <div v-if="entry" class="about">
      <p>
        {{
          entry.leftAt
            ? `Deactivated, ${moment(entry.leftAt, session.zone)}.`
            : `Signed in with ${counted(entry.sessions, 'browser')}; ${counted(entry.tokens, 'token')} for programs.`
        }}
        {{ entry.linked ? 'Linked to the identity provider.' : '' }}
        {{ entry.mustChangePassword ? 'Has yet to choose a password of their own.' : '' }}
        {{ owned ? `Owns ${counted(owned, 'view')}.` : 'Owns no view.' }}
      </p>
      <p v-if="mayChange" class="acts">
        <template v-if="entry.person.active">
          <button type="button" class="quiet" @click="lookAs">Look as them</button>
          <button v-if="entry.sessions" type="button" class="quiet" :disabled="busy" @click="signOut">
            Sign out everywhere
          </button>
          <button v-if="entry.linked" type="button" class="quiet" :disabled="busy" @click="unlink">
            Unlink from the identity provider
          </button>
          <button
            v-if="entry.person.id !== session.current?.person.id"
            type="button"
            class="quiet"
            :aria-expanded="leaving"
            @click="leaving = !leaving"
          >
            Deactivate…
          </button>
        </template>
        <button v-else type="button" class="quiet" :disabled="busy" @click="comeBack">Reactivate</button>
      </p>
      <p v-if="leaving && entry.person.active" class="leaving" role="alert">
        {{ entry.person.fullName }} is signed out everywhere at once, and their tokens end.
        {{ owned ? 'Their views stay theirs until somebody takes them over.' : '' }}
        <button type="button" class="act" :disabled="busy" @click="leave">Deactivate now</button>
        <button type="button" class="word" @click="leaving = false">Cancel</button>
      </p>
      <form v-if="mayChange && owned" class="row" @submit.prevent="handOver">
        <ElSelect
          v-model="heir"
          filterable
          default-first-option
          placeholder="Who takes over their views"
          aria-label="Who takes over their views"
        >
          <ElOption v-for="p in heirs" :key="p.id" :value="p.id" :label="p.fullName" />
        </ElSelect>
        <button class="quiet" :disabled="!heir || busy">
          Hand {{ owned === 1 ? 'it' : `all ${owned}` }} over
        </button>
      </form>
      <form v-if="mayChange && entry.person.active" class="row" @submit.prevent="setPassword">
        <input
          v-model="password"
          class="field"
          type="password"
          minlength="9"
          required
          autocomplete="new-password"
          placeholder="A password for their next sign-in"
          aria-label="A password for their next sign-in"
        />
        <button class="quiet" :disabled="busy">Set it</button>
      </form>
    </div>
  </section>
</template>

<style scoped>
.person {
  padding: 6px 4px 10px;
}

label .small {
  font-weight: 400;
}

.teams {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin-top: 10px;
}

.teams legend {
  float: left;
  padding-right: 16px;
  line-height: 26px;
}

.about {
  border-top: 1px solid var(--rule);
  margin-top: 12px;
  padding-top: 8px;
}

.leaving {
  border-left: 3px solid var(--alert);
  padding: 2px 0 2px 12px;
  margin-top: 10px;
}

.leaving .act {
  margin: 0 8px;
}

.row {
  display: grid;
  grid-template-columns: minmax(0, 320px) auto;
  justify-content: start;
  gap: 10px;
  margin-top: 10px;
}
</style>
