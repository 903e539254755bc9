import { K, kindNames, type EventKind } from '../log/event-kinds.ts'
import { chunkRows, type RunLog } from '../log/run-log.ts'
import type { ListRun } from '../list/list-run.ts'

/** What a stop can wait for, and the events that stand for it. */
export const stops = {
  creation: ['create'],
  bind: ['bind'],
  request: ['start'],
  arrival: ['received'],
  'cut off': ['cut'],
  late: ['frame'],
} as const satisfies Record<string, readonly EventKind[]>
export type Stop = keyof typeof stops

/** What one waits for: the next of some events, or the next frame that is presented. */
export type Wanted = readonly Stop[] | 'frame'

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

/** How the log of a run says that it was stepped: its times are not those of a run that went on. */
export const steppedNote = 'stepped: its clock stood still now and then'

/** Reads a log as it grows, and finds the next event that is waited for. */
export class StopWatch {
  private readonly log: RunLog
  private seen = 0

  constructor(log: RunLog) {
    this.log = log
  }

  /** What has been logged so far is not waited for. */
  skip(): void {
    this.seen = this.log.count
  }

  /** The next wanted event that has been logged since it was asked last; what came before it is passed over. */
  next(wanted: Wanted): Standstill['at'] {
    const kinds = new Set(wanted === 'frame' ? [K.frame] : wanted.flatMap((stop) => stops[stop].map((kind) => K[kind])))
    while (this.seen < this.log.count) {
      const chunk = this.log.chunks[Math.floor(this.seen / chunkRows)]!
      const row = this.seen++ % chunkRows
      const kind = chunk.kind[row]!
      // Of frames, those that are late are waited for; `x` is when it was due, before or at the instant of the event.
      if (!kinds.has(kind) || (kind === K.frame && wanted !== 'frame' && chunk.x[row]! >= 0)) continue
      return {
        kind: kindNames[kind]!,
        t: chunk.t[row]!,
        a: chunk.a[row]!,
        b: chunk.b[row]!,
        c: chunk.c[row]!,
        d: chunk.d[row]!,
        x: chunk.x[row]!,
      }
    }
    return null
  }
}

/** All that a run holds at this moment: who is in line, what the cells show, what lies in the tiers. */
export function standstillOf(run: ListRun, log: RunLog, at: Standstill['at'], over: boolean): Standstill {
  const { loader } = run
  return {
    ms: (at?.t ?? log.endTime) / 1000,
    over: over && at === null,
    at,
    top: run.top,
    queue: loader.ranked().map((request) => ({
      request: request.id,
      row: request.claims[0]?.row ?? -1,
      state: request.awaitsRenewal ? 'awaits credentials' : request.state,
      class: request.class,
      share: request.transfer >= 0 && request.total ? loader.receivedOf(request) / request.total : null,
    })),
    cells: [...run.attachedCells.values()]
      .sort((one, other) => one.index - other.index)
      .map((cell) => ({
        cell: cell.id,
        row: cell.row,
        shows: cell.slots.some((slot) => slot.shows >= 0),
        claim: cell.slots[0]?.claim?.state ?? 'none',
      })),
    memoryBytes: loader.memory.tierBytes,
    boundBytes: loader.memory.boundBytes,
    diskBytes: loader.diskTier.bytes,
  }
}
