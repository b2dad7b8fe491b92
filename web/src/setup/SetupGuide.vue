<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { sentence } from '@/api/client'
import { useSetup, type SetupStep } from './setup'

/** Leads through what a new installation needs; each step can be left for later. */
const setup = useSetup()
const trouble = ref('')

onMounted(async () => {
  document.title = 'Set up · Deft Lens'
  await setup.load().catch((e) => (trouble.value = sentence(e)))
})

const STEPS: Record<
  SetupStep['step'],
  { title: string; about: string; done: string; ways: { words: string; to: string }[] }
> = {
  ORGANISATION: {
    title: 'Organisation',
    about:
      'Its name, time zone, first day of the week, fiscal year and working hours: “today”, “this week” and “outside working hours” follow from them.',
    done: 'the calendar is saved',
    ways: [{ words: 'Set the calendar', to: '/organisation' }],
  },
  RECORDS: {
    title: 'Records',
    about:
      'A register is one kind of record. It comes from a file, from a table of this database, or from another PostgreSQL server. A small sample of invented tickets is there to try things on, and is easily taken back.',
    done: 'there is a register',
    ways: [
      { words: 'Import a file', to: '/catalogue/import' },
      { words: 'Attach a table', to: '/catalogue/attach' },
      { words: 'Link another server', to: '/catalogue/link' },
      { words: 'Try the sample', to: '/catalogue/import?sample=1' },
    ],
  },
  PEOPLE: {
    title: 'People',
    about: 'Who signs in, in which teams, and what is known of each of them, such as their site.',
    done: 'there are others than you',
    ways: [
      { words: 'Add people', to: '/people' },
      { words: 'Import people', to: '/people/file' },
    ],
  },
}
const next = computed(() => setup.steps.find((s) => s.state === 'OPEN')?.step)

async function leave(step: SetupStep, later: boolean) {
  trouble.value = ''
  await setup.leave(step.step, later).catch((e) => (trouble.value = sentence(e)))
}
</script>

<template>
  <main class="paper">
    <h1>Set up Deft Lens</h1>
    <p class="hint">
      {{
        !setup.steps.length
          ? 'There is nothing to set up here.'
          : next
            ? 'In this order is best. Each step can be left for later.'
            : 'Nothing is left to do. What you left for later can be taken up at any time.'
      }}
    </p>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <ol v-if="setup.steps.length" class="steps">
      <li class="done">
        <span class="mark" aria-hidden="true">✓</span>
        <div>
          <h2>Password</h2>
          <p class="state">Done: you chose your own.</p>
        </div>
      </li>
      <li v-for="(step, i) in setup.steps" :key="step.step" :class="step.state.toLowerCase()">
        <span class="mark" aria-hidden="true">{{ step.state === 'DONE' ? '✓' : i + 2 }}</span>
        <div>
          <h2>{{ STEPS[step.step].title }}</h2>
          <p v-if="step.state === 'DONE'" class="state">Done: {{ STEPS[step.step].done }}.</p>
          <p v-else-if="step.state === 'LATER'" class="state">Left for later.</p>
          <p class="about">{{ STEPS[step.step].about }}</p>
          <p class="acts">
            <RouterLink
              v-for="(way, n) in STEPS[step.step].ways"
              :key="way.to"
              :class="n === 0 && step.step === next ? 'act' : 'quiet'"
              :to="way.to"
              >{{ way.words }}</RouterLink
            >
            <button
              v-if="step.state === 'OPEN'"
              type="button"
              class="word"
              :aria-label="`Later: ${STEPS[step.step].title}`"
              @click="leave(step, true)"
            >
              Later
            </button>
            <button
              v-else-if="step.state === 'LATER'"
              type="button"
              class="word"
              :aria-label="`Take it up: ${STEPS[step.step].title}`"
              @click="leave(step, false)"
            >
              Take it up
            </button>
          </p>
        </div>
      </li>
    </ol>
  </main>
</template>

<style scoped>
.steps {
  list-style: none;
  margin: 18px 0 0;
  padding: 0;
  max-width: 760px;
}

.steps li {
  display: grid;
  grid-template-columns: 34px minmax(0, 1fr);
  gap: 12px;
  padding: 14px 0;
  border-top: 1px solid var(--rule);
}

.mark {
  width: 28px;
  height: 28px;
  border: 1.5px solid var(--rule-strong);
  border-radius: 50%;
  display: grid;
  place-items: center;
  font-weight: 600;
  color: var(--ink-2);
}

.done .mark {
  border-color: var(--act);
  background: var(--act-soft);
  color: var(--act);
}

h2 {
  margin: 2px 0 0;
}

.state {
  color: var(--ink-2);
  font-weight: 600;
  margin: 2px 0 0;
}

.about {
  color: var(--ink-2);
  margin: 4px 0 0;
}

.acts {
  margin-top: 8px;
}

a.quiet {
  color: var(--ink);
}
</style>
