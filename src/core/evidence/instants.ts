const dayMs = 86_400_000

/** Days from 1970-01-01 to a date of the proleptic Gregorian calendar. */
function daysTo(year: number, month: number, day: number): number {
  const shifted = month <= 2 ? year - 1 : year
  const era = Math.floor(shifted / 400)
  const ofEra = shifted - era * 400
  const ofYear = Math.floor((153 * (month + (month > 2 ? -3 : 9)) + 2) / 5) + day - 1
  const ofEraDays = ofEra * 365 + Math.floor(ofEra / 4) - Math.floor(ofEra / 100) + ofYear
  return era * 146_097 + ofEraDays - 719_468
}

const iso = /^(\d{4})-(\d\d)-(\d\d)[T ](\d\d):(\d\d)(?::(\d\d)(?:[.,](\d+))?)?\s*(Z|[+-]\d\d:?\d\d)?$/i
const monthDay = /^(\d\d)-(\d\d)[T ](\d\d):(\d\d):(\d\d)(?:[.,](\d+))?$/

/** An instant, and whether it is on the calendar (ms since 1970) or on a clock with an unknown start. */
export interface Instant {
  ms: number
  wallClock: boolean
}

const fraction = (digits: string | undefined) => (digits ? Number(`0.${digits}`) * 1000 : 0)

/** ms since 1970 of an ISO 8601 date and time (one without a zone is taken as UTC); null: it is not one. */
export function isoMs(text: string): number | null {
  const parts = iso.exec(text.trim())
  if (!parts) return null
  const [year, month, day, hour, minute, second = 0] = parts.slice(1, 7).map((part) => Number(part ?? 0)) as number[]
  if (month! < 1 || month! > 12 || day! < 1 || day! > 31 || hour! > 24 || minute! > 59 || second > 60) return null
  const zone = parts[8] ?? 'Z'
  const shift =
    zone.toUpperCase() === 'Z'
      ? 0
      : (zone.startsWith('-') ? -1 : 1) * (Number(zone.slice(1, 3)) * 60 + Number(zone.slice(-2)))
  const minutes = hour! * 60 + minute! - shift
  return daysTo(year!, month!, day!) * dayMs + minutes * 60_000 + second * 1000 + fraction(parts[7])
}

/**
 * An instant as a log line has it: a number with s, ms, µs or ns (ms where there is no unit), ISO 8601, or month-day
 * and time. null: none of these.
 */
export function readInstant(text: string): Instant | null {
  const trimmed = text.trim()
  const wall = isoMs(trimmed)
  if (wall !== null) return { ms: wall, wallClock: true }
  const parts = monthDay.exec(trimmed)
  if (parts) {
    const [month, day, hour, minute, second] = parts.slice(1, 6).map(Number) as number[]
    if (month! < 1 || month! > 12) return null
    // A year is missing: any leap year will do, since only differences of such instants count.
    const minutes = (daysTo(1972, month!, day!) * 24 + hour!) * 60 + minute!
    return { ms: minutes * 60_000 + second! * 1000 + fraction(parts[6]), wallClock: false }
  }
  const ms = readSpan(trimmed, 'ms')
  return ms === null ? null : { ms, wallClock: false }
}

export type TimeUnit = 's' | 'ms' | 'us' | 'ns'
const perMs: Record<TimeUnit, number> = { s: 1000, ms: 1, us: 0.001, ns: 0.000_001 }

export function unitOf(text: string): TimeUnit | null {
  switch (text.trim().toLowerCase()) {
    case 's':
    case 'sec':
    case 'secs':
    case 'second':
    case 'seconds':
      return 's'
    case 'ms':
    case 'msec':
    case 'millis':
    case 'milliseconds':
      return 'ms'
    case 'us':
    case 'µs':
    case 'μs':
    case 'micros':
    case 'microseconds':
      return 'us'
    case 'ns':
    case 'nanos':
    case 'nanoseconds':
      return 'ns'
    default:
      return null
  }
}

/** A duration in ms: a number with its unit, or in the given one. null: it is not one. */
export function readSpan(text: string, unit: TimeUnit): number | null {
  const parts = /^([-+]?[\d.,\s']+(?:e[-+]?\d+)?)\s*([a-zµμ]*)$/i.exec(text.trim())
  if (!parts) return null
  const value = readNumber(parts[1]!)
  const own = parts[2] === '' ? unit : unitOf(parts[2]!)
  return value === null || own === null ? null : inMs(value, own)
}

export const inMs = (value: number, unit: TimeUnit) => (unit === 'ns' ? value / 1e6 : value * perMs[unit])

/** A number with a point or a comma before its decimals; the other one may group its thousands. null: it is not one. */
export function readNumber(text: string): number | null {
  const bare = text.trim().replace(/[\s'\u00a0\u202f]/g, '')
  if (!/^[-+]?[\d.,]*\d(?:e[-+]?\d+)?$/i.test(bare)) return null
  const point = bare.lastIndexOf('.')
  const comma = bare.lastIndexOf(',')
  const decimal = decimalMark(bare, point, comma)
  const plain = decimal === ',' ? bare.replaceAll('.', '').replace(',', '.') : bare.replaceAll(',', '')
  const value = Number(plain)
  return Number.isFinite(value) ? value : null
}

/** Of two separators the last one is before the decimals; a single one is too, unless it occurs several times. */
function decimalMark(text: string, point: number, comma: number): '.' | ',' {
  if (point >= 0 && comma >= 0) return comma > point ? ',' : '.'
  if (comma < 0) return text.indexOf('.') === point ? '.' : ','
  return text.indexOf(',') === comma ? ',' : '.'
}
