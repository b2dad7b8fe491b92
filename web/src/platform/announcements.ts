import { ref, watch } from 'vue'

/** How long messages are gathered, in milliseconds: what one act brings about is announced as one. */
const GATHERED_FOR = 250
/** How long a text that is still being typed or narrowed rests before it is announced, in milliseconds. */
const RESTS = 900

/** What the page's one live region has; it stays in the page, so that every change of it is read aloud. */
export const announcement = ref('')

let gathered: string[] = []
let timer = 0

/** Has a screen reader say so, politely: after what it is reading. What is said twice at once is said once. */
export function announce(words: string | undefined) {
  if (!words || gathered.includes(words)) return
  gathered.push(words)
  // The same message as the last one is another message: the region is emptied, so that it is one again.
  if (announcement.value === words) announcement.value = ''
  window.clearTimeout(timer)
  timer = window.setTimeout(() => {
    announcement.value = gathered.join(' ')
    gathered = []
  }, GATHERED_FOR)
}

/** Has it said once it stays the same for a moment: a number that follows what is typed. */
export function announceRested(words: () => string | undefined) {
  watch(words, (now, _, isOver) => {
    const resting = window.setTimeout(() => announce(now), RESTS)
    isOver(() => window.clearTimeout(resting))
  })
}

/** Has every new text of a page's own line said; what stands there from the start is not. */
export function announceEach(words: () => string | undefined) {
  watch(words, announce)
}
