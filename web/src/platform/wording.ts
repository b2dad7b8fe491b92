/** A line that is in both of two lists, or only in the one that was, or only in the one that is. */
export interface Line {
  text: string
  kind: 'same' | 'gone' | 'new'
}

/** How one list of lines became another: the longest common run of lines stays, the rest is gone or new. */
export function changedLines(was: string[], is: string[]): Line[] {
  const common: number[][] = Array.from({ length: was.length + 1 }, () => new Array(is.length + 1).fill(0))
  for (let i = was.length - 1; i >= 0; i--) {
    for (let j = is.length - 1; j >= 0; j--) {
      common[i]![j] =
        was[i] === is[j] ? common[i + 1]![j + 1]! + 1 : Math.max(common[i + 1]![j]!, common[i]![j + 1]!)
    }
  }
  const found: Line[] = []
  let i = 0
  let j = 0
  while (i < was.length || j < is.length) {
    if (i < was.length && j < is.length && was[i] === is[j]) {
      found.push({ text: was[i++]!, kind: 'same' })
      j++
    } else if (j >= is.length || (i < was.length && common[i + 1]![j]! >= common[i]![j + 1]!)) {
      found.push({ text: was[i++]!, kind: 'gone' })
    } else found.push({ text: is[j++]!, kind: 'new' })
  }
  return found
}
