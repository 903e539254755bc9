import { K, kindNames, type EventKind } from '../log/event-kinds.ts'
import { chunkRows } from '../log/run-log.ts'
import type { Item, Project } from '../project/types.ts'
import { Simulation } from './simulate.ts'

/** What a stop can wait for, and the events that stand for it. */
export const stops = {
  creation: ['create'], bind: ['bind'], request: ['start'], arrival: ['received'], 'cut off': ['cut'], late: ['frame'],
} as const satisfies Record<string, readonly EventKind[]>
export type Stop = keyof typeof stops

export interface Standstill {
  /** ms since the visit began. */
  ms: number
  over: boolean
  /** The event that it stopped at; null: none of those waited for. */
  at: { kind: EventKind; t: number; a: number; b: number; c: number; d: number; x: number } | null
  top: number
  /** Requests that are not over, best rank first. */
  queue: { request: number; row: number; state: string; class: number; share: number | null }[]
  cells: { cell: number; row: number; shows: boolean; claim: string }[]
  memoryBytes: number
  boundBytes: number
  diskBytes: number
}

/** One event or frame at a time. */
const one = 1
const mostSteps = 2_000_000

/** A simulation that stands still at the events one waits for, and tells all it holds. */
export class SteppedRun {
  private readonly simulation: Simulation
  private seen = 0
  private over = false

  constructor(project: Project, options: { screen: string; items: readonly Item[] | null }) {
    this.simulation = new Simulation(project, options)
  }

  /** Goes on to the next of these events, or to the end. */
  next(wanted: readonly Stop[]): Standstill {
    const kinds = new Set(wanted.flatMap((stop) => stops[stop].map((kind) => K[kind])))
    return this.until((kind, a) => kinds.has(kind) && (kind !== K.frame || a < 0))
  }

  /** Goes on to the next frame that is presented. */
  nextFrame(): Standstill {
    return this.until((kind) => kind === K.frame)
  }

  runOn(): Standstill {
    return this.until(() => false)
  }

  private until(stop: (kind: number, a: number) => boolean): Standstill {
    const { log } = this.simulation
    for (let steps = 0; steps < mostSteps; steps++) {
      while (this.seen < log.count) {
        const chunk = log.chunks[Math.floor(this.seen / chunkRows)]!
        const row = this.seen++ % chunkRows
        if (!stop(chunk.kind[row]!, chunk.a[row]!)) continue
        return this.tell({ kind: kindNames[chunk.kind[row]!]!, t: chunk.t[row]!, a: chunk.a[row]!, b: chunk.b[row]!, c: chunk.c[row]!, d: chunk.d[row]!, x: chunk.x[row]! })
      }
      if (this.over) break
      this.over = this.simulation.advance(one)
    }
    return this.tell(null)
  }

  private tell(at: Standstill['at']): Standstill {
    const { run, log } = this.simulation
    const { loader } = run
    return {
      ms: (at?.t ?? log.endTime) / 1000, over: this.over && at === null, at, top: run.top,
      queue: [...loader.live].map((request) => ({
        request: request.id, row: request.claims[0]?.row ?? -1, state: request.state, class: request.class,
        share: request.transfer >= 0 && request.total ? loader.receivedOf(request) / request.total : null,
      })).sort((one, other) => one.class - other.class || one.request - other.request),
      cells: [...run.attachedCells.values()].sort((one, other) => one.index - other.index).map((cell) => ({
        cell: cell.id, row: cell.row, shows: cell.slots.some((slot) => slot.shows >= 0), claim: cell.slots[0]?.claim?.state ?? 'none',
      })),
      memoryBytes: loader.memory.tierBytes, boundBytes: loader.memory.boundBytes, diskBytes: loader.diskTier.bytes,
    }
  }
}
