import type { MapData } from './map-data.ts'

/** Replaces the number of a request that belongs to the former map: it has no description any more. */
const ofFormer = -2

/**
 * A map whose simulation has got as far as `part`, and from there on as it was before the change. Times are ms: what
 * begins before the end of `part` is the part's, all else is the former map's.
 */
export function joinMaps(part: MapData, former: MapData): MapData {
  const until = part.endMs
  const { channel, lines, holes, drips } = former
  // Events at the very end of the part may be missing in it: they are all taken from the former map.
  const scrolls = split(part.channel.t, channel.t, until)
  const requests = split(part.lines.from, lines.from, until)
  const waits = split(part.holes.from, holes.from, until)
  const late = split(part.drips.t, drips.t, until)
  return {
    ...part,
    endMs: Math.max(until, former.endMs),
    channel: {
      t: join(part.channel.t, channel.t, scrolls),
      top: join(part.channel.top, channel.top, scrolls),
    },
    lines: {
      request: join(part.lines.request, new Int32Array(lines.request.length).fill(ofFormer), requests),
      row: join(part.lines.row, lines.row, requests),
      y: join(part.lines.y, lines.y, requests),
      from: join(part.lines.from, lines.from, requests),
      to: join(part.lines.to, lines.to, requests),
      kind: join(part.lines.kind, lines.kind, requests),
      slot: join(part.lines.slot, lines.slot, requests),
      bytes: join(part.lines.bytes, lines.bytes, requests),
    },
    holes: {
      y: join(part.holes.y, holes.y, waits),
      height: join(part.holes.height, holes.height, waits),
      from: join(part.holes.from, holes.from, waits),
      to: join(part.holes.to, holes.to, waits),
    },
    drips: {
      t: join(part.drips.t, drips.t, late),
      lateMs: join(part.drips.lateMs, drips.lateMs, late),
    },
  }
}

/** Positions in the columns of the two maps: of what comes before an instant in one, and from it on in the other. */
interface Places {
  before: readonly number[]
  after: readonly number[]
}

/** Of columns of instants, which need not be in order. */
function split(first: Float64Array, second: Float64Array, ms: number): Places {
  const places = { before: [] as number[], after: [] as number[] }
  for (let i = 0; i < first.length; i++) if (first[i]! < ms) places.before.push(i)
  for (let i = 0; i < second.length; i++) if (second[i]! >= ms) places.after.push(i)
  return places
}

function join<A extends Float64Array | Float32Array | Int32Array | Uint8Array>(
  first: A,
  second: A,
  { before, after }: Places,
): A {
  const joined = new (first.constructor as new (length: number) => A)(before.length + after.length)
  for (let i = 0; i < before.length; i++) joined[i] = first[before[i]!]!
  for (let i = 0; i < after.length; i++) joined[before.length + i] = second[after[i]!]!
  return joined
}
