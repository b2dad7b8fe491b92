import type { Ref } from 'vue'
import type { Register } from '@/api/client'
import { useSession } from '@/people/session'
import type { Action } from '@/platform/actions'
import type { Wanted } from './QuestionHead.vue'
import type { useKeeping } from './useKeeping'
import type { useQuestion } from './useQuestion'

/** What of a page is reached by keys and words. */
export interface OfPage {
  keeping: Pick<ReturnType<typeof useKeeping>, 'startKeeping' | 'keepReviewed' | 'keepForMe'>
  /** what the page says of what was just done */
  said: Ref<string>
  /** whether a locked part of the statement is open */
  unlocked: Ref<boolean>
  writing: Ref<boolean>
  shaping: Ref<boolean>
  asTotals: Ref<boolean>
  opened: Ref<unknown>
  wanted: (what: Wanted) => void
  readAs: (what: 'records' | 'totals') => Promise<void>
  stepWindow: (forward: boolean) => Promise<unknown>
  writeOn: (field: string) => void
  toggleColumn: (field: string) => void
}

/** What can be done with a question, by key and in the palette, as things stand when it is asked for. */
export function useQuestionActs(q: ReturnType<typeof useQuestion>, on: OfPage) {
  const session = useSession()
  const { register, view, changed, columns } = q

  function act(): Action[] {
    const found: Action[] = [
      {
        words: 'Add a criterion',
        what: 'statement',
        key: 'a',
        run: () => {
          if (!on.writing.value) on.opened.value = { path: '', adds: 'all' }
        },
      },
      {
        words: 'Write the statement as words',
        what: 'statement',
        key: 'w',
        run: () => (on.writing.value = true),
      },
      { words: 'Copy the statement as words', what: 'statement', run: () => on.wanted('words') },
      { words: 'Edges: the last in, the first out', what: 'check', key: 'e', run: () => on.wanted('edges') },
      { words: 'Why is one here, or not', what: 'check', key: 'y', run: () => on.wanted('why') },
      {
        words: 'Shape: groups, figures, parts, running totals',
        what: 'shape',
        key: 's',
        run: () => (on.shaping.value = !on.shaping.value),
      },
      {
        words: on.asTotals.value ? 'Read as records' : 'Read as totals',
        what: 'shape',
        key: 't',
        run: () => void on.readAs(on.asTotals.value ? 'records' : 'totals'),
      },
      { words: 'The window before', what: 'time', key: 'p', run: () => void on.stepWindow(false) },
      { words: 'The window after', what: 'time', key: 'n', run: () => void on.stepWindow(true) },
      {
        words: 'Step back',
        what: 'undo',
        key: 'u',
        run: () => (q.steps.value ? q.back() : (on.said.value = 'There is no step to go back to.')),
      },
      {
        words: 'Step forward',
        what: 'redo',
        key: 'r',
        run: () =>
          q.stepsAhead.value ? q.forward() : (on.said.value = 'There is no step to go forward to.'),
      },
      { words: 'Copy the link', what: 'share', run: () => on.wanted('link') },
      { words: 'Show every record', what: 'statement', run: () => void q.step({ where: '' }) },
    ]
    if (session.mayWrite && !view.value)
      found.push({
        words: 'Save as a new view',
        what: 'keep',
        key: 'k',
        run: () => on.keeping.startKeeping('new'),
      })
    else if (session.mayWrite && changed.value && view.value?.mayChange)
      found.push({ words: 'Save changes', what: 'keep', key: 'k', run: on.keeping.keepReviewed })
    else if (changed.value && !session.watcher && !on.unlocked.value && !q.addsOtherwise.value)
      found.push({ words: 'Save for me', what: 'keep', key: 'k', run: () => void on.keeping.keepForMe() })
    else
      // Without words it is reached by its key only, which says why it does nothing.
      found.push({
        words: '',
        what: 'keep',
        key: 'k',
        run: () =>
          (on.said.value = changed.value
            ? 'You cannot save this here; keep a copy, or ask whoever manages the view.'
            : 'Nothing has been changed that could be saved.'),
      })
    if (session.mayWrite && view.value)
      found.push({ words: 'Keep a copy', what: 'keep', run: () => on.keeping.startKeeping('copy') })
    return found
  }

  /** What can be done with each field; without keys, so only the palette has it. */
  function actsOnFields(here: Register): Action[] {
    return here.fields.flatMap((f) => {
      const what = `field of ${here.label}`
      const ask = { words: `${f.label}: ask about it`, what, run: () => on.writeOn(f.key) }
      if (f.type === 'span') return [ask]
      const verb = columns.value.includes(f.key) ? 'hide' : 'show'
      return [ask, { words: `${f.label}: ${verb} the column`, what, run: () => on.toggleColumn(f.key) }]
    })
  }

  return () => [...act(), ...(register.value ? actsOnFields(register.value) : [])]
}
