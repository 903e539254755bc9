import { chunkRows, type RunLog } from './run-log.ts'

/**
 * A fingerprint of a log, the same in every engine: each event's columns in order and the tables. 64 bits (two 32-bit
 * lanes) as 16 hex digits; it identifies logs, it is not a signature.
 */
export function hashLog(log: RunLog): string {
  const lanes = new Int32Array([0x811c9dc5, 0x1b873593])
  const add = (value: number) => {
    lanes[0] = Math.imul(lanes[0]! ^ value, 0x01000193)
    lanes[1] = Math.imul((lanes[1]! ^ value) + (lanes[1]! >>> 13), 0x5bd1e995)
  }
  for (const [number, chunk] of log.chunks.entries()) {
    const rows = Math.min(chunkRows, log.count - number * chunkRows)
    const wide = new Int32Array(chunk.x.buffer)
    for (let row = 0; row < rows; row++) {
      add(chunk.kind[row]!)
      add(chunk.t[row]! | 0)
      add(chunk.a[row]!)
      add(chunk.b[row]!)
      add(chunk.c[row]!)
      add(chunk.d[row]!)
      add(wide[2 * row]!)
      add(wide[2 * row + 1]!)
    }
  }
  const tables = JSON.stringify([log.head, log.strings, log.assets, log.renditions, log.geometries])
  for (let i = 0; i < tables.length; i++) add(tables.charCodeAt(i))
  return [...lanes].map((lane) => (lane >>> 0).toString(16).padStart(8, '0')).join('')
}
