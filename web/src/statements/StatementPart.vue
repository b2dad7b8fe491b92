<script setup lang="ts">
import { computed, inject, ref } from 'vue'
import type { Outline } from '@/api/client'
import { number } from '@/platform/format'
import { alongArrows } from '@/platform/arrows'
import CriterionEditor from './CriterionEditor.vue'
import { DESK } from './desk'
import FindingNotes from './FindingNotes.vue'
import PartTools, { type Tool } from './PartTools.vue'
import { at, places, type GroupKind, type Node } from './tree'

const props = defineProps<{
  part: Outline
  /** the words before it: "Defects whose", "and", "or" */
  lead: string
  /** the whole tree, for the part's own JSON */
  tree: Node
  off?: boolean
  /** a group's parts are joined by this word */
  last?: boolean
}>()

const desk = inject(DESK)!
const path = computed(() => props.part.path)
const isOpen = computed(() => desk.opened.value?.path === path.value && !desk.opened.value.adds)
/** A criterion is joined by an alternative, a group by one more part of its own kind; what joins the whole is the page's. */
const adding = computed(() => {
  const opened = desk.opened.value
  const joins = props.part.kind === 'criterion' ? 'any' : props.part.kind
  return opened?.path === path.value && opened.adds === joins
})
const inner = computed(() => (props.part.kind === 'off' ? props.part.parts[0] : undefined))
const word: Record<string, string> = { all: 'and', any: 'or', none: 'or' }
const heading: Record<string, string> = { all: 'all of', any: 'any of', none: 'none of' }
/** The criterion as it is read. */
const says = computed(() =>
  [props.part.fieldWords, props.part.verb, props.part.object].filter(Boolean).join(' '),
)
const node = computed(() => at(props.tree, path.value))
/** Locked for this reader: the part itself, or a group that it is in. */
const locked = computed(() =>
  [...desk.locked.value].some((p) => path.value === p || path.value.startsWith(p + '/')),
)
const findings = computed(() => desk.findings.value.get(path.value) ?? [])
/** Hints run on from what the criterion stands for; anything graver has a line of its own. */
const hints = computed(() => findings.value.filter((f) => f.level === 'hint'))
const loud = computed(() => findings.value.filter((f) => f.level !== 'hint'))

/** Goes along what can be done with a part, from its phrase and back to it; Tab goes on to the next part. */
function alongTools(event: KeyboardEvent) {
  const line = (event.target as HTMLElement).closest('.line')!
  const phrase = line.querySelector<HTMLElement>('.phrase')!
  const tools = [...line.querySelectorAll<HTMLElement>('.tool')]
  const to =
    event.key === 'Escape' ? phrase : alongArrows(event, [phrase, ...tools], event.target as HTMLElement)
  if (!to) return false
  event.preventDefault()
  event.stopPropagation()
  to.focus()
  return true
}
/** Goes to the phrase before or after, in the whole statement. */
function alongPhrases(event: KeyboardEvent): boolean {
  const phrase = event.target as HTMLElement
  const all = [...(phrase.closest('.statement')?.querySelectorAll<HTMLElement>('.line .phrase') ?? [])]
  const to = alongArrows(event, all, phrase, 'column')
  if (!to) return false
  to.focus()
  event.preventDefault()
  return true
}

function keys(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey || alongPhrases(event)) return
  if (locked.value || (event.key !== 'Escape' && alongTools(event))) return
  if (event.key === 'Delete' || event.key === 'Backspace') desk.remove(path.value)
  else if (event.key === 'o') desk.toggleOff(path.value)
  else if (event.altKey && event.key === 'ArrowUp') desk.move(path.value, -1)
  else if (event.altKey && event.key === 'ArrowDown') desk.move(path.value, 1)
  else if (event.altKey && event.key === 'ArrowRight') desk.moveIn(path.value)
  else if (event.altKey && event.key === 'ArrowLeft') desk.moveOut(path.value)
  else if (event.altKey) return
  else if (event.key === 'd') desk.duplicate(path.value)
  else if (event.key === 'g') desk.wrap(path.value, 'any')
  else if (event.key === 'x') desk.wrap(path.value, 'none')
  else if (event.key === 'j') desk.unwrap(path.value)
  else return
  event.preventDefault()
  event.stopPropagation()
}

/** Where a dragged part would go: before this one or after it. */
const landing = ref<'before' | 'after'>()
function over(event: DragEvent) {
  if (desk.dragged.value === undefined || desk.dragged.value === path.value) return
  event.preventDefault()
  event.stopPropagation()
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  landing.value = event.clientY < box.top + box.height / 2 ? 'before' : 'after'
}
function dropped(event: DragEvent) {
  event.preventDefault()
  event.stopPropagation()
  const before = landing.value === 'before'
  landing.value = undefined
  desk.drop(path.value, before)
}
function grab(event: DragEvent) {
  event.stopPropagation()
  event.dataTransfer?.setData('text/plain', props.part.statement ?? '')
  desk.dragged.value = path.value
}

const tone = computed(() => props.part.tone?.toLowerCase() ?? 'plain')
const account = computed(() => {
  const window = props.part.window
  if (!window) return props.part.hours ?? ''
  const zone = / \d\d:\d\d/.test(window.words) ? window.zone : ''
  return [window.words, window.length, window.rolling ? 'rolling' : 'fixed', zone].filter(Boolean).join(' · ')
})
/** What the margin says: how many records would be left if the statement ended here. The rest is said on pointing. */
const margin = computed(() => {
  if (props.off) return { text: 'off', title: '' }
  const counts = desk.parts.value.get(path.value)
  if (!counts) return undefined
  // Of a large register it is counted only so far, and what a part leaves out may be counted by itself.
  const takes =
    counts.leavesOut ??
    (desk.matching.value === undefined || counts.withoutMore
      ? undefined
      : counts.without - desk.matching.value)
  const alone = number(counts.alone) + (counts.aloneMore ? '+' : '')
  const title =
    `${alone} ${alone === '1' ? 'record' : 'records'} by itself; without it ${number(counts.without)}${counts.withoutMore ? '+' : ''} would be shown` +
    (takes === 0
      ? ': it changes nothing here'
      : takes && takes > 0 && /\/all\/\d+$/.test(path.value)
        ? `: it leaves out ${number(takes)}`
        : '')
  const left = counts.left == null ? '' : `${number(counts.left)}${counts.leftMore ? '+' : ''} left`
  return { text: left, title }
})
const nextKind = (kind: string): GroupKind => (kind === 'any' ? 'none' : kind === 'none' ? 'all' : 'any')

/** Where the part can be put, as Alt with the arrows does it. */
const moves = computed<Tool[]>(() => {
  const about = props.part.kind === 'criterion' ? says.value : `the group ${heading[props.part.kind]}`
  const can = places(props.tree, path.value)
  const to = (word: string, title: string, possible: boolean, does: () => void) =>
    possible ? [{ word, title, about, does }] : []
  return [
    ...to('up', 'Move up (Alt ↑)', can.up, () => desk.move(path.value, -1)),
    ...to('down', 'Move down (Alt ↓)', can.down, () => desk.move(path.value, 1)),
    ...to('into group', 'Into the next group (Alt →)', can.into, () => desk.moveIn(path.value)),
    ...to('out', 'Out of its group (Alt ←)', can.out, () => desk.moveOut(path.value)),
  ]
})
/** What can be done with it, in the order in which it is shown. */
const tools = computed<Tool[]>(() => {
  const of = path.value
  const toggle = props.off ? 'on' : 'off'
  if (props.part.kind !== 'criterion') {
    const group = `the group ${heading[props.part.kind]}`
    return [
      { word: toggle, title: `Switch the group ${toggle} (o)`, about: group, does: () => desk.toggleOff(of) },
      ...(props.part.kind === 'none'
        ? []
        : [
            {
              word: 'ungroup',
              title: 'Ungroup: leave its parts where they are (j)',
              about: heading[props.part.kind]!,
              does: () => desk.unwrap(of),
            },
          ]),
      ...moves.value,
      { word: 'remove', title: 'Remove the group (Delete)', about: group, does: () => desk.remove(of) },
    ]
  }
  const about = says.value
  return [
    { word: toggle, title: `Switch ${toggle} (o)`, about, does: () => desk.toggleOff(of) },
    {
      word: 'or…',
      title: 'Add an alternative to this criterion',
      about: `an alternative to ${about}`,
      does: () => desk.open({ path: of, adds: 'any' }),
    },
    ...(props.last
      ? []
      : [
          {
            word: 'merge with next',
            title: 'Merge this and the next criterion: any of them',
            about,
            does: () => desk.joinNext(of),
          },
        ]),
    { word: 'duplicate', title: 'Duplicate (d)', about, does: () => desk.duplicate(of) },
    { word: 'not', title: 'None of: the opposite (x)', about, does: () => desk.wrap(of, 'none') },
    ...moves.value,
    { word: 'remove', title: 'Remove (Delete)', about, does: () => desk.remove(of) },
  ]
})
</script>

<template>
  <StatementPart v-if="inner" :part="inner" :lead="lead" :tree="tree" off :last="last" />
  <div v-else-if="part.kind === 'criterion'" class="criterion" :data-path="path">
    <div
      class="line"
      :class="[{ off, open: isOpen }, landing]"
      :draggable="!isOpen && path !== '' && !locked"
      @dragstart="grab"
      @dragend="desk.dragged.value = undefined"
      @dragover="over"
      @dragleave="landing = undefined"
      @drop="dropped"
    >
      <span class="words" @keydown="keys">
        <span class="lead">{{ lead }}&nbsp;</span>
        <button
          type="button"
          class="phrase"
          :aria-expanded="isOpen"
          :aria-disabled="locked || undefined"
          :title="locked ? 'Locked by whoever manages this view' : undefined"
          :aria-label="locked ? `${says}, locked` : `${says}${off ? ', off' : ''}: change the criterion`"
          @click="locked ? undefined : isOpen ? desk.close() : desk.open({ path })"
        >
          <span class="subject">{{ part.fieldWords }}</span><span class="verb">{{ ` ${part.verb} ` }}</span
          ><span v-if="part.object" class="object" :class="tone">{{ part.object }}</span>
        </button>
      </span>
      <span v-if="locked" class="lock">locked</span>
      <PartTools v-else :tools="tools" :name="says" @keydown="alongTools" />
      <span v-if="margin" class="margin-note" :title="margin.title">{{ margin.text }}</span>
    </div>
    <p v-if="(account || hints.length) && !off && !isOpen" class="account">
      {{ account }}<FindingNotes v-if="hints.length" :findings="hints" :after="account !== ''" />
    </p>
    <FindingNotes v-if="loud.length && !off && !isOpen" :findings="loud" />
    <CriterionEditor v-if="isOpen" :node="node" @apply="desk.apply" @cancel="desk.close" />
    <CriterionEditor v-else-if="adding" @apply="desk.apply" @cancel="desk.close" />
  </div>
  <div v-else class="group" :class="{ off }" :data-path="path">
    <div
      class="line"
      :class="landing"
      :draggable="!isOpen && path !== '' && !locked"
      @dragstart="grab"
      @dragend="desk.dragged.value = undefined"
      @dragover="over"
      @dragleave="landing = undefined"
      @drop="dropped"
    >
      <span class="words">
        <span class="lead">{{ lead }}&nbsp;</span>
        <button
          type="button"
          class="phrase"
          :aria-disabled="locked || undefined"
          :aria-label="
            locked
              ? `${heading[part.kind]}, a group, locked`
              : `${heading[part.kind]}, a group: make it ${heading[nextKind(part.kind)]}`
          "
          :title="
            locked ? 'Locked by whoever manages this view' : `Make it “${heading[nextKind(part.kind)]}”`
          "
          @click="locked ? undefined : desk.regroup(path, nextKind(part.kind))"
          @keydown="keys"
        >
          <span class="subject">{{ heading[part.kind] }}</span>
        </button>
      </span>
      <span v-if="locked" class="lock">locked</span>
      <PartTools v-else :tools="tools" :name="heading[part.kind]!" @keydown="alongTools" />
      <span v-if="margin" class="margin-note" :title="margin.title">{{ margin.text }}</span>
    </div>
    <FindingNotes v-if="loud.length && !off" :findings="loud" />
    <div class="parts" role="group" :aria-label="heading[part.kind]">
      <StatementPart
        v-for="(child, i) in part.parts"
        :key="child.path"
        :part="child"
        :lead="i === 0 ? '' : word[part.kind]!"
        :tree="tree"
        :off="off"
        :last="i === part.parts.length - 1"
      />
      <button
        v-if="!adding && !locked"
        type="button"
        class="add"
        :aria-label="`${word[part.kind]}…: add a criterion to this group, ${heading[part.kind]}`"
        @click="desk.open({ path, adds: part.kind as GroupKind })"
      >
        {{ word[part.kind] }}…
      </button>
      <CriterionEditor v-else-if="adding" @apply="desk.apply" @cancel="desk.close" />
    </div>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  align-items: baseline;
  gap: 12px;
  font: 400 19.5px/29px var(--serif);
}

.lead {
  color: var(--ink-3);
}

.phrase {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  color: inherit;
  cursor: pointer;
  text-align: left;
}

.verb {
  white-space: pre;
}

.subject {
  border-bottom: 1px solid var(--act-line);
}

.object {
  border-bottom: 1px solid var(--act-line);
  padding-bottom: 1px;
}

.object.time {
  background: var(--time-bg);
  border-bottom: 1.5px solid var(--time-line);
  padding: 1px 4px 2px;
  border-radius: 2px 2px 0 0;
}

.object.viewer {
  background: var(--viewer-bg);
  border-bottom: 1.5px solid var(--viewer-line);
  padding: 1px 4px 2px;
  border-radius: 2px 2px 0 0;
}

.phrase:hover .subject,
.phrase:hover .object {
  border-bottom-color: var(--act);
  box-shadow: 0 1px 0 var(--act);
}

.phrase[aria-disabled='true'] {
  cursor: default;
}

.phrase[aria-disabled='true'] .subject,
.phrase[aria-disabled='true'] .object:not(.time, .viewer) {
  border-bottom-color: transparent;
  box-shadow: none;
}

.lock {
  font: 400 13.5px var(--sans);
  color: var(--ink-3);
}

.off > .words .phrase,
.group.off .phrase {
  text-decoration: line-through;
  color: var(--ink-3);
}

.off .object {
  background: none;
}

.line[draggable='true'] .lead {
  cursor: grab;
}

.line.before {
  box-shadow: 0 -2px 0 var(--act);
}

.line.after {
  box-shadow: 0 2px 0 var(--act);
}

@media (forced-colors: active) {
  .line.before {
    border-top: 2px solid Highlight;
  }

  .line.after {
    border-bottom: 2px solid Highlight;
  }
}

/* Stands in the page's margin, on the line it belongs to. */
.line {
  position: relative;
}

.margin-note {
  position: absolute;
  right: calc(-1 * var(--margin));
  top: 0;
  font: 400 14px/29px var(--sans);
  color: var(--ink-2);
}

.account {
  color: var(--time);
  font-size: 13.5px;
  margin: 1px 0 3px 2px;
}

.parts {
  border-left: 2px solid var(--rule-strong);
  margin-left: 10px;
  padding-left: 15px;
}

.add {
  border: 0;
  background: none;
  padding: 0 2px;
  font: italic 400 16px/25px var(--serif);
  color: var(--ink-3);
  cursor: pointer;
}

.add:hover {
  color: var(--act);
}

@media (max-width: 1000px) {
  .line {
    flex-wrap: wrap;
    column-gap: 12px;
    row-gap: 0;
  }

  .line:focus-within,
  .line:hover {
    flex-wrap: wrap;
  }
}
</style>
