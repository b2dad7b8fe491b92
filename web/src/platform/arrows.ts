/**
 * What an arrow key, Home or End goes to among things that stand in a row, of which one has the Tab stop (WAI-ARIA's tabs and
 * toolbars); round from the last to the first.
 *
 * @returns nothing for any other key, and for keys with Alt, Ctrl or Meta
 */
export function alongArrows<T>(event: KeyboardEvent, items: T[], at: T): T | undefined {
  if (event.altKey || event.ctrlKey || event.metaKey || !items.length) return undefined
  const from = items.indexOf(at)
  const to: Record<string, number> = {
    ArrowRight: (from + 1) % items.length,
    ArrowLeft: (from - 1 + items.length) % items.length,
    Home: 0,
    End: items.length - 1,
  }
  return event.key in to ? items[to[event.key]!] : undefined
}
