import type { Us } from '../worlds/ports.ts'

/** Bytes of the first round trip of a connection, ten segments of 1460 (RFC 6928). */
const firstWindow = 14_600
/** After this many doublings a window limits no link. */
const mostDoublings = 27

/**
 * What a connection may have in flight, bytes: twice as much with each round trip since it started slowly, at `epoch`.
 */
export function windowAt(epoch: Us, now: Us, rtt: Us): number {
  const trips = Math.floor((now - epoch) / rtt)
  return firstWindow * (1 << Math.min(Math.max(0, trips), mostDoublings))
}
