import { mapClasses, rowOfLine, type MapData } from '../../core/profile/views/map-data.ts'
import { classWords } from './map-words.ts'

/** One request in a sentence; null: none. */
export function sentence(map: MapData, at: number | null): string {
  if (at === null) return ''
  const { lines } = map
  const { name } = classWords[mapClasses[lines.kind[at]!]!]
  const seconds = (ms: number) => `${(ms / 1000).toFixed(2)} s`
  const bytes = lines.bytes[at]! > 0 ? `, ${Math.round(lines.bytes[at]! / 1000)} kB` : ''
  const row = rowOfLine(map, at)
  const where = row === null ? 'outside the list' : `row ${row}`
  return `Request ${lines.request[at]}, ${where}: wanted at ${seconds(lines.from[at]!)}, ${name} at ${seconds(lines.to[at]!)}${bytes}.`
}

/** What a map shows, for those who cannot see it. */
export function summary(map: MapData): string {
  const counted = new Uint32Array(mapClasses.length)
  for (const kind of map.lines.kind) counted[kind]!++
  const counts = mapClasses.flatMap((name, number) =>
    counted[number]! > 0 ? [`${counted[number]} ${classWords[name].name}`] : [],
  )
  return `Scroll map of ${(map.endMs / 1000).toFixed(1)} seconds: ${map.lines.request.length} requests (${counts.join(', ')}), ${map.drips.t.length} late frames, ${map.holes.y.length} waits on screen. Arrow keys step through the requests; with Shift they select a part.`
}
