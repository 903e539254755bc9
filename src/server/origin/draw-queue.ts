import { availableParallelism } from 'node:os'
import PQueue from 'p-queue'

/** Drawing takes a core: one at least is left to others. */
const drawings = new PQueue({ concurrency: Math.max(1, Math.min(4, availableParallelism() - 1)) })

/** Runs a drawing when there is room; null when it was not wanted any more by then. */
export function queueDrawing<T>(draw: () => Promise<T>, wanted: () => boolean): Promise<T | null> {
  return drawings.add(async () => (wanted() ? draw() : null))
}
