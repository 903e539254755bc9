/** The kinds of random draws; each has its own sequence, so that the order of events never matters. */
const drawKinds = { jitter: 1, retry: 2, fault: 3, tile: 4, resample: 5, think: 6, gesture: 7, search: 8 } as const
export type DrawKind = keyof typeof drawKinds

/** The n-th draw of a kind, uniform in [0, 1): a hash of (seed, kind, n), 32 bits of it. */
export function draw(seed: number, kind: DrawKind, n: number): number {
  let h = Math.imul(seed ^ 0x9e3779b9, 0x85ebca6b) ^ Math.imul(drawKinds[kind], 0xc2b2ae35)
  h = mix(h ^ Math.imul(n | 0, 0x27d4eb2f))
  h = mix(h ^ Math.imul((n / 4294967296) | 0, 0x165667b1))
  return (h >>> 0) / 4294967296
}

function mix(value: number): number {
  let h = value
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d)
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b)
  return h ^ (h >>> 16)
}

/** A 32-bit hash of a text, for draws that belong to an address (FNV-1a, then mixed). */
export function hashText(text: string): number {
  let h = 0x811c9dc5
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193)
  return mix(h) >>> 0
}
