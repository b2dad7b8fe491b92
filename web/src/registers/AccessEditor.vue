<script setup lang="ts">
import { useActing } from '@/platform/useActing'
import { computed, nextTick, onMounted, ref } from 'vue'
import { api, data, sentence, type AccessLine, type Register, type TeamName } from '@/api/client'
import { useSession } from '@/people/session'
import StatementBuilder from '@/statements/StatementBuilder.vue'
import { vRoving } from '@/platform/roving'
import SaidLine from '@/platform/SaidLine.vue'

const props = defineProps<{ register: Register }>()
const session = useSession()

interface Line {
  team: string | ''
  reads: 'all' | 'some' | 'none'
  statement: string
  hidden: string[]
  changesMany: boolean
}

const teams = ref<TeamName[]>([])
const lines = ref<Line[]>([])
const { busy, trouble, said, act } = useActing()
/** what is there already must be seen before anything is added to it */
const loaded = ref(false)
const mayChange = computed(() => session.isAdministrator)

onMounted(async () => {
  try {
    teams.value = await data(api.GET('/api/teams'))
    take(
      await data(api.GET('/api/registers/{key}/access', { params: { path: { key: props.register.key } } })),
    )
  } catch (e) {
    trouble.value = sentence(e)
  }
})

function take(fresh: AccessLine[]) {
  loaded.value = true
  lines.value = fresh.map((l) => ({
    team: l.team ?? '',
    reads: !l.mayRead ? 'none' : l.statement ? 'some' : 'all',
    statement: l.statement,
    hidden: l.hidden,
    changesMany: l.mayChangeMany ?? false,
  }))
}

const hideable = computed(() =>
  props.register.fields.filter(
    (f) => f.key !== props.register.titleField && f.key !== props.register.mainField,
  ),
)

async function keep() {
  await act(async () => {
    take(
      await data(
        api.PUT('/api/registers/{key}/access', {
          params: { path: { key: props.register.key } },
          body: lines.value.map((l) => ({
            team: l.team === '' ? null : l.team,
            mayRead: l.reads !== 'none',
            statement: l.reads === 'some' ? l.statement : '',
            hidden: l.reads === 'none' ? [] : l.hidden,
            mayChangeMany: l.reads !== 'none' && l.changesMany,
          })),
        }),
      ),
    )
    said.value = 'Saved. It holds from the next question on, in every list, count, file and view.'
  })
}

const name = (line: Line) =>
  line.team === '' ? 'Everybody else' : (teams.value.find((t) => t.id === line.team)?.name ?? 'A team')

/** Adds a line, which has the keys. */
const sheet = ref<HTMLElement>()
async function add() {
  lines.value.push({ team: '', reads: 'some', statement: '', hidden: [], changesMany: false })
  await nextTick()
  sheet.value?.querySelector<HTMLElement>('.line:last-of-type select')?.focus()
}
</script>

<template>
  <section ref="sheet">
    <p class="hint">
      Without a line here everybody reads every record. A team’s line limits its people; somebody in several
      teams sees the records of each, and no field that is hidden from one of them. Administrators and
      auditors see everything.
    </p>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <SaidLine :words="said" />
    <fieldset v-for="(line, i) in lines" :key="i" class="line" :disabled="!mayChange || busy">
      <legend class="hidden-text">{{ name(line) }}</legend>
      <div class="pair">
        <label>
          Who
          <select v-model="line.team" class="field" :aria-label="`Who line ${i + 1} is about`">
            <option value="">everybody else</option>
            <option v-for="t in teams" :key="t.id" :value="t.id">{{ t.name }}</option>
          </select>
        </label>
        <label>
          reads
          <select v-model="line.reads" class="field">
            <option value="all">every record</option>
            <option value="some">records for which this holds:</option>
            <option value="none">nothing; the register is not there for them</option>
          </select>
        </label>
      </div>
      <StatementBuilder
        v-if="line.reads === 'some'"
        v-model="line.statement"
        role="group"
        :register="register"
        :zone="session.zone"
        :aria-label="`Limit for ${name(line)}`"
      />
      <fieldset v-if="line.reads !== 'none'" v-roving class="hides">
        <legend>without these fields</legend>
        <label v-for="f in hideable" :key="f.key" class="tick">
          <input v-model="line.hidden" type="checkbox" :value="f.key" /> {{ f.label }}
        </label>
      </fieldset>
      <label v-if="line.reads !== 'none'" class="tick many">
        <input v-model="line.changesMany" type="checkbox" /> may change many records at once and post
        transactions, in the fields that are open to correction
      </label>
      <button v-if="mayChange" type="button" class="word" @click="lines.splice(i, 1)">
        Remove the line of {{ name(line) }}
      </button>
    </fieldset>
    <p v-if="loaded && !lines.length" class="small">Everybody reads every record of {{ register.label }}.</p>
    <p v-if="mayChange && loaded" class="acts">
      <button type="button" class="act" :disabled="busy" @click="keep">Save</button>
      <button type="button" class="quiet" @click="add">Add a line</button>
    </p>
  </section>
</template>

<style scoped>
.line {
  border-bottom: 1px solid var(--rule);
  padding: 0 0 10px;
  margin-bottom: 10px;
}

.hides {
  margin-top: 8px;
}

.hides .tick {
  margin-right: 16px;
}

.many {
  display: block;
  margin: 6px 0;
}

.hides legend {
  font-weight: 600;
}
</style>
