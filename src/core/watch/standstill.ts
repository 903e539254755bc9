import type { EventKind } from '../log/event-kinds.ts'
import { EventReader, type EventHandlers, type ReadEvent } from '../log/event-reader.ts'
import type { RunLog } from '../log/run-log.ts'
import type { ListRun } from '../list/list-run.ts'
import { loggedClass } from '../loading/rank.ts'
import { running } from '../loading/request.ts'

/** The kinds of stop, and the events that each stands for. */
export const stops = {
  creation: ['create'],
  bind: ['bind'],
  request: ['start'],
  arrival: ['received'],
  'cut off': ['cut'],
  late: ['frame'],
} as const satisfies Record<string, readonly EventKind[]>
export type Stop = keyof typeof stops
type StopKind = (typeof stops)[Stop][number]

/** An event that a run can stop at, as it was logged. */
export type StopEvent = { [Kind in StopKind]: { event: Kind } & ReadEvent<Kind> }[StopKind]

/** The awaited event: the next of some kinds, or the next frame that is presented. */
export type Wanted = readonly Stop[] | 'frame'

export interface Standstill {
  /** ms since the visit began. */
  ms: number
  over: boolean
  /** The event at which it stopped; null: none of those awaited. */
  at: StopEvent | null
  top: number
  /** Requests that are not over, best rank first. */
  queue: { request: number; row: number | null; state: string; class: number; share: number | null }[]
  cells: { cell: number; row: number; shows: boolean; claim: string }[]
  memoryBytes: number
  boundBytes: number
  diskBytes: number
}

/** The note in a run's log that it was stepped: its times are not those of an uninterrupted run. */
export const steppedNote = 'stepped: its clock stood still now and then'

/** Reads a log as it grows, and finds the next awaited event. */
export class StopWatch {
  private readonly log: RunLog
  private readonly reader: EventReader
  private seen = 0
  private wanted = new Set<StopKind>()
  /** Whether only late frames are awaited. */
  private onlyLate = false
  private found: StopEvent | null = null

  constructor(log: RunLog) {
    this.log = log
    this.reader = new EventReader(log, this.handlers)
  }

  /** The position in the log of the event that was found last. */
  get index(): number {
    return this.seen - 1
  }

  /** Events logged so far are skipped. */
  skip(): void {
    this.seen = this.log.count
  }

  /** The next awaited event logged since the last call; those before it are skipped. */
  next(wanted: Wanted): StopEvent | null {
    this.wanted = new Set(wanted === 'frame' ? ['frame'] : wanted.flatMap((stop): StopKind[] => [...stops[stop]]))
    this.onlyLate = wanted !== 'frame'
    this.found = null
    while (this.found === null && this.seen < this.log.count) this.reader.read(this.seen, ++this.seen)
    return this.found
  }

  private readonly handlers: EventHandlers = {
    create: (event) => this.take({ event: 'create', ...event }),
    bind: (event) => this.take({ event: 'bind', ...event }),
    start: (event) => this.take({ event: 'start', ...event }),
    received: (event) => this.take({ event: 'received', ...event }),
    cut: (event) => this.take({ event: 'cut', ...event }),
    frame: (event) => {
      if (!this.onlyLate || event.due < event.presented) this.take({ event: 'frame', ...event })
    },
  }

  private take(event: StopEvent): void {
    if (this.wanted.has(event.event)) this.found = event
  }
}

/** The complete state of a run at this moment: the queue, what the cells show, what is in the tiers. */
export function standstillOf(run: ListRun, log: RunLog, at: Standstill['at'], over: boolean): Standstill {
  const { loader } = run
  return {
    ms: (at?.t ?? log.endTime) / 1000,
    over: over && at === null,
    at,
    top: run.top,
    queue: loader.ranked().map((request) => ({
      request: request.id,
      row: request.claims[0]?.row ?? null,
      state: request.awaitsRenewal ? 'awaits credentials' : request.state,
      class: loggedClass(request),
      share: running(request) && request.total ? loader.receivedOf(request) / request.total : null,
    })),
    cells: [...run.attachedCells.values()]
      .sort((one, other) => one.index - other.index)
      .map((cell) => ({
        cell: cell.id,
        row: cell.row,
        shows: cell.slots.some((slot) => slot.shows !== null),
        claim: cell.slots[0]?.claim?.state ?? 'none',
      })),
    memoryBytes: loader.memory.tierBytes,
    boundBytes: loader.memory.boundBytes,
    diskBytes: loader.diskTier.bytes,
  }
}
