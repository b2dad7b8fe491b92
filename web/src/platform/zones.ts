const formats = new Map<string, Intl.DateTimeFormat>()

/** The local time of an instant in a zone to the second, as `2026-11-23T14:30:00`. */
export function localTime(instant: number, zone: string): string {
  let format = formats.get(zone)
  if (!format) {
    format = new Intl.DateTimeFormat('sv', {
      timeZone: zone,
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
    })
    formats.set(zone, format)
  }
  return format.format(instant).replace(' ', 'T')
}

const DAY = 86_400_000

/** The instants at which clocks in a zone show a local time: one, two where they are set back, none where they are set forward. */
function shownAt(local: string, zone: string): number[] {
  const wanted = Date.parse(local.slice(0, 19) + 'Z')
  const offsets = new Set([offset(wanted - DAY, zone), offset(wanted + DAY, zone)])
  return [...offsets]
    .map((o) => wanted - o)
    .filter((i) => localTime(i, zone) === local.slice(0, 19))
    .sort((a, b) => a - b)
}

/**
 * The instant of a local time in a zone, in milliseconds. The server reads it in the same way: a time that comes twice is the
 * second one, one that is left out lies as much later as the clock was set forward, and one with an offset is what it says.
 */
export function zonedInstant(local: string, zone: string): number {
  if (/[Z+-]/.test(local.slice(16))) return Date.parse(local)
  const wanted = Date.parse(local.slice(0, 19) + 'Z')
  return shownAt(local, zone).at(-1) ?? wanted - offset(wanted - DAY, zone)
}

/** An instant by the clock of a zone, with its offset where the clock shows that time twice: `2026-10-25T01:30:00+01:00`. */
export function writtenIn(instant: number, zone: string): string {
  const local = localTime(instant, zone)
  return shownAt(local, zone).length < 2 ? local : local + offsetText(offset(instant, zone))
}

/** A local time, with the offset of the first of the two times where it comes twice. */
export function firstOfTwo(local: string, zone: string): string {
  const shown = shownAt(local, zone)
  return shown.length < 2 ? local : writtenIn(shown[0]!, zone)
}

/** `01:30` of `01:30:00`, with the offset where there is one. */
export const toMinutes = (written: string) => written.slice(0, 16) + written.slice(19)

function offsetText(milliseconds: number): string {
  const minutes = Math.abs(milliseconds) / 60_000
  const two = (n: number) => String(n).padStart(2, '0')
  return (milliseconds < 0 ? '-' : '+') + two(Math.floor(minutes / 60)) + ':' + two(minutes % 60)
}

/** How far a zone's clocks are ahead of UTC at an instant, in milliseconds. */
function offset(instant: number, zone: string): number {
  return Date.parse(localTime(instant, zone) + 'Z') - Math.floor(instant / 1000) * 1000
}
