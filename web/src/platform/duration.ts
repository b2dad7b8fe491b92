/** Units of durations by their names and short forms, with their seconds. */
const UNITS: [RegExp, bigint][] = [
  [/^(s|secs?|seconds?)$/, 1n],
  [/^(m|mins?|minutes?)$/, 60n],
  [/^(h|hrs?|hours?)$/, 3_600n],
  [/^(d|days?)$/, 86_400n],
  [/^(w|weeks?)$/, 604_800n],
]
const NUMBER = '(\\d{1,40}(?:\\.\\d{1,40})?)'
const ISO = new RegExp(
  `^([+-]?)P(?=[\\dT])(?:${NUMBER}W)?(?:${NUMBER}D)?(?:T(?=\\d)(?:${NUMBER}H)?(?:${NUMBER}M)?(?:${NUMBER}S)?)?$`,
  'i',
)
const CLOCK = /^([+-]?)(\d{1,40}):([0-5]\d)(?::([0-5]\d(?:\.\d{1,40})?))?$/
const PART = new RegExp(`^\\s*${NUMBER}\\s*(\\p{L}+)\\.?\\s*(?:,|and\\b)?\\s*`, 'u')

/** So many of a unit in seconds, exactly: tenths, hundredths and so on behind the point. */
interface Exact {
  units: bigint
  decimals: number
}

function times(digits: string | undefined, unit: bigint): Exact {
  const [whole = '0', fraction = ''] = (digits ?? '0').split('.')
  return { units: BigInt(whole + fraction) * unit, decimals: fraction.length }
}

function sum(parts: Exact[], negative: boolean): string {
  const decimals = Math.max(...parts.map((p) => p.decimals))
  const units = parts.reduce((total, p) => total + p.units * 10n ** BigInt(decimals - p.decimals), 0n)
  const text = String(units).padStart(decimals + 1, '0')
  const whole = text.slice(0, text.length - decimals)
  const fraction = text.slice(text.length - decimals).replace(/0+$/, '')
  return (negative && units ? '-' : '') + whole + (fraction ? '.' + fraction : '')
}

/**
 * The seconds of a duration as it is written, `2 h 30 min`, `2:30` or `PT2H30M`, in figures; `undefined` where it is none. The same
 * forms as the server reads.
 */
export function durationSeconds(raw: string): string | undefined {
  const text = raw.trim()
  const iso = ISO.exec(text)
  if (iso)
    return sum(
      [604_800n, 86_400n, 3_600n, 60n, 1n].map((unit, i) => times(iso[i + 2], unit)),
      iso[1] === '-',
    )
  const clock = CLOCK.exec(text)
  if (clock)
    return sum(
      [3_600n, 60n, 1n].map((unit, i) => times(clock[i + 2], unit)),
      clock[1] === '-',
    )
  const negative = text.startsWith('-')
  let rest = negative ? text.slice(1) : text
  let last: bigint | undefined
  const parts: Exact[] = []
  for (let m = PART.exec(rest); m; m = PART.exec(rest)) {
    const name = m[2]!.toLowerCase()
    const unit = UNITS.find(([names]) => names.test(name))?.[1]
    // Each unit once, the longest first.
    if (unit === undefined || (last !== undefined && unit >= last)) return undefined
    last = unit
    parts.push(times(m[1], unit))
    rest = rest.slice(m[0].length)
  }
  return parts.length && !rest ? sum(parts, negative) : undefined
}

/** A duration in its parts, as text; those that are none are empty. */
function partsOf(seconds: number | string) {
  const text = typeof seconds === 'number' ? plainNumber(seconds) : seconds
  const negative = text.startsWith('-')
  const [whole = '0', fraction = ''] = text.replace(/^-/, '').split('.')
  const all = BigInt(whole)
  const days = all / 86_400n
  const hours = (all / 3_600n) % 24n
  const minutes = (all / 60n) % 60n
  const digits = fraction.replace(/0+$/, '')
  const rest = String(all % 60n) + (digits ? '.' + digits : '')
  const shown = (part: bigint) => (part ? String(part) : '')
  const [d, h, min] = [shown(days), shown(hours), shown(minutes)] as const
  const s = rest !== '0' || !(d || h || min) ? rest : ''
  return { sign: negative && s !== '0' ? '-' : '', d, h, min, s }
}

/** Seconds as people read them: `1 day 2 h 30 min`; what is no number of them, infinity, stays as it is. */
export function durationWords(seconds: number | string): string {
  if (typeof seconds === 'string' && !/^-?\d+(\.\d+)?$/.test(seconds)) return seconds
  const { sign, d, h, min, s } = partsOf(seconds)
  const days = d && `${d} ${d === '1' ? 'day' : 'days'}`
  return sign + [days, h && `${h} h`, min && `${min} min`, s && `${s} s`].filter(Boolean).join(' ')
}

/** Seconds in ISO 8601: `P1DT2H30M`. */
export function durationIso(seconds: number | string): string {
  const { sign, d, h, min, s } = partsOf(seconds)
  const time = (h && `${h}H`) + (min && `${min}M`) + (s && `${s}S`)
  return `${sign}P${d && `${d}D`}${time && `T${time}`}`
}

/** Lengths that people think in, in seconds. */
const STEPS = [1, 5, 15, 30, 60, 300, 900, 1_800, 3_600, 7_200, 14_400, 43_200, 86_400, 604_800]

/**
 * A duration fit to be read, at about the place that was pointed at.
 *
 * @param about how far it may be off, in seconds
 */
export function readableDuration(seconds: number, about: number): number {
  const step = STEPS.findLast((s) => s <= about) ?? 1
  return Math.round(seconds / step) * step
}

/** A number in figures, without an exponent. */
function plainNumber(value: number): string {
  const text = String(value)
  return text.includes('e') ? value.toFixed(20).replace(/\.?0+$/, '') : text
}
