import { computed, nextTick, ref, shallowRef } from 'vue'
import { api, data, isAborted, latest, Problem, sentence, type ReadStatement } from '@/api/client'
import { partWords } from '@/statements/words'

/** Whether a statement was read without the look at the records that it could have. */
const isUnchecked = (read: ReadStatement): boolean =>
  read.checked === false &&
  read.findings.every((f) => f.level !== 'error') &&
  read.asks.every((a) => a.answered || a.preset != null)

/** What a statement is read for. */
export interface Reading {
  /** the register's key */
  register: string
  statement: string
  asOf?: string
  recordsAt?: string
  zone?: string
  /** what is filled into its blanks */
  answers: Record<string, string>
  /** what the view is called and for, where it is one's */
  name?: string
  purpose?: string
}

/** What is left out of a reading when it does not fit, by the code that says so: the statement can be read without it. */
const BESIDE: Record<string, Partial<Reading>> = {
  'bad-answer': { answers: {} },
  'no-past': { recordsAt: undefined },
  'bad-as-of': { asOf: undefined, recordsAt: undefined },
}

/** Whether a part of a reading says anything. */
const isGiven = (part: Reading[keyof Reading]): boolean =>
  typeof part === 'object' ? Object.keys(part).length > 0 : part !== undefined

/**
 * The statement of a page as the server read it: its words at once, then again with the findings that need a look at the records.
 *
 * @param told is given the words of a statement once they are there
 */
export function useStatement(told: (statement: string, words: string) => void) {
  const reading = latest()
  const read = shallowRef<ReadStatement>()
  /** why the statement cannot be read */
  const unreadable = ref('')
  /** whether the statement as it stands is still being read */
  const settling = ref(false)
  /** whether its words are there, so that nothing below them moves any more */
  const worded = ref(false)
  let understood = Promise.resolve()
  let asked: Reading | undefined

  /**
   * Reads a statement.
   *
   * @param known the same as the server has read it already, looking at the records of a small register only
   */
  function ask(wanted: Reading, known?: ReadStatement) {
    asked = wanted
    understood = new Promise((wordsRead) => void readIt(wanted, wordsRead, known))
  }

  /** Once the statement as it stands has been read, its words at least. */
  async function whenRead() {
    // The change of the address is noticed a moment after it was made.
    await nextTick()
    for (let awaited; awaited !== understood;) {
      awaited = understood
      await awaited
    }
  }

  /** @param wordsRead is told once the words are there, or cannot be had */
  async function readIt(wanted: Reading, wordsRead: () => void, known?: ReadStatement) {
    const { register, ...statement } = wanted
    settling.value = true
    worded.value = false
    try {
      await reading.ask(async (signal) => {
        // Of a small register all is there at once; of a large one first the words, then the look at the records.
        for (const ifSmall of [true, false]) {
          read.value =
            (ifSmall && known) ||
            (await data(
              api.POST('/api/registers/{key}/statement', {
                params: { path: { key: register } },
                body: { ...statement, ifSmall },
                signal,
              }),
            ))
          unreadable.value = ''
          worded.value = true
          told(wanted.statement, partWords(read.value.outline))
          wordsRead()
          if (!isUnchecked(read.value)) break
        }
      })
      settling.value = false
    } catch (e) {
      // Another reading of it is under way.
      if (isAborted(e)) return
      // What does not fit beside the statement is said beside the records; the statement stands without it.
      const without = e instanceof Problem ? BESIDE[e.code] : undefined
      if (without && Object.keys(without).some((part) => isGiven(wanted[part as keyof Reading]))) {
        await readIt({ ...wanted, ...without }, wordsRead)
        return
      }
      settling.value = false
      // The words are there; only the look at the records is missing, and the page says so.
      if (worded.value) return
      worded.value = true
      read.value = undefined
      unreadable.value = e instanceof Problem ? e.message : sentence(e)
      told(wanted.statement, wanted.statement)
    } finally {
      wordsRead()
    }
  }

  /** Looks at the records once more for what could be noticed. */
  async function checkAgain() {
    if (asked) await readIt(asked, () => {})
  }

  /** Whether what could be noticed among the records was not looked for to the end. */
  const unchecked = computed(() => !settling.value && read.value !== undefined && isUnchecked(read.value))

  return { read, unreadable, settling, worded, unchecked, ask, whenRead, checkAgain, stop: reading.stop }
}
