/**
 * Marks what a component shows now, and tells later whether it still does, for answers that come when it is about something
 * else by then.
 *
 * @param shown what it is about; what counts is whether it is the same value
 * @returns a function that marks now, and gives the question "is it still about that?"
 */
export function staying(shown: () => unknown): () => () => boolean {
  return () => {
    const before = shown()
    return () => shown() === before
  }
}
