/** The lines of a NDJSON log, with the questions that the oracles ask of them; shares no code with the product. */
export type Event = Record<string, number> & {
  event: string
  t: number
  why: string
  reason: string
  tier: string
  key: string
  cause: string
}
export type Row = Record<string, number> & { table: string; id: number; fit: string }

export interface LogLines {
  head: { refreshHz: number; heightDp: number; widthDp: number }
  events: readonly Event[]
  of: (name: string) => Event[]
  table: (name: string) => Row[]
  end: number
  /** The place of an event in the log. */
  at: (event: Event) => number
}

export function readLines(lines: readonly string[]): LogLines {
  const parsed = lines.map((line) => JSON.parse(line) as Event & Row)
  const events = parsed.filter((row) => row.event !== undefined) as Event[]
  const places = new Map(events.map((event, i) => [event, i]))
  const kinds = new Map<string, Event[]>()
  for (const event of events) {
    const known = kinds.get(event.event)
    if (known) known.push(event)
    else kinds.set(event.event, [event])
  }
  return {
    head: parsed[0] as unknown as LogLines['head'],
    events,
    of: (name) => kinds.get(name) ?? [],
    table: (name) => parsed.filter((row) => row.table === name),
    end: events.at(-1)!.t,
    at: (event) => places.get(event)!,
  }
}

/** Nearest rank. */
export const rankOf = (sorted: readonly number[], share: number) =>
  sorted.length === 0 ? null : sorted[Math.max(0, Math.ceil(share * sorted.length) - 1)]!
export const shareOf = (part: number, whole: number) => (whole === 0 ? null : part / whole)
export const total = (list: readonly number[]) => list.reduce((sum, each) => sum + each, 0)
