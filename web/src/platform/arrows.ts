/**
 * What an arrow key, Home or End goes to among things of which one has the Tab stop (WAI-ARIA's tabs, toolbars and lists); round from
 * the last to the first.
 *
 * @param axis how they stand: one beside the other, one below the other, or in rows that wrap
 * @returns nothing for any other key, and for keys with Alt, Ctrl or Meta
 */
export function alongArrows<T>(
  event: KeyboardEvent,
  items: T[],
  at: T,
  axis: 'row' | 'column' | 'both' = 'row',
): T | undefined {
  if (event.altKey || event.ctrlKey || event.metaKey || !items.length) return undefined
  const from = items.indexOf(at)
  const row = axis !== 'column'
  const column = axis !== 'row'
  if ((row && event.key === 'ArrowRight') || (column && event.key === 'ArrowDown'))
    return items[(from + 1) % items.length]
  if ((row && event.key === 'ArrowLeft') || (column && event.key === 'ArrowUp'))
    return items[(from - 1 + items.length) % items.length]
  if (event.key === 'Home') return items[0]
  return event.key === 'End' ? items.at(-1) : undefined
}
