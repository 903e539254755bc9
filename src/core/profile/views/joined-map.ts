import type { MapData } from './map-data.ts'

/** Stands for the number of a request that belongs to the former map: it is told of no more. */
const ofFormer = -2

/**
 * A map whose simulation has come as far as `part` has, and after that as it was before the change.
 * Times are ms: what begins before the end of `part` is the part's, all else is the former map's.
 */
export function joinMaps(part: MapData, former: MapData): MapData {
  const until = part.endMs
  const { channel, lines, holes, drips } = former
  const laterScrolls = from(channel.t, until)
  const laterLines = from(lines.from, until)
  const laterHoles = from(holes.from, until)
  const laterDrips = from(drips.t, until)
  return {
    ...part,
    endMs: Math.max(until, former.endMs),
    channel: {
      t: join(part.channel.t, channel.t, laterScrolls),
      top: join(part.channel.top, channel.top, laterScrolls),
    },
    lines: {
      request: join(part.lines.request, new Int32Array(lines.request.length).fill(ofFormer), laterLines),
      row: join(part.lines.row, lines.row, laterLines),
      y: join(part.lines.y, lines.y, laterLines),
      from: join(part.lines.from, lines.from, laterLines),
      to: join(part.lines.to, lines.to, laterLines),
      kind: join(part.lines.kind, lines.kind, laterLines),
      slot: join(part.lines.slot, lines.slot, laterLines),
      bytes: join(part.lines.bytes, lines.bytes, laterLines),
    },
    holes: {
      y: join(part.holes.y, holes.y, laterHoles),
      height: join(part.holes.height, holes.height, laterHoles),
      from: join(part.holes.from, holes.from, laterHoles),
      to: join(part.holes.to, holes.to, laterHoles),
    },
    drips: {
      t: join(part.drips.t, drips.t, laterDrips),
      lateMs: join(part.drips.lateMs, drips.lateMs, laterDrips),
    },
  }
}

/** Where those are that begin at an instant or later; a column need not be in order. */
function from(instants: Float64Array, ms: number): number[] {
  const found: number[] = []
  for (let i = 0; i < instants.length; i++) if (instants[i]! >= ms) found.push(i)
  return found
}

function join<A extends Float64Array | Float32Array | Int32Array | Uint8Array>(
  first: A,
  second: A,
  picked: readonly number[],
): A {
  const joined = new (first.constructor as new (length: number) => A)(first.length + picked.length)
  joined.set(first)
  for (let i = 0; i < picked.length; i++) joined[first.length + i] = second[picked[i]!]!
  return joined
}
