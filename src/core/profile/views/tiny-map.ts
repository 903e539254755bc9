import type { MapData } from './map-data.ts'

/** The gesture, and where requests ended: shares of the width and height, 0–1; `kind` as in the map. */
export interface TinyMap {
  line: [x: number, y: number][]
  ends: [x: number, y: number, kind: number][]
}

/** The most points of the gesture, and ends of requests, in a tiny map. */
const mostTiny = 60

/** A map as small as a word. */
export function tinyOf(map: MapData): TinyMap {
  let deepest = map.heightDp
  for (const top of map.channel.top) deepest = Math.max(deepest, top + map.heightDp)
  // What was loaded ahead is below the farthest screen.
  for (const y of map.lines.y) deepest = Math.max(deepest, y)
  const share = (value: number, of: number) => Math.round((1000 * value) / Math.max(1, of)) / 1000
  const some = (count: number) =>
    Array.from({ length: Math.min(mostTiny, count) }, (_, i) => Math.floor((i * count) / Math.min(mostTiny, count)))
  return {
    line: some(map.channel.t.length).map((i) => [
      share(map.channel.t[i]!, map.endMs),
      share(map.channel.top[i]!, deepest),
    ]),
    ends: some(map.lines.to.length).map((i) => [
      share(map.lines.to[i]!, map.endMs),
      share(map.lines.y[i]!, deepest),
      map.lines.kind[i]!,
    ]),
  }
}
