/**
 * What an arrow key, Home or End goes to among things of which one has the Tab stop (WAI-ARIA's tabs, toolbars and lists); round from
 * the last to the first.
 *
 * @param axis how they stand: one beside the other, or one below the other
 * @returns nothing for any other key, and for keys with Alt, Ctrl or Meta
 */
export function alongArrows<T>(
  event: KeyboardEvent,
  items: T[],
  at: T,
  axis: 'row' | 'column' = 'row',
): T | undefined {
  if (event.altKey || event.ctrlKey || event.metaKey || !items.length) return undefined
  const from = items.indexOf(at)
  const [before, after] = axis === 'row' ? ['ArrowLeft', 'ArrowRight'] : ['ArrowUp', 'ArrowDown']
  switch (event.key) {
    case after:
      return items[(from + 1) % items.length]
    case before:
      return items[(from - 1 + items.length) % items.length]
    case 'Home':
      return items[0]
    case 'End':
      return items.at(-1)
    default:
      return undefined
  }
}
