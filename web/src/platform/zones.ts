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

/** The instant of a local time in a zone, in milliseconds; of a time that comes twice the first, of one that is left out the next. */
export function zonedInstant(local: string, zone: string): number {
  const wanted = Date.parse(local.slice(0, 19) + 'Z')
  // Two rounds: the offset at the guess, then the offset where that leads.
  let instant = wanted - offset(wanted, zone)
  instant = wanted - offset(instant, zone)
  return instant
}

/** How far a zone's clocks are ahead of UTC at an instant, in milliseconds. */
function offset(instant: number, zone: string): number {
  return Date.parse(localTime(instant, zone) + 'Z') - Math.floor(instant / 1000) * 1000
}
