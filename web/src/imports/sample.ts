/** Sites of the sample, more often the first ones. */
const SITES = ['North Quay', 'North Quay', 'Cooper’s Basin', 'Cooper’s Basin', 'Lantern Pier', 'Outer Roads']
const TITLES = [
  'Lamp out at berth',
  'Ladder rung loose',
  'Crane stops by itself',
  'Fender torn',
  'Bollard paint worn',
  'Oil on the quay',
  'Gate does not close',
  'Water tap drips',
]
const PEOPLE = ['Wren Halloway', 'Asta Quill', 'Jonas Ferrel', '']
const ROWS = 160

/** Numbers that look random and are the same every time (mulberry32). */
function numbers(seed: number) {
  let state = seed
  return (below: number) => {
    state = (state + 0x6d2b79f5) | 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return Math.floor((((t ^ (t >>> 14)) >>> 0) / 4294967296) * below)
  }
}

/**
 * A small file of invented tickets to try things on, with dates around a day: reported in the last four months, due within
 * weeks, most of the older ones closed.
 *
 * @param today an ISO day, such as `2026-11-23`
 */
export function sampleFile(today: string): File {
  const random = numbers(7)
  const day = (offset: number) => {
    const at = new Date(today + 'T00:00:00Z')
    at.setUTCDate(at.getUTCDate() + offset)
    return at.toISOString().slice(0, 10)
  }
  const rows = ['Ticket,Title,Site,Severity,Reported,Due,Closed,Responsible,Cost']
  for (let i = 1; i <= ROWS; i++) {
    // Older ones first, and rather more lately.
    const reported = -Math.round(120 * (1 - Math.sqrt(i / ROWS)))
    const due = reported + 3 + random(28)
    const closed = reported + 1 + random(40)
    const isClosed = closed <= 0 && random(10) < 8
    rows.push(
      [
        'S-' + String(i).padStart(3, '0'),
        `${TITLES[random(TITLES.length)]} ${1 + random(12)}`,
        SITES[random(SITES.length)],
        1 + random(5),
        day(reported),
        day(due),
        isClosed ? day(closed) : '',
        PEOPLE[random(PEOPLE.length)],
        isClosed ? (20 + random(90_000) / 100).toFixed(2) : '',
      ].join(','),
    )
  }
  return new File([rows.join('\r\n') + '\r\n'], 'Sample tickets.csv', { type: 'text/csv' })
}
