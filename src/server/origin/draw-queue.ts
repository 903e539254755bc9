/** Drawing takes a core: at most two at once, in order of asking; what nobody waits for any more is not begun. */
const atOnce = 2

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
