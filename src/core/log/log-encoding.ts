import { deflateSync, inflateSync, strFromU8, strToU8 } from 'fflate'
import { K, kindNames } from './event-kinds.ts'
import { chunkRows, emptyChunk, RunLog, type Chunk, type RunHead } from './run-log.ts'

export const logFormat = 'tile-tug/run'
/** Version of the events and their fields, as in NDJSON. */
export const logVersion = 1
/** Version of the columns in which they are stored. */
const encodingVersion = 2

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
/** One bit a plane at the start of a block: whether the plane is there. */
const planesHead = 4
const columns = ['a', 'b', 'c', 'd'] as const

/**
 * Encodes a log. Each column is a difference to the event of the same kind before it (times: to the event before),
 * folded to small unsigned numbers; the bytes are arranged in planes, then deflated fast.
 */
export function encodeLog(log: RunLog): EncodedLog {
  const { head, strings, assets, renditions, geometries } = log
  const tables = strToU8(JSON.stringify({ head, kinds: kindNames, strings, assets, renditions, geometries }))
  return {
    format: logFormat,
    version: encodingVersion,
    count: log.count,
    tables: deflateSync(tables, { level: 6 }),
    chunks: log.chunks.map((chunk, i) =>
      deflateSync(foldZeros(shuffle(chunk, Math.min(chunkRows, log.count - i * chunkRows))), { level: 2 }),
    ),
  }
}

/** Decodes a stored log; throws with a clear message for another format or a newer version. */
export function decodeLog(stored: EncodedLog): RunLog {
  if (stored.format !== logFormat) throw new Error(`this is not a run log (format ${String(stored.format)})`)
  if (stored.version > encodingVersion)
    throw new Error(`the run log is of version ${stored.version}; this version reads up to ${encodingVersion}`)
  const tables = JSON.parse(strFromU8(inflateSync(stored.tables))) as {
    head: RunHead
    kinds: string[]
    strings: string[]
    assets: RunLog['assets']
    renditions: RunLog['renditions']
    geometries: RunLog['geometries']
  }
  const log = new RunLog(tables.head)
  log.chunks = stored.chunks.map((bytes, i) => unshuffleRows(bytes, Math.min(chunkRows, stored.count - i * chunkRows)))
  log.count = stored.count
  if (stored.version < 2) for (const chunk of log.chunks) fromVersion1(chunk)
  log.strings.push(...tables.strings)
  for (const row of tables.assets) log.assets.push(row)
  for (const row of tables.renditions) log.renditions.push(row)
  for (const row of tables.geometries) log.geometries.push(row)
  return log
}

/** Version 1 held the times of frames, work, decodes and collections in 32 bits. */
function fromVersion1(chunk: Chunk): void {
  const { kind, a, b, c, x } = chunk
  for (let row = 0; row < kind.length; row++)
    switch (kind[row]) {
      case K.frame:
        x[row] = a[row]!
        c[row] = c[row]! - a[row]!
        a[row] = 0
        break
      case K.work:
        x[row] = b[row]!
        b[row] = 0
        break
      case K.decodeEnd:
        x[row] = c[row]!
        c[row] = 0
        break
      case K.collect:
        x[row] = a[row]!
        a[row] = 0
    }
}

export function encodedBytes(stored: EncodedLog): number {
  return stored.tables.length + stored.chunks.reduce((sum, chunk) => sum + chunk.length, 0)
}

function shuffle(chunk: Chunk, rows: number): Uint8Array {
  const out = new Uint8Array(planesHead + rows * planes)
  let at = planesHead
  const values = new Uint32Array(rows)
  const addPlanes = (plane: number, count: number) => {
    for (let byte = 0; byte < count; byte++) {
      const shift = 8 * byte
      let any = 0
      for (let row = 0; row < rows; row++) any |= out[at + row] = values[row]! >>> shift
      // An empty plane is left out: its bit in the head stays 0.
      if (any !== 0) {
        out[(plane + byte) >> 3]! |= 1 << ((plane + byte) & 7)
        at += rows
      }
    }
  }
  for (let row = 0; row < rows; row++) values[row] = chunk.kind[row]!
  addPlanes(0, 1)
  for (let row = 0, time = 0; row < rows; row++) {
    values[row] = fold((chunk.t[row]! - time) | 0)
    time = chunk.t[row]!
  }
  addPlanes(1, 4)
  for (const [number, name] of columns.entries()) {
    const column = chunk[name]
    const before = new Int32Array(256)
    for (let row = 0; row < rows; row++) {
      const kind = chunk.kind[row]!
      values[row] = fold((column[row]! - before[kind]!) | 0)
      before[kind] = column[row]!
    }
    addPlanes(5 + 4 * number, 4)
  }
  const high = new Uint32Array(rows)
  const before = new Float64Array(256)
  for (let row = 0; row < rows; row++) {
    const kind = chunk.kind[row]!
    const change = chunk.x[row]! - before[kind]!
    before[kind] = chunk.x[row]!
    const folded = change < 0 ? -2 * change - 1 : 2 * change
    values[row] = folded % 4294967296
    high[row] = folded / 4294967296
  }
  addPlanes(21, 4)
  values.set(high)
  addPlanes(25, 4)
  return out.subarray(0, at)
}

/** A run of zeros becomes a zero and its length, 1 to 255: most bytes of the planes are zeros. */
function foldZeros(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length * 2)
  let to = 0
  for (let i = 0; i < bytes.length;) {
    const byte = bytes[i]!
    if (byte !== 0) {
      out[to++] = byte
      i++
      continue
    }
    let end = i + 1
    while (end < bytes.length && end - i < 255 && bytes[end] === 0) end++
    out[to++] = 0
    out[to++] = end - i
    i = end
  }
  return out.subarray(0, to)
}

function unfoldZeros(folded: Uint8Array, room: number): Uint8Array {
  const out = new Uint8Array(room)
  let to = 0
  for (let i = 0; i < folded.length; i++) {
    if (folded[i] === 0) to += folded[++i]!
    else out[to++] = folded[i]!
  }
  return out
}

const unshuffleRows = (bytes: Uint8Array, rows: number) =>
  unshuffle(unfoldZeros(inflateSync(bytes), planesHead + rows * planes), rows)

/** Puts the planes that are there at their places again. */
function spread(packed: Uint8Array, rows: number): Uint8Array {
  const bytes = new Uint8Array(rows * planes)
  let at = planesHead
  for (let plane = 0; plane < planes; plane++) {
    if ((packed[plane >> 3]! & (1 << (plane & 7))) === 0) continue
    bytes.set(packed.subarray(at, at + rows), plane * rows)
    at += rows
  }
  return bytes
}

function unshuffle(packed: Uint8Array, rows: number): Chunk {
  const bytes = spread(packed, rows)
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

function get(bytes: Uint8Array, rows: number, plane: number, row: number): number {
  const at = plane * rows + row
  return (bytes[at]! | (bytes[at + rows]! << 8) | (bytes[at + 2 * rows]! << 16) | (bytes[at + 3 * rows]! << 24)) >>> 0
}
