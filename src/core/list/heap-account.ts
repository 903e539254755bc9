import type { Loader } from '../loading/loader.ts'

/** Memory of an app before it shows anything, bytes: an estimate, the same in every run. */
const baseBytes = 18_000_000

export interface HeapBytes {
  tier: number
  bound: number
  garbage: number
  resident: number
}

/** Memory of the app now: tiers, bound renditions, transfer buffers, garbage and base. */
export function heapBytes(loader: Loader, garbage: number): HeapBytes {
  const tier = loader.memory.tierBytes
  const bound = loader.memory.boundBytes
  return { tier, bound, garbage, resident: baseBytes + tier + bound + garbage + loader.bufferBytes() }
}
