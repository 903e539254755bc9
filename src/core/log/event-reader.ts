import type { Us } from '../worlds/ports.ts'
import { kindFields, kindNames, type Column, type EventFields, type EventKind, type FieldForm } from './event-kinds.ts'
import { chunkRows, emptyChunk, type RunLog } from './run-log.ts'

/** An event as it is read: its instant and its fields by name. It is valid until the next one is read. */
export type ReadEvent<Kind extends EventKind> = { readonly t: Us } & EventFields<Kind>

/** The handlers by kind of event; kinds without one are skipped. */
export type EventHandlers = { [Kind in EventKind]?: (event: ReadEvent<Kind>) => unknown }

/** Reads the events of a log by the names of their fields. Nothing is allocated for an event: see `views`. */
export class EventReader {
  private readonly log: RunLog
  /** By the number of the kind. */
  private readonly handlers: (((event: never) => unknown) | null)[]

  constructor(log: RunLog, handlers: EventHandlers) {
    this.log = log
    this.handlers = kindNames.map((name) => (handlers[name] as ((event: never) => unknown) | undefined) ?? null)
  }

  /** Calls the handlers for the events at the positions [from, to), in order. */
  read(from: number, to: number): void {
    const { handlers, log } = this
    const before = { ...place }
    place.strings = log.strings
    for (let index = from; index < to;) {
      const chunk = log.chunks[Math.floor(index / chunkRows)]!
      const first = index % chunkRows
      const rows = Math.min(chunkRows, first + to - index)
      place.chunk = chunk
      for (let row = first; row < rows; row++, index++) {
        const kind = chunk.kind[row]!
        const handler = handlers[kind]
        if (!handler) continue
        place.row = row
        handler(views[kind] as never)
      }
    }
    // A reader that was interrupted continues.
    Object.assign(place, before)
  }

  readAll(): void {
    this.read(0, this.log.count)
  }
}

/**
 * The row that is being read. It is one for all readers, and the views are made once: then their shapes never change,
 * and reading a field by its name costs what reading its column does.
 */
const place = { chunk: emptyChunk(0), row: 0, strings: [] as readonly string[] }

type Getter = () => unknown

// A function of its own for each column: which one it reads is known when it is compiled.

const columns = {
  a: () => place.chunk.a[place.row]!,
  b: () => place.chunk.b[place.row]!,
  c: () => place.chunk.c[place.row]!,
  d: () => place.chunk.d[place.row]!,
  x: () => place.chunk.x[place.row]!,
}

const texts = {
  a: () => place.strings[place.chunk.a[place.row]!] ?? '',
  b: () => place.strings[place.chunk.b[place.row]!] ?? '',
  c: () => place.strings[place.chunk.c[place.row]!] ?? '',
  d: () => place.strings[place.chunk.d[place.row]!] ?? '',
  x: () => place.strings[place.chunk.x[place.row]!] ?? '',
}

const flags = {
  a: () => place.chunk.a[place.row] === 1,
  b: () => place.chunk.b[place.row] === 1,
  c: () => place.chunk.c[place.row] === 1,
  d: () => place.chunk.d[place.row] === 1,
  x: () => place.chunk.x[place.row] === 1,
}

/** Whole numbers where −1 stands for none. */
const some = {
  a: () => noneBelow0(place.chunk.a[place.row]!),
  b: () => noneBelow0(place.chunk.b[place.row]!),
  c: () => noneBelow0(place.chunk.c[place.row]!),
  d: () => noneBelow0(place.chunk.d[place.row]!),
  x: () => noneBelow0(place.chunk.x[place.row]!),
}

const noneBelow0 = (value: number) => (value < 0 ? null : value)

const instant = () => place.chunk.t[place.row]!

function getterOf(column: Column, form: FieldForm): Getter {
  switch (form) {
    case 'text':
      return texts[column]
    case 'flag':
      return flags[column]
    case 'some':
      return some[column]
    case 'counted':
      return () => noneBelow0(columns[column]() - 1)
    case 'after':
      return () => instant() + columns[column]()
    case 'afterX':
      return () => instant() + columns.x() + columns[column]()
    default:
      return columns[column]
  }
}

/** A view of each kind, by its number, for the row that is being read: a getter a field. */
const views: readonly object[] = kindFields.map((fields) =>
  Object.defineProperties(
    {},
    Object.fromEntries(
      [['t', instant] as const, ...fields.map(({ name, column, form }) => [name, getterOf(column, form)] as const)].map(
        ([name, get]) => [name, { get, enumerable: true }],
      ),
    ),
  ),
)
