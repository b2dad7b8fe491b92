<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, type Attribute, type SignedInPlace, type Token } from '@/api/client'
import { useRefusal } from '@/platform/useRefusal'
import { day, localDay, moment } from '@/platform/format'
import LetterKeys from './LetterKeys.vue'
import { ROLE_SENTENCES, ROLES } from './roles'
import { useSession } from './session'
import SaidLine from '@/platform/SaidLine.vue'
import { announceEach } from '@/platform/announcements'

const session = useSession()
const router = useRouter()
const fullName = ref('')
const old = ref('')
const fresh = ref('')
const keepTokens = ref(false)
const said = ref('')
const { trouble, troubleId, refused } = useRefusal()
const known = ref<Attribute[]>([])
const places = ref<SignedInPlace[]>([])
const tokens = ref<Token[]>([])
const label = ref('')
const mayWrite = ref(false)
const days = ref(90)
const token = ref('')

onMounted(async () => {
  document.title = 'Account · Deft Lens'
  fullName.value = session.current?.person.fullName ?? ''
  if (!session.current?.mustChangePassword && !session.watcher) await attempt(load)
})

async function attempt(act: () => Promise<void>, words = '') {
  said.value = trouble.value = ''
  try {
    await act()
    if (words) said.value = words
  } catch (e) {
    refused(e)
  }
}

async function load() {
  ;[known.value, places.value, tokens.value] = await Promise.all([
    data(api.GET('/api/viewer-attributes')),
    data(api.GET('/api/account/sessions')),
    data(api.GET('/api/account/tokens')),
  ])
}

const rename = () =>
  attempt(async () => {
    await api.PATCH('/api/account', { body: { fullName: fullName.value } })
    await session.load(true)
  }, 'Your name is changed.')

const changePassword = () =>
  attempt(async () => {
    const due = session.current?.mustChangePassword
    await api.PUT('/api/account/password', {
      body: { old: old.value, fresh: fresh.value, keepTokens: keepTokens.value },
    })
    const kept = keepTokens.value || !tokens.value.length
    old.value = fresh.value = ''
    keepTokens.value = false
    await session.load(true)
    if (due) await router.push('/')
    else await load()
    said.value = `Your password is changed, and your other sessions${kept ? '' : ' and your tokens'} are ended.`
  })

const endPlace = (id: string) =>
  attempt(async () => {
    await api.DELETE('/api/account/sessions/{id}', { params: { path: { id } } })
    places.value = await data(api.GET('/api/account/sessions'))
  }, 'That session is ended.')

const endOthers = () =>
  attempt(async () => {
    await api.DELETE('/api/account/sessions')
    places.value = await data(api.GET('/api/account/sessions'))
  }, 'You are signed out everywhere else.')

const makeToken = () =>
  attempt(async () => {
    const made = await data(
      api.POST('/api/account/tokens', {
        body: { label: label.value, mayWrite: mayWrite.value, days: days.value },
      }),
    )
    token.value = made.token
    label.value = ''
    tokens.value = await data(api.GET('/api/account/tokens'))
  })

const revoke = (id: string) =>
  attempt(async () => {
    await api.DELETE('/api/account/tokens/{id}', { params: { path: { id } } })
    token.value = ''
    tokens.value = await data(api.GET('/api/account/tokens'))
  }, 'The token is ended.')

/** What a browser says it is, as far as people know it by that. */
function browser(agent: string): string {
  const name = /(Firefox|Edg|OPR|Chrome|Safari)\//.exec(agent)?.[1]
  const system = /(Windows|Mac OS|Android|iPhone|iPad|Linux)/.exec(agent)?.[1]
  const names: Record<string, string> = { Edg: 'Edge', OPR: 'Opera' }
  return name
    ? [names[name] ?? name, system && `on ${system}`].filter(Boolean).join(' ')
    : agent || 'a program'
}
announceEach(() => token.value && 'The token is made. Copy it now, it is not shown again.')
</script>

<template>
  <main v-if="session.current" class="paper">
    <h1>{{ session.current.person.fullName }}</h1>
    <p v-if="session.current.mustChangePassword" class="notice">
      Somebody else chose your password. Choose one of your own, then go on.
    </p>
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
    <SaidLine :words="said" />
    <template v-if="session.watcher">
      <p class="hint">An account is its person’s own: it is not shown while you look as somebody else.</p>
    </template>
    <template v-else>
      <template v-if="!session.current.mustChangePassword">
        <dl>
          <dt>Signs in as</dt>
          <dd>{{ session.current.person.name }}</dd>
          <dt>Role</dt>
          <dd>{{ ROLES[session.current.person.role] }}: {{ ROLE_SENTENCES[session.current.person.role] }}</dd>
          <dt>My teams</dt>
          <dd>{{ session.current.person.teams.map((t) => t.name).join(', ') || 'none' }}</dd>
          <template v-for="k in known" :key="k.key">
            <dt>My {{ k.label.toLowerCase() }}</dt>
            <dd>{{ session.current.person.values[k.key]?.join(', ') ?? 'none' }}</dd>
          </template>
        </dl>
        <p class="hint">Role, teams and attributes are an administrator’s to change.</p>
        <form class="row" @submit.prevent="rename">
          <label class="hidden-text" for="full-name">Full name</label>
          <input id="full-name" v-model="fullName" name="fullName" class="field" required maxlength="120" />
          <button class="quiet" :disabled="fullName === session.current.person.fullName">
            Change my name
          </button>
        </form>
      </template>
      <section v-if="!session.current.mustChangePassword">
        <h2>Keys</h2>
        <LetterKeys />
      </section>
      <section>
        <h2>Change the password</h2>
        <form class="pair" @submit.prevent="changePassword">
          <label for="old"
            >Old password
            <input
              id="old"
              v-model="old"
              name="old"
              class="field"
              type="password"
              autocomplete="current-password"
              required
            />
          </label>
          <label for="fresh"
            >New password
            <input
              id="fresh"
              v-model="fresh"
              name="fresh"
              class="field"
              type="password"
              autocomplete="new-password"
              minlength="9"
              required
            />
          </label>
          <label v-if="tokens.some((t) => !t.expired)" class="tick">
            <input v-model="keepTokens" type="checkbox" /> my tokens go on working
          </label>
          <button class="act">Change it</button>
        </form>
      </section>
      <template v-if="!session.current.mustChangePassword">
        <section>
          <h2>Where you are signed in</h2>
          <table class="lines">
            <thead>
              <tr>
                <th scope="col">Browser</th>
                <th scope="col">From</th>
                <th scope="col">Since</th>
                <th scope="col">Last used</th>
                <th scope="col"><span class="hidden-text">End it</span></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="p in places" :key="p.id">
                <td :title="p.agent">{{ browser(p.agent) }}</td>
                <td>{{ p.address }}</td>
                <td>{{ moment(p.signedInAt, session.zone) }}</td>
                <td>{{ moment(p.lastUsedAt, session.zone) }}</td>
                <td>
                  <template v-if="p.here">this one</template>
                  <button v-else type="button" class="word" @click="endPlace(p.id)">End it</button>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-if="places.length > 1" class="acts">
            <button type="button" class="quiet" @click="endOthers">Sign out everywhere else</button>
          </p>
        </section>
        <section>
          <h2>Tokens for programs</h2>
          <p class="hint">
            A program signs in with the header <code>Authorization: Bearer</code> and a token. It reads what
            you may read, and changes things only where the token says so.
          </p>
          <p v-if="token" class="token">
            Copy it now, it is not shown again: <code>{{ token }}</code>
          </p>
          <table v-if="tokens.length" class="lines">
            <thead>
              <tr>
                <th scope="col">What it is for</th>
                <th scope="col">May</th>
                <th scope="col">Works until</th>
                <th scope="col">Last used</th>
                <th scope="col"><span class="hidden-text">End it</span></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="t in tokens" :key="t.id">
                <td>{{ t.label }}</td>
                <td>{{ t.mayWrite ? 'read and change' : 'read' }}</td>
                <td :class="{ over: t.expired }">
                  {{ t.expiresAt ? day(localDay(t.expiresAt, session.zone)) : 'it is ended'
                  }}{{ t.expired ? ', over' : '' }}
                </td>
                <td>{{ t.lastUsedAt ? moment(t.lastUsedAt, session.zone) : 'never' }}</td>
                <td><button class="word" type="button" @click="revoke(t.id)">End it</button></td>
              </tr>
            </tbody>
          </table>
          <form class="row making" @submit.prevent="makeToken">
            <label for="label" class="hidden-text">What the token is for</label>
            <input
              id="label"
              v-model="label"
              name="label"
              class="field"
              placeholder="What it is for"
              required
              maxlength="100"
            />
            <select v-model="mayWrite" class="field" aria-label="What it may do">
              <option :value="false">to read</option>
              <option :value="true">to read and change</option>
            </select>
            <select v-model.number="days" name="days" class="field" aria-label="How long it works">
              <option :value="7">for 7 days</option>
              <option :value="30">for 30 days</option>
              <option :value="90">for 90 days</option>
              <option :value="366">for a year</option>
            </select>
            <button class="quiet">Make a token</button>
          </form>
        </section>
      </template>
    </template>
  </main>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 140px 1fr;
  gap: 3px 0;
  margin: 10px 0;
}

dt {
  color: var(--ink-2);
}

dd {
  margin: 0;
}

.row {
  display: grid;
  grid-template-columns: minmax(0, 300px) auto;
  justify-content: start;
  gap: 10px;
  margin-top: 10px;
}

.making {
  grid-template-columns: minmax(0, 260px) 170px 130px auto;
}

.pair .act {
  justify-self: start;
  align-self: end;
}

.token code {
  overflow-wrap: anywhere;
  font-weight: 600;
}

.over {
  color: var(--alert);
}

@media (max-width: 700px) {
  .making {
    grid-template-columns: 1fr;
  }
}
</style>
