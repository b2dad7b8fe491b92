import { computed } from 'vue'
import { number } from '@/platform/format'
import { calmly, onChanges } from '@/platform/live'
import { registersIn } from '@/statements/tree'
import type { useQuestion } from './useQuestion'

/** What others have changed of an answer since it was read: in words, and how to bring it in. */
export function useNews({
  register,
  read,
  asTotals,
  grouped,
  answer,
  groups,
  totals,
}: ReturnType<typeof useQuestion>) {
  // One after the other, so that the number at the head and the sums below it are of one moment as far as can be.
  const compare = calmly(async () => {
    await answer.compare()
    await (asTotals.value ? totals : groups).compare()
  })
  onChanges((registers) => {
    if (!register.value) return
    // What is asked of other records changes the answer, too.
    const asked = [register.value.register, ...registersIn(read.value?.condition)]
    if (asked.some((key) => registers.includes(key))) compare()
  })

  /** What others changed, in words. */
  const words = computed(() => {
    const { fresh, gone, changed: altered, matching: now } = answer.news.value ?? {}
    const groupsNow = groups.news.value
    const said = asTotals.value
      ? [totals.news.value && 'the totals changed']
      : grouped.value
        ? [groupsNow && `${groupsNow} ${groupsNow === 1 ? 'group' : 'groups'} changed`]
        : [fresh && `${fresh} new`, gone && `${gone} gone`, altered && `${altered} changed`]
    const told = said.filter(Boolean)
    // Of a record that is not on the page only the figures tell.
    if (!grouped.value && groupsNow && !told.length) told.push('the figures changed')
    // Where the page says what came and went, the number follows from it.
    if (now && (grouped.value || !(fresh || gone)))
      told.push(`${number(now.matching)}${now.exact ? '' : '+'} match now`)
    return told.join(', ')
  })

  async function bringIn() {
    answer.bringIn()
    await (asTotals.value ? totals : groups).bringIn()
  }

  return { compare, words, bringIn }
}
