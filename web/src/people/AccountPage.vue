<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, data, sentence } from '@/api/client'
import { moment } from '@/platform/format'
import { useSession } from './session'

const session = useSession()
const old = ref('')
const fresh = ref('')
const said = ref('')
const trouble = ref('')
const tokens = ref<{ id: number; label: string; createdAt: string }[]>([])
const label = ref('')
const token = ref('')

onMounted(async () => {
  document.title = 'Account · Deft Lens'
  await loadTokens()
})

async function attempt(act: () => Promise<void>) {
  said.value = trouble.value = ''
  try {
    await act()
  } catch (e) {
    trouble.value = sentence(e)
  }
}

async function loadTokens() {
  await attempt(async () => {
    tokens.value = await data(api.GET('/api/account/tokens'))
  })
}

const changePassword = () =>
  attempt(async () => {
    await api.PUT('/api/account/password', { body: { old: old.value, fresh: fresh.value } })
    old.value = fresh.value = ''
    said.value = 'Your password is changed.'
  })

const makeToken = () =>
  attempt(async () => {
    const made = await data(api.POST('/api/account/tokens', { body: { label: label.value } }))
    token.value = made.token
    label.value = ''
    tokens.value = await data(api.GET('/api/account/tokens'))
  })

const revoke = (id: number) =>
  attempt(async () => {
    await api.DELETE('/api/account/tokens/{id}', { params: { path: { id } } })
    token.value = ''
    tokens.value = await data(api.GET('/api/account/tokens'))
  })
</script>

<template>
  <main v-if="session.current" class="account">
    <h1>{{ session.current.person.fullName }}</h1>
    <dl>
      <dt>Sign-in name</dt>
      <dd>{{ session.current.person.name }}</dd>
      <dt>My site</dt>
      <dd>{{ session.current.person.site ?? 'none' }}</dd>
      <dt>My teams</dt>
      <dd>{{ session.current.person.teams.map((t) => t.name).join(', ') || 'none' }}</dd>
    </dl>
    <p v-if="said" role="status" class="said">{{ said }}</p>
    <p v-if="trouble" role="alert" class="notice">{{ trouble }}</p>
    <section>
      <h2>Change the password</h2>
      <form @submit.prevent="changePassword">
        <label for="old">Old password</label>
        <input
          id="old"
          v-model="old"
          class="field"
          type="password"
          autocomplete="current-password"
          required
        />
        <label for="fresh">New password</label>
        <input
          id="fresh"
          v-model="fresh"
          class="field"
          type="password"
          autocomplete="new-password"
          required
        />
        <button class="act">Change it</button>
      </form>
    </section>
    <section>
      <h2>Tokens for programs</h2>
      <p class="hint">
        A program signs in with the header <code>Authorization: Bearer</code> and a token, and may do what you
        may.
      </p>
      <p v-if="token" class="token" role="status">
        Copy it now, it is not shown again: <code>{{ token }}</code>
      </p>
      <ul v-if="tokens.length">
        <li v-for="t in tokens" :key="t.id">
          <span>{{ t.label }}</span>
          <span class="hint">made {{ moment(t.createdAt, session.zone) }}</span>
          <button class="word" type="button" @click="revoke(t.id)">End it</button>
        </li>
      </ul>
      <form class="row" @submit.prevent="makeToken">
        <label for="label" class="hidden-text">What the token is for</label>
        <input
          id="label"
          v-model="label"
          class="field"
          placeholder="What it is for"
          required
          maxlength="100"
        />
        <button class="quiet">Make a token</button>
      </form>
    </section>
  </main>
</template>

<style scoped>
.account {
  padding: 22px 26px 40px;
  max-width: 620px;
  overflow: auto;
}

h1 {
  font: 600 24px var(--serif);
}

h2 {
  font: 600 16px var(--sans);
  margin: 24px 0 6px;
}

dl {
  display: grid;
  grid-template-columns: 120px 1fr;
  gap: 3px 0;
  margin: 10px 0;
}

dt,
.hint {
  color: var(--ink-2);
}

dd {
  margin: 0;
}

form {
  display: grid;
  gap: 5px;
  max-width: 340px;
}

form .act {
  justify-self: start;
  margin-top: 8px;
}

.row {
  grid-template-columns: 1fr auto;
  max-width: 460px;
  margin-top: 8px;
}

ul {
  list-style: none;
  padding: 0;
}

li {
  display: flex;
  gap: 14px;
  align-items: baseline;
}

.token code {
  overflow-wrap: anywhere;
  font-weight: 600;
}

.said {
  color: var(--act);
  font-weight: 600;
}
</style>
