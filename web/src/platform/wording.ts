/** A stretch of words that is in both texts, or only in the one that was, or only in the one that is. */
export interface Stretch {
  text: string
  kind: 'same' | 'gone' | 'new'
}

/** How one text became another, word by word: the longest common run of words stays, the rest is gone or new. */
export function changedWords(was: string, is: string): Stretch[] {
  const from = words(was)
  const to = words(is)
  const common: number[][] = Array.from({ length: from.length + 1 }, () => new Array(to.length + 1).fill(0))
  for (let i = from.length - 1; i >= 0; i--) {
    for (let j = to.length - 1; j >= 0; j--) {
      common[i]![j] =
        from[i] === to[j] ? common[i + 1]![j + 1]! + 1 : Math.max(common[i + 1]![j]!, common[i]![j + 1]!)
    }
  }
  const found: Stretch[] = []
  const put = (text: string, kind: Stretch['kind']) => {
    const last = found.at(-1)
    if (last?.kind === kind) last.text += text
    else found.push({ text, kind })
  }
  let i = 0
  let j = 0
  while (i < from.length || j < to.length) {
    if (i < from.length && j < to.length && from[i] === to[j]) {
      put(from[i]!, 'same')
      i++
      j++
    } else if (j >= to.length || (i < from.length && common[i + 1]![j]! >= common[i]![j + 1]!)) {
      put(from[i++]!, 'gone')
    } else put(to[j++]!, 'new')
  }
  return found
}

/** Words with the space after them; a quoted text is one word. */
function words(text: string): string[] {
  return text.match(/("(?:\\.|[^"])*"|[^\s"]+)\s*|\s+/g) ?? []
}
