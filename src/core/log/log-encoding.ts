import { deflateSync, inflateSync, strFromU8, strToU8 } from 'fflate'
import { kindNames } from './event-kinds.ts'
import { chunkRows, emptyChunk, RunLog, type Chunk, type RunHead } from './run-log.ts'

export const logFormat = 'tile-tug/run'
export const logVersion = 1

/** A log as it is stored: a head in JSON, and per chunk one deflated block of shuffled byte planes. */
export interface EncodedLog {
  format: typeof logFormat
  version: number
  count: number
  /** Deflated JSON: head, kinds and tables. */
  tables: Uint8Array
  chunks: Uint8Array[]
}

/** Byte planes of one event: kind 1, t 4, a b c d 4 each, x 8. */
const planes = 29
const columns = ['a', 'b', 'c', 'd'] as const

/**
 * Encodes a log. Each column is a difference to the event of the same kind before it (times: to the event
 * before), folded to small unsigned numbers; the bytes are laid plane by plane, then deflated fast.
 */
export function encodeLog(log: RunLog): EncodedLog {
  const { head, strings, assets, renditions, geometries } = log
  const tables = strToU8(JSON.stringify({ head, kinds: kindNames, strings, assets, renditions, geometries }))
  return {
    format: logFormat, version: logVersion, count: log.count,
    tables: deflateSync(tables, { level: 6 }),
    chunks: log.chunks.map((chunk, i) => deflateSync(shuffle(chunk, Math.min(chunkRows, log.count - i * chunkRows)), { level: 1 })),
  }
}

/** Decodes a stored log; throws with a clear message for another format or a newer version. */
export function decodeLog(stored: EncodedLog): RunLog {
  if (stored.format !== logFormat) throw new Error(`this is not a run log (format ${String(stored.format)})`)
  if (stored.version > logVersion) throw new Error(`the run log is of version ${stored.version}; this version reads up to ${logVersion}`)
  const tables = JSON.parse(strFromU8(inflateSync(stored.tables))) as {
    head: RunHead; kinds: string[]
    strings: string[]; assets: RunLog['assets']; renditions: RunLog['renditions']; geometries: RunLog['geometries']
  }
  const log = new RunLog(tables.head)
  log.chunks = stored.chunks.map((bytes, i) => unshuffle(inflateSync(bytes), Math.min(chunkRows, stored.count - i * chunkRows)))
  log.count = stored.count
  log.strings.push(...tables.strings)
  for (const row of tables.assets) log.assets.push(row)
  for (const row of tables.renditions) log.renditions.push(row)
  for (const row of tables.geometries) log.geometries.push(row)
  return log
}

export function encodedBytes(stored: EncodedLog): number {
  return stored.tables.length + stored.chunks.reduce((sum, chunk) => sum + chunk.length, 0)
}

function shuffle(chunk: Chunk, rows: number): Uint8Array {
  const out = new Uint8Array(rows * planes)
  const last = columns.map(() => new Int32Array(256))
  const lastX = new Float64Array(256)
  let time = 0
  out.set(chunk.kind.subarray(0, rows))
  for (let row = 0; row < rows; row++) {
    const t = chunk.t[row]!
    put(out, rows, 1, row, fold((t - time) | 0))
    time = t
  }
  for (const [number, name] of columns.entries()) {
    const column = chunk[name]
    const before = last[number]!
    for (let row = 0; row < rows; row++) {
      const kind = chunk.kind[row]!
      const value = column[row]!
      put(out, rows, 5 + 4 * number, row, fold((value - before[kind]!) | 0))
      before[kind] = value
    }
  }
  for (let row = 0; row < rows; row++) {
    const kind = chunk.kind[row]!
    const value = chunk.x[row]!
    const change = value - lastX[kind]!
    lastX[kind] = value
    const folded = change < 0 ? -2 * change - 1 : 2 * change
    put(out, rows, 21, row, folded % 4294967296)
    put(out, rows, 25, row, Math.floor(folded / 4294967296))
  }
  return out
}

function unshuffle(bytes: Uint8Array, rows: number): Chunk {
  const chunk = emptyChunk(rows)
  const last = columns.map(() => new Int32Array(256))
  const lastX = new Float64Array(256)
  let time = 0
  for (let row = 0; row < rows; row++) {
    const kind = (chunk.kind[row] = bytes[row]!)
    time = (time + unfold(get(bytes, rows, 1, row))) >>> 0
    chunk.t[row] = time
    for (const [number, name] of columns.entries()) {
      const value = (last[number]![kind]! + unfold(get(bytes, rows, 5 + 4 * number, row))) | 0
      chunk[name][row] = last[number]![kind] = value
    }
    const folded = get(bytes, rows, 21, row) + get(bytes, rows, 25, row) * 4294967296
    const change = folded % 2 === 1 ? -(folded + 1) / 2 : folded / 2
    chunk.x[row] = lastX[kind] = lastX[kind]! + change
  }
  return chunk
}

/** Signed to unsigned so that small magnitudes stay small: 0, −1, 1, −2 … → 0, 1, 2, 3 … */
const fold = (value: number) => ((value << 1) ^ (value >> 31)) >>> 0
const unfold = (value: number) => (value >>> 1) ^ -(value & 1)

function put(out: Uint8Array, rows: number, plane: number, row: number, value: number): void {
  const at = plane * rows + row
  out[at] = value
  out[at + rows] = value >>> 8
  out[at + 2 * rows] = value >>> 16
  out[at + 3 * rows] = value >>> 24
}

function get(bytes: Uint8Array, rows: number, plane: number, row: number): number {
  const at = plane * rows + row
  return (bytes[at]! | (bytes[at + rows]! << 8) | (bytes[at + 2 * rows]! << 16) | (bytes[at + 3 * rows]! << 24)) >>> 0
}
