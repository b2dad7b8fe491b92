<script setup lang="ts">
import {
  acceptCompletion,
  autocompletion,
  completionKeymap,
  startCompletion,
  type CompletionContext,
} from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
import { setDiagnostics } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { EditorView, keymap, placeholder } from '@codemirror/view'
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { latest, isAborted, Problem, sentence } from '@/api/client'
import { useFieldError } from '@/platform/useFieldError'
import type { Language } from './language'

const props = defineProps<{
  language: Language
  statement: string
  label: string
  /** it is part of a form: what is typed is told as it can be read, and the form has the buttons */
  live?: boolean
}>()
const emit = defineEmits<{
  apply: [statement: string]
  cancel: []
  /** what is typed, once it was read; nothing while it is being read, or cannot be */
  typed: [statement?: string]
}>()

const host = ref<HTMLElement>()
const trouble = ref<{ message: string; suggestions: string[]; from: number; to: number }>()
const troubleId = useFieldError(
  () => host.value!.querySelectorAll('.cm-content'),
  () => trouble.value?.message ?? '',
)
const asking = latest()
let view: EditorView | undefined
let timer = 0

onMounted(() => {
  view = new EditorView({
    parent: host.value!,
    state: EditorState.create({
      doc: props.statement,
      selection: { anchor: props.statement.length },
      extensions: [
        history(),
        EditorView.lineWrapping,
        placeholder(props.language.example),
        autocompletion({ override: [propose], activateOnTyping: true, icons: false, interactionDelay: 0 }),
        keymap.of([
          { key: 'Ctrl-Enter', mac: 'Cmd-Enter', run: () => (void apply(), true) },
          { key: 'Tab', run: acceptCompletion },
          ...completionKeymap,
          { key: 'Escape', run: leave },
          ...defaultKeymap,
          ...historyKeymap,
        ]),
        EditorView.contentAttributes.of({ 'aria-label': props.label, spellcheck: 'false' }),
        EditorView.updateListener.of((update) => {
          if (!update.docChanged) return
          emit('typed')
          window.clearTimeout(timer)
          timer = window.setTimeout(() => void check(), 350)
        }),
      ],
    }),
  })
  if (!props.live) view.focus()
  void check()
})

onBeforeUnmount(() => {
  window.clearTimeout(timer)
  view?.destroy()
})

async function propose(context: CompletionContext) {
  const text = context.state.doc.toString()
  try {
    const answer = await props.language.complete(text, context.pos)
    return {
      from: answer.from,
      filter: false,
      options: answer.proposals.map((p) => ({
        label: p.insert,
        detail: p.detail,
        apply: (target: EditorView) => {
          // A word needs a space before what follows; brackets open a list.
          const gap = answer.from > 0 && !/[\s(]$/.test(text.slice(0, answer.from)) ? ' ' : ''
          const insert = gap + p.insert + (p.insert.endsWith('(') ? '' : ' ')
          target.dispatch({
            changes: { from: answer.from, to: context.pos, insert },
            selection: { anchor: answer.from + insert.length },
          })
          window.setTimeout(() => startCompletion(target))
        },
      })),
    }
  } catch {
    return null
  }
}

/** Reads the text as it stands; true when it can be read. */
async function check(): Promise<string | undefined> {
  const text = view!.state.doc.toString()
  if (props.live && !text.trim()) {
    trouble.value = undefined
    view!.dispatch(setDiagnostics(view!.state, []))
    return undefined
  }
  try {
    const read = await asking.ask((signal) => props.language.read(text, signal))
    trouble.value = undefined
    view!.dispatch(setDiagnostics(view!.state, []))
    emit('typed', read)
    return read
  } catch (e) {
    if (isAborted(e)) return undefined
    const details = e instanceof Problem ? e.details : {}
    const length = view!.state.doc.length
    const from = Math.min(Number(details.offset ?? 0), length)
    const to = Math.min(from + Number(details.length ?? 0), length)
    trouble.value = {
      message: sentence(e),
      suggestions: (details.suggestions as string[] | undefined) ?? [],
      from,
      to,
    }
    view!.dispatch(
      setDiagnostics(view!.state, [
        { from: to > from ? from : Math.max(0, from - 1), to, severity: 'error', message: sentence(e) },
      ]),
    )
    return undefined
  }
}

/** Escape leaves an untouched text; one that was worked on stays until it is applied or cancelled by name. */
function leave(editor: EditorView): boolean {
  if (editor.state.doc.toString() === props.statement) emit('cancel')
  return true
}

async function apply() {
  // The check that follows typing would take the place of this one.
  window.clearTimeout(timer)
  const statement = await check()
  if (statement !== undefined) emit('apply', statement)
}

function mend(suggestion: string) {
  const at = trouble.value!
  view!.dispatch({
    changes: { from: at.from, to: at.to, insert: suggestion },
    selection: { anchor: at.from + suggestion.length },
  })
  view!.focus()
}
</script>

<template>
  <section class="words">
    <div ref="host" class="host" />
    <p v-if="trouble" :id="troubleId" class="notice" role="alert">
      {{ trouble.message }}
      <button v-for="s in trouble.suggestions" :key="s" type="button" class="quiet" @click="mend(s)">
        {{ s }}
      </button>
    </p>
    <p v-if="live" class="hint below"><kbd>Ctrl</kbd> <kbd>Space</kbd> proposes what can come next</p>
    <footer v-else>
      <button type="button" class="act" @click="apply">Apply</button>
      <button type="button" class="word" @click="emit('cancel')">Cancel</button>
      <span class="hint"
        ><kbd>Ctrl</kbd> <kbd>Enter</kbd> applies · <kbd>Ctrl</kbd> <kbd>Space</kbd> proposes ·
        <kbd>Esc</kbd> leaves</span
      >
    </footer>
  </section>
</template>

<style scoped>
.below {
  margin: 5px 0;
}

.host {
  border: 1px solid var(--rule-strong);
  border-left: 3px solid var(--act);
  background: var(--card);
}

.host :deep(.cm-editor) {
  /* A pasted list of thousands leaves the records in sight. */
  max-height: 45vh;
  font: 400 18px/1.5 var(--serif);
}

.host :deep(.cm-scroller) {
  overflow: auto;
}

.host :deep(.cm-content) {
  font-family: var(--serif);
  padding: 8px 10px;
  caret-color: var(--ink);
  color: var(--ink);
}

.host :deep(.cm-placeholder) {
  color: var(--ink-3);
}

.host :deep(.cm-focused) {
  outline: 2px solid var(--focus);
}

.host :deep(.cm-lintRange-error) {
  background: none;
  text-decoration: underline wavy var(--alert);
  text-underline-offset: 4px;
}

.host :deep(.cm-tooltip) {
  border: 1px solid var(--rule-strong);
  background: var(--card);
  color: var(--ink);
  box-shadow: var(--shadow);
}

.host :deep(.cm-tooltip-autocomplete > ul) {
  font: 400 15px var(--sans);
  max-height: 220px;
}

.host :deep(.cm-tooltip-autocomplete > ul > li) {
  padding: 2px 10px;
}

.host :deep(.cm-tooltip-autocomplete > ul > li[aria-selected]) {
  background: var(--act-soft);
  color: var(--ink);
}

.host :deep(.cm-completionDetail) {
  color: var(--ink-2);
  font-style: normal;
  margin-left: 14px;
}

.host :deep(.cm-tooltip-lint) {
  display: none;
}

footer {
  display: flex;
  gap: 10px;
  align-items: baseline;
  margin: 8px 0;
}

.hint {
  margin-left: auto;
  color: var(--ink-2);
  font-size: 13.5px;
}

.notice {
  margin-top: 6px;
}

.notice .quiet {
  margin-left: 6px;
}
</style>
