/** Something that is found by its name, or by what else is said of it. */
export interface Findable {
  name: string
  /** further words by which it is found: what it is, its purpose, labels */
  about?: string
}

const words = (text: string) => text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? []

/** Whether two words differ by one slip at most: a letter too many, too few, another one, or two in each other's place. */
export function isSlip(typed: string, meant: string): boolean {
  if (Math.abs(typed.length - meant.length) > 1) return false
  let at = 0
  while (at < typed.length && typed[at] === meant[at]) at++
  const rest = (a: number, b: number) => typed.slice(at + a) === meant.slice(at + b)
  return (
    rest(1, 1) ||
    rest(1, 0) ||
    rest(0, 1) ||
    (typed[at] === meant[at + 1] && typed[at + 1] === meant[at] && rest(2, 2))
  )
}

/** How well a typed word fits: 0 where a word of the name begins so, then inside the name, in what is said of it, with a slip. */
function fit(typed: string, one: Findable): number | undefined {
  const named = words(one.name)
  if (named.some((w) => w.startsWith(typed))) return 0
  if (one.name.toLowerCase().includes(typed)) return 1
  if (words(one.about ?? '').some((w) => w.startsWith(typed))) return 2
  // A slip in a short word may be any other word.
  const slipped = (w: string) => isSlip(typed, w) || isSlip(typed, w.slice(0, typed.length))
  return typed.length >= 4 && named.some(slipped) ? 3 : undefined
}

/**
 * What is found by the words that somebody typed, in any order, each a part of a word: the best first, what fits alike in
 * the order it came.
 */
export function findAll<T extends Findable>(all: T[], typed: string): T[] {
  const wanted = words(typed)
  return all
    .map((one, i) => ({ one, i, fits: wanted.map((w) => fit(w, one)) }))
    .filter((f) => f.fits.every((x) => x !== undefined))
    .map((f) => ({ ...f, score: f.fits.reduce<number>((sum, x) => sum + x!, 0) }))
    .sort((a, b) => a.score - b.score || a.i - b.i)
    .map((f) => f.one)
}
