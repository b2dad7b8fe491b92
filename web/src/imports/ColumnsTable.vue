<script setup lang="ts">
import type { FieldDescription } from '@/api/client'
import { counted, number, typeWords } from '@/platform/format'
import { DURATION_UNITS, example, TYPES, type Line } from './plan'

/** The columns of a file: what they hold, and what becomes of them. */
defineProps<{
  lines: Line[]
  /** the fields of a register that they can go into; absent for a new one */
  fields?: FieldDescription[]
}>()

function answer(line: Line, what: Partial<Line>) {
  Object.assign(line, what, { answered: true })
}
</script>

<template>
  <div class="wide">
    <table class="lines">
      <thead>
        <tr>
          <th scope="col"><span class="hidden-text">Import it</span></th>
          <th scope="col">In the file</th>
          <th scope="col">{{ fields ? 'Goes into' : 'Name' }}</th>
          <th scope="col">Read as</th>
          <th scope="col">What it holds</th>
          <th scope="col" class="fit">A value that does not fit</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="line in lines" :key="line.column.index" :class="{ left: !line.taken }">
          <td>
            <input v-model="line.taken" type="checkbox" :aria-label="`Take ${line.column.name}`" />
          </td>
          <td>
            <strong>{{ line.column.name }}</strong>
            <p class="small samples">{{ line.column.samples.slice(0, 3).join(' · ') || 'empty' }}</p>
          </td>
          <td>
            <select
              v-if="fields"
              v-model="line.field"
              class="field"
              :aria-label="`Field for ${line.column.name}`"
              :disabled="!line.taken"
            >
              <option value="">choose a field…</option>
              <option v-for="f in fields" :key="f.key" :value="f.key">{{ f.label }}</option>
            </select>
            <input
              v-else
              v-model="line.label"
              class="field"
              :aria-label="`Name of ${line.column.name}`"
              :disabled="!line.taken"
            />
          </td>
          <td>
            <span v-if="fields">{{ typeWords(line.type) }}</span>
            <select
              v-else
              v-model="line.type"
              class="field"
              :aria-label="`Type of ${line.column.name}`"
              :disabled="!line.taken"
            >
              <option v-for="t in TYPES" :key="t" :value="t">{{ typeWords(t) }}</option>
            </select>
          </td>
          <td>
            {{ line.column.guess.evidence }}.
            <span v-if="line.column.filled < line.column.rows" class="small">
              {{ number(line.column.rows - line.column.filled) }} empty.
            </span>
            <p v-for="odd in line.column.guess.odd.slice(0, 2)" :key="odd.line" class="small">
              Line {{ number(odd.line) }}: “{{ odd.value }}” does not.
            </p>
            <p v-if="line.column.formulas" class="warn small">
              {{ counted(line.column.formulas, 'formula') }} without a value (line
              {{ line.column.formulaLines.map(number).join(', ')
              }}{{ line.column.formulas > line.column.formulaLines.length ? ', …' : '' }}), left empty. To get
              the values, open the file in a spreadsheet program, save it and send it again.
            </p>
            <div
              v-if="line.taken && line.column.guess.ask && (line.type === 'date' || line.type === 'moment')"
              class="ask"
              role="group"
              :aria-label="`Which is the day in ${line.column.name}?`"
            >
              <button
                v-for="order in ['DAY_FIRST', 'MONTH_FIRST'] as const"
                :key="order"
                type="button"
                class="quiet"
                :aria-pressed="line.answered && line.order === order"
                @click="answer(line, { order })"
              >
                {{ example(line, order) }}
              </button>
            </div>
            <select
              v-else-if="line.taken && line.type === 'duration'"
              v-model="line.unit"
              class="field unit"
              :aria-label="`What numbers of ${line.column.name} are`"
            >
              <option :value="undefined">with their units, as 2 h 30 min</option>
              <option v-for="u in DURATION_UNITS" :key="u" :value="u">
                numbers of {{ u.toLowerCase() }}
              </option>
            </select>
            <div
              v-else-if="
                line.taken && line.column.guess.ask && (line.type === 'number' || line.type === 'money')
              "
              class="ask"
              role="group"
              :aria-label="`How are numbers written in ${line.column.name}?`"
            >
              <button
                v-for="decimal in ['POINT', 'COMMA'] as const"
                :key="decimal"
                type="button"
                class="quiet"
                :aria-pressed="line.answered && line.decimal === decimal"
                @click="answer(line, { decimal })"
              >
                decimals behind a {{ decimal === 'POINT' ? 'point' : 'comma' }}
              </button>
            </div>
          </td>
          <td>
            <select
              v-model="line.unfit"
              class="field"
              :aria-label="`A value that does not fit ${line.column.name}`"
              :disabled="!line.taken"
            >
              <option value="REFUSE">is refused</option>
              <option value="EMPTY">is left empty</option>
            </select>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.wide {
  overflow-x: auto;
}

.fit {
  min-width: 170px;
}

.left td {
  color: var(--ink-3);
}

.samples {
  max-width: 250px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.warn {
  color: var(--alert);
}

.ask {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 4px;
}

.ask [aria-pressed='true'] {
  background: var(--act-soft);
  border-color: var(--act);
  font-weight: 600;
}
</style>
