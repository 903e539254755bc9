import type { Visit } from '../project/types.ts'
import type { Us } from '../worlds/ports.ts'
import type { Observation } from './observed.ts'
import { EventWriter } from './event-writer.ts'

export const chunkRows = 65_536
/** Rows of a first chunk before it grows. */
const firstRows = 4096
/** The most events that one log holds. */
const maxEvents = 50_000_000

/** 65,536 events as columns; 29 bytes an event. */
export interface Chunk {
  kind: Uint8Array
  /** µs since the visit began. */
  t: Uint32Array
  a: Int32Array
  b: Int32Array
  c: Int32Array
  d: Int32Array
  x: Float64Array
}

/** One encoded picture at an address. Source px and bytes are 0 until they are known. */
export interface AssetRow {
  address: string
  host: string
  sourceWidth: number
  sourceHeight: number
  bytes: number
}

/** An asset decoded for a slot. Width and height are 0 until it was decoded. */
export interface RenditionRow {
  asset: number
  targetWidth: number
  targetHeight: number
  fit: string
  width: number
  height: number
  /** Of a moving picture that is played: its frames, each shown for `frameMs`. */
  frames?: number
  frameMs?: number
}

/** Position of a slot in its row, dp, and its px. */
export interface GeometryRow {
  x: number
  y: number
  width: number
  height: number
  widthPx: number
  heightPx: number
  fit: string
}

export interface RunHead {
  world: 'simulated' | 'live' | 'recorded'
  /** Of a recorded run: what its sources observed. Without it: everything. */
  observed?: Observation[]
  seed: number
  visit: Visit
  project: string
  screen: string
  script: string
  refreshHz: number
  heightDp: number
  widthDp: number
  /** What the disk tier held when the visit began. */
  diskStartBytes: number
  /** Budgets and limits of this run: the checks compare the events with them. */
  policy: {
    fetchSlots: number
    fetchSlotsPerHost: number
    decodeWorkers: number
    memoryMb: number
    diskMb: number
    guard: boolean
    resetOnBind: boolean
    heldCells: number
    /** Rules that let a request wait beside a free slot: restraint, idle-only looking ahead. */
    restraint: boolean
    agingMs: number
    columns: number
  }
}

/**
 * The events of one visit in the order of their instants, and the tables that they refer to. Written by the run alone;
 * everything else reads it.
 */
export class RunLog {
  head: RunHead
  chunks: Chunk[] = []
  count = 0
  readonly strings: string[] = []
  readonly assets: AssetRow[] = []
  readonly renditions: RenditionRow[] = []
  readonly geometries: GeometryRow[] = []
  /** Writes events by the names of their fields. */
  readonly events: EventWriter = new EventWriter(this)
  private readonly stringNumbers = new Map<string, number>()
  private current: Chunk | null = null

  constructor(head: RunHead) {
    this.head = head
  }

  /** Writes an event as columns; to write one by its name use `events`. */
  row(kind: number, t: Us, a = 0, b = 0, c = 0, d = 0, x = 0): void {
    const row = this.count % chunkRows
    if (row === 0) this.addChunk()
    if (row === this.current!.kind.length) this.growChunk()
    const chunk = this.current!
    chunk.kind[row] = kind
    chunk.t[row] = t
    chunk.a[row] = a
    chunk.b[row] = b
    chunk.c[row] = c
    chunk.d[row] = d
    // −0 and 0 are one value, in the hash too.
    chunk.x[row] = x + 0
    this.count++
  }

  /** The number of a text in the string table. */
  text(value: string): number {
    let number = this.stringNumbers.get(value)
    if (number === undefined) {
      number = this.strings.push(value) - 1
      this.stringNumbers.set(value, number)
    }
    return number
  }

  /** Calls back for every event in order; `row` is the place in the chunk. */
  each(visit: (chunk: Chunk, row: number, index: number) => void): void {
    for (let index = 0, chunk = 0; index < this.count; chunk++) {
      const columns = this.chunks[chunk]!
      const rows = Math.min(chunkRows, this.count - index)
      for (let row = 0; row < rows; row++, index++) visit(columns, row, index)
    }
  }

  /** The instant of the last event, µs. */
  get endTime(): Us {
    return this.count === 0 ? 0 : this.chunks[this.chunks.length - 1]!.t[(this.count - 1) % chunkRows]!
  }

  private addChunk(): void {
    if (this.count >= maxEvents) throw new Error(`a run log holds ${maxEvents} events at most`)
    // Most runs are short: the first chunk starts small.
    this.current = emptyChunk(this.chunks.length === 0 ? firstRows : chunkRows)
    this.chunks.push(this.current)
  }

  private growChunk(): void {
    const before = this.current!
    const grown = emptyChunk(Math.min(chunkRows, 4 * before.kind.length))
    for (const column of ['kind', 't', 'a', 'b', 'c', 'd', 'x'] as const) grown[column].set(before[column])
    this.chunks[this.chunks.length - 1] = this.current = grown
  }
}

export function emptyChunk(rows: number): Chunk {
  return {
    kind: new Uint8Array(rows),
    t: new Uint32Array(rows),
    a: new Int32Array(rows),
    b: new Int32Array(rows),
    c: new Int32Array(rows),
    d: new Int32Array(rows),
    x: new Float64Array(rows),
  }
}
