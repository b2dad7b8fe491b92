import { ref, shallowRef } from 'vue'
import { api, data, isAborted, latest, sentence } from '@/api/client'
import type { Shape } from '@/rows/shape'
import { askedOf, type Question } from '@/rows/useRows'
import type { Language } from '@/statements/language'
import type { Place, TotalsAnswer } from './sheet'

/** The totals of a question; an old answer never stands beside a new question. */
export function useTotals() {
  const asked = shallowRef<Question>()
  const answer = shallowRef<TotalsAnswer>()
  const trouble = ref('')
  const slow = ref(false)
  /** whether others changed what the totals are made of */
  const news = ref(0)
  const asking = latest()
  const looking = latest()
  const opening = latest()
  let timer = 0

  const body = (question: Question) => ({
    ...askedOf(question),
    shape: question.shape as Shape & { columns: Record<string, never> },
  })
  const path = (question: Question, name: string) => ({
    path: { key: question.register },
    header: { 'X-Question': name },
  })
  const read = (question: Question, signal: AbortSignal, name: string) =>
    data(
      api.POST('/api/registers/{key}/totals', {
        params: path(question, name),
        body: body(question),
        signal,
      }),
    )

  /** Puts a question; one that is not read as totals has no answer here. */
  async function ask(question: Question) {
    asked.value = question
    answer.value = undefined
    trouble.value = ''
    news.value = 0
    window.clearTimeout(timer)
    if (!question.shape?.totals) {
      slow.value = false
      asking.stop()
      return
    }
    timer = window.setTimeout(() => (slow.value = true), 300)
    try {
      const found = await asking.ask((signal, name) => read(question, signal, name))
      if (question === asked.value) answer.value = found
    } catch (e) {
      if (!isAborted(e) && question === asked.value) trouble.value = sentence(e)
    } finally {
      if (question === asked.value) {
        window.clearTimeout(timer)
        slow.value = false
      }
    }
  }

  /** Reads them again without touching the page, to say whether they changed. */
  async function compare() {
    const question = asked.value
    const before = answer.value
    if (!question || !before || question.asOf || question.recordsAt || slow.value) return
    try {
      const found = await looking.ask((signal, name) => read(question, signal, name))
      if (question === asked.value && answer.value === before)
        news.value = JSON.stringify(found) === JSON.stringify(before) ? 0 : 1
    } catch {
      // The next change is another chance.
    }
  }

  /** Reads them again. */
  async function bringIn() {
    if (asked.value) await ask({ ...asked.value })
  }

  /** Drops what is under way, since what it rests on has changed. */
  function drop() {
    stop()
    looking.stop()
    news.value = 0
  }

  const stop = () => asking.stop()

  /** The statement that has exactly the records behind a figure. */
  async function behind(place: Place): Promise<string> {
    const question = asked.value!
    const found = await opening.ask((signal, name) =>
      data(
        api.POST('/api/registers/{key}/totals/records', {
          params: path(question, name),
          body: { ...body(question), at: place as { keys: string[] } },
          signal,
        }),
      ),
    )
    return found.statement
  }

  return { ask, answer, trouble, slow, news, compare, bringIn, drop, stop, behind }
}

/** Statements over the figures of totals: the criteria that rows are left out by. */
export function overFigures(register: string, shape: Shape): Language {
  // Without what is being written, which need not be readable.
  const form = {
    shape: { ...shape, totals: { ...shape.totals, keep: undefined } } as Shape & {
      columns: Record<string, never>
    },
  }
  const params = { path: { key: register } }
  return {
    complete: (text, position) =>
      data(api.POST('/api/registers/{key}/totals/complete', { params, body: { ...form, text, position } })),
    read: async (text, signal) => {
      if (!text.trim()) return ''
      return (
        await data(
          api.POST('/api/registers/{key}/totals/statement', { params, body: { ...form, text }, signal }),
        )
      ).statement
    },
    example: 'number >= 3',
  }
}
