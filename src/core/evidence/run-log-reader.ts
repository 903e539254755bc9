import { z } from 'zod'
import { kindFields, kindNames, type Field } from '../log/event-kinds.ts'
import { logFormat, logVersion } from '../log/log-encoding.ts'
import { observations, type Observation } from '../log/observed.ts'
import { RunLog, type RunHead } from '../log/run-log.ts'
import { profileRun, type Profile } from '../profile/profile.ts'
import { unitsPerDp } from '../numbers/units.ts'
import { EvidenceError, mostEvents } from './evidence.ts'
import { Lines } from './lines.ts'

const count = z.number().min(0)
const text = z.string().max(8000)

const headLine = z.object({
  format: z.literal(logFormat),
  version: z.literal(logVersion),
  world: z.enum(['simulated', 'live', 'recorded']),
  observed: z.array(z.enum(Object.keys(observations) as [Observation, ...Observation[]])).optional(),
  seed: z.int().min(0),
  visit: z.enum(['first', 'restarted', 'again']),
  project: text,
  screen: text,
  script: text,
  refreshHz: z.number().min(1).max(1000),
  heightDp: z.number().min(1).max(100_000),
  widthDp: z.number().min(1).max(100_000),
  diskStartBytes: count,
  policy: z.object({
    fetchSlots: count,
    fetchSlotsPerHost: count,
    decodeWorkers: count,
    memoryMb: count,
    diskMb: count,
    guard: z.boolean(),
    resetOnBind: z.boolean(),
    heldCells: count,
    restraint: z.boolean(),
    agingMs: count,
    columns: z.int().min(1).max(1000),
  }),
})

const tableLine = z.discriminatedUnion('table', [
  z.object({
    table: z.literal('asset'),
    id: z.int().min(0),
    address: text,
    host: text,
    sourceWidth: count,
    sourceHeight: count,
    bytes: count,
  }),
  z.object({
    table: z.literal('rendition'),
    id: z.int().min(0),
    asset: z.int().min(0),
    targetWidth: count,
    targetHeight: count,
    fit: text,
    width: count,
    height: count,
    frames: count.optional(),
    frameMs: count.optional(),
  }),
  z.object({
    table: z.literal('geometry'),
    id: z.int().min(0),
    x: z.number(),
    y: z.number(),
    width: count,
    height: count,
    widthPx: count,
    heightPx: count,
    fit: text,
  }),
])

/** Columns and texts of one event while it is read. */
type Columns = Record<'a' | 'b' | 'c' | 'd' | 'x', number>

/** A field on the same column as another comes after it. */
const orderedFields = kindFields.map((fields) =>
  fields.toSorted((one, other) => Number(one.form === 'afterX') - Number(other.form === 'afterX')),
)

/** Reads run logs as they are written (log/ndjson.ts), also those of several visits one after the other. */
export class RunLogReader {
  readonly logs: RunLog[] = []
  private readonly lines = new Lines((line, number) => this.take(line, number))
  private events = 0

  push(piece: string): void {
    this.lines.push(piece)
  }

  finish(): RunLog[] {
    this.lines.finish()
    if (this.logs.length === 0) throw new EvidenceError('it has no run')
    return this.logs
  }

  private take(line: string, number: number): void {
    if (line.trim() === '') return
    const value = objectIn(line, number)
    if ('event' in value) this.takeEvent(value, number)
    else if ('table' in value) this.takeRow(value, number)
    else this.takeHead(value, number)
  }

  private takeHead(value: Record<string, unknown>, number: number): void {
    if (value.format === logFormat && typeof value.version === 'number' && value.version > logVersion)
      throw new EvidenceError(
        `line ${number}: /version: found ${value.version}, which is newer than this version of Tile Tug reads (${logVersion})`,
      )
    const read = headLine.safeParse(value)
    if (!read.success) throw misfit(number, read.error)
    // Unchanged, so that writing it again gives the same line.
    const head = Object.fromEntries(Object.entries(value).filter(([key]) => key !== 'format' && key !== 'version'))
    this.logs.push(new RunLog(head as unknown as RunHead))
  }

  private takeRow(value: Record<string, unknown>, number: number): void {
    const log = this.current(number)
    const read = tableLine.safeParse(value)
    if (!read.success) throw misfit(number, read.error)
    const { table, id, ...row } = read.data
    const rows = { asset: log.assets, rendition: log.renditions, geometry: log.geometries }[table] as object[]
    if (id !== rows.length)
      throw new EvidenceError(`line ${number}: /id: found ${id}, allowed: ${rows.length}, the next ${table}`)
    if ('asset' in row && row.asset >= log.assets.length)
      throw new EvidenceError(`line ${number}: /asset: found ${row.asset}, allowed: less than ${log.assets.length}`)
    rows.push(row)
  }

  private takeEvent(value: Record<string, unknown>, number: number): void {
    const log = this.current(number)
    if (++this.events > mostEvents) throw new EvidenceError(`it has more than ${mostEvents} events`)
    const kind = kindNames.indexOf(value.event as (typeof kindNames)[number])
    if (kind < 0)
      throw new EvidenceError(`line ${number}: /event: found ${shown(value.event)}, which is not an event of a run`)
    const t = instantIn(value.t, number)
    if (t < log.endTime)
      throw new EvidenceError(`line ${number}: /t: found ${shown(value.t)}, before the event above it`)
    const columns: Columns = { a: 0, b: 0, c: 0, d: 0, x: 0 }
    for (const field of orderedFields[kind]!)
      columns[field.column] = columnOf(log, field, value[field.name], t, columns, number)
    log.row(kind, t, columns.a, columns.b, columns.c, columns.d, columns.x)
  }

  private current(number: number): RunLog {
    const log = this.logs.at(-1)
    if (!log) throw new EvidenceError(`line ${number}: the head line of the run is missing in front of it`)
    return log
  }
}

/** Profiles a log that was read; throws an `EvidenceError` when it is inconsistent. */
export function profileOf(log: RunLog): Profile {
  try {
    return profileRun(log)
  } catch (error) {
    throw new EvidenceError(`the run does not hold together: ${error instanceof Error ? error.message : String(error)}`)
  }
}

function columnOf(
  log: RunLog,
  { name, column, form }: Field,
  value: unknown,
  t: number,
  columns: Columns,
  line: number,
): number {
  if (form === 'text' || form === 'name') {
    if (typeof value !== 'string' || value.length > 8000)
      throw new EvidenceError(`line ${line}: /${name}: found ${shown(value)}, allowed: a text`)
    return log.text(value)
  }
  if (typeof value !== 'number')
    throw new EvidenceError(`line ${line}: /${name}: found ${shown(value)}, allowed: a number`)
  const held = columnValue(form, value, t, columns.x)
  const fits = column === 'x' ? Number.isSafeInteger(Math.trunc(held)) : held === (held | 0)
  if (!fits) throw new EvidenceError(`line ${line}: /${name}: found ${shown(value)}, which a run cannot hold`)
  return held
}

/** A number as its column holds it; ms and dp are whole numbers of µs or 1/1024 dp but for the last digits. */
function columnValue(form: Field['form'], value: number, t: number, x: number): number {
  switch (form) {
    case 'ms':
    case 'at':
      return whole(value * 1000)
    case 'after':
      return whole(value * 1000) - t
    case 'afterX':
      return whole(value * 1000) - t - x
    case 'dp':
      return whole(value * unitsPerDp)
    default:
      return value
  }
}

/** Rounds to a whole number when it is next to one. */
function whole(value: number): number {
  const near = Math.round(value)
  return Math.abs(value - near) < 1e-3 ? near : value
}

function instantIn(value: unknown, line: number): number {
  const t = typeof value === 'number' ? Math.round(value * 1000) : NaN
  if (!(t >= 0 && t < 2 ** 32))
    throw new EvidenceError(`line ${line}: /t: found ${shown(value)}, allowed: ms since the visit began`)
  return t
}

function objectIn(line: string, number: number): Record<string, unknown> {
  let value: unknown
  try {
    value = JSON.parse(line)
  } catch {
    throw new EvidenceError(`line ${number}: is not JSON; the file may have been cut off`)
  }
  if (typeof value === 'object' && value !== null && !Array.isArray(value)) return value as Record<string, unknown>
  throw new EvidenceError(`line ${number}: found ${shown(value)}, allowed: an object`)
}

function misfit(line: number, error: z.ZodError): EvidenceError {
  const { path, message } = error.issues[0]!
  return new EvidenceError(`line ${line}: /${path.join('/')}: ${message}`)
}

const shown = (value: unknown) => (value === undefined ? 'nothing' : JSON.stringify(value).slice(0, 60))
