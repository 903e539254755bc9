import { availableParallelism } from 'node:os'

/** Drawing takes a core: one at least is left to others. What nobody waits for any more is not begun. */
const atOnce = Math.max(1, Math.min(4, availableParallelism() - 1))

interface Job {
  run: () => Promise<void>
  wanted: () => boolean
  dropped: () => void
}

const waiting: Job[] = []
let active = 0

/** Runs a drawing when there is room; null when nobody wanted it by then. */
export function queueDrawing<T>(draw: () => Promise<T>, wanted: () => boolean): Promise<T | null> {
  return new Promise((resolve, reject) => {
    waiting.push({
      wanted,
      dropped: () => resolve(null),
      run: async () => {
        try {
          resolve(await draw())
        } catch (error) {
          reject(error as Error)
        }
      },
    })
    next()
  })
}

function next(): void {
  while (active < atOnce) {
    const job = waiting.shift()
    if (!job) return
    if (!job.wanted()) {
      job.dropped()
      continue
    }
    active++
    void job.run().finally(() => {
      active--
      next()
    })
  }
}
