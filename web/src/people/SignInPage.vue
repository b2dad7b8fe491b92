<script setup lang="ts">
import { nextTick, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, data, Problem, sentence } from '@/api/client'
import { useFieldError } from '@/platform/useFieldError'
import { useSession } from './session'

const session = useSession()
const route = useRoute()
const router = useRouter()

const organisation = ref('')
const identity = ref<{ label: string; start: string }>()
const offered = ref<{ name: string; fullName: string; about: string; password: string }[]>([])
const name = ref('')
const password = ref('')
const trouble = ref(typeof route.query.refused === 'string' ? route.query.refused : '')
/** whether it is about the name and the password, and not about the server or a wait */
const wrong = ref(false)
const troubleId = useFieldError(
  () => document.querySelectorAll('#name, #password'),
  () => (wrong.value ? trouble.value : ''),
)
const busy = ref(false)
const nameField = ref<HTMLInputElement>()

onMounted(async () => {
  document.title = 'Sign in · Deft Lens'
  nameField.value?.focus()
  try {
    const welcome = await data(api.GET('/api/welcome'))
    organisation.value = welcome.organisation
    offered.value = welcome.demo
    identity.value = welcome.identity ?? undefined
  } catch (e) {
    trouble.value = sentence(e)
  }
})

async function signIn() {
  busy.value = true
  trouble.value = ''
  wrong.value = false
  try {
    await session.signIn(name.value, password.value)
    await router.push(typeof route.query.to === 'string' ? route.query.to : '/')
  } catch (e) {
    trouble.value = sentence(e)
    wrong.value = e instanceof Problem && e.code === 'wrong-sign-in'
    await nextTick()
    nameField.value?.select()
  } finally {
    busy.value = false
  }
}

async function take(who: { name: string; password: string }) {
  name.value = who.name
  password.value = who.password
  await signIn()
}
</script>

<template>
  <main class="sign-in">
    <section class="sheet">
      <p class="brand">Deft Lens</p>
      <h1>{{ organisation || '\u00a0' }}</h1>
      <p class="promise">Precise questions over your records, and answers you can trust.</p>
      <form @submit.prevent="signIn">
        <label for="name">Name</label>
        <input id="name" ref="nameField" v-model="name" class="field" autocomplete="username" required />
        <label for="password">Password</label>
        <input
          id="password"
          v-model="password"
          class="field"
          type="password"
          autocomplete="current-password"
          required
        />
        <p v-if="trouble" :id="troubleId" class="notice" role="alert">{{ trouble }}</p>
        <button class="act" type="submit" :disabled="busy">{{ busy ? 'Signing in…' : 'Sign in' }}</button>
      </form>
      <p v-if="identity" class="identity">
        <a
          class="quiet"
          :href="`${identity.start}?to=${encodeURIComponent(typeof route.query.to === 'string' ? route.query.to : '/')}`"
          >Sign in with {{ identity.label }}</a
        >
      </p>
      <section v-if="offered.length" class="offered" aria-labelledby="offered">
        <h2 id="offered">This is a demonstration. Sign in as</h2>
        <ul>
          <li v-for="who in offered" :key="who.name">
            <button class="plain" type="button" :disabled="busy" @click="take(who)">
              <strong>{{ who.fullName }}</strong>
              <span>{{ who.about }}</span>
            </button>
          </li>
        </ul>
      </section>
    </section>
  </main>
</template>

<style scoped>
.sign-in {
  min-height: 100%;
  background: var(--desk);
  display: grid;
  place-items: start center;
  padding: 8vh 16px 32px;
}

.sheet {
  width: min(430px, 100%);
  background: var(--paper);
  border-radius: 4px;
  padding: 30px 36px 26px;
  box-shadow: 0 14px 40px rgb(0 0 0 / 35%);
}

.brand {
  font: 600 15px var(--serif);
  color: var(--ink-3);
}

h1 {
  font: 600 27px/1.2 var(--serif);
  margin: 2px 0 4px;
}

.promise {
  color: var(--ink-2);
  margin-bottom: 18px;
}

form {
  display: grid;
  gap: 5px;
}

label {
  font-weight: 600;
  margin-top: 6px;
}

.act {
  margin-top: 14px;
  padding: 8px 14px;
}

.notice {
  margin-top: 10px;
}

.identity {
  margin-top: 10px;
}

.identity a {
  display: block;
  text-align: center;
  text-decoration: none;
  padding: 7px 14px;
}

.offered {
  margin-top: 24px;
  border-top: 1px solid var(--rule);
  padding-top: 14px;
}

.offered h2 {
  font: 600 14.5px var(--sans);
  color: var(--ink-2);
  margin-bottom: 6px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li .plain {
  display: flex;
  gap: 10px;
  width: 100%;
  padding: 5px 6px;
  margin: 0 -6px;
  border-radius: 4px;
}

li .plain:hover {
  background: var(--act-soft);
}

li strong {
  flex: 0 0 112px;
  color: var(--act);
  font-weight: 600;
}

li span {
  color: var(--ink-2);
}
</style>
