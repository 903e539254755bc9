/**
 * Workers that a run has left without work, for the next one. A list is made anew with every edit, and to start its
 * workers takes a small machine longer than to make its list.
 */
export class IdleWorkers {
  private readonly start: () => Worker
  private readonly most: number
  private readonly idle: Worker[] = []
  /** Those that have answered, and have not failed since: a script that could not be loaded never answers. */
  private readonly sound = new WeakSet<Worker>()

  /** `most`: how many are kept; any more are ended. */
  constructor(start: () => Worker, most: number) {
    this.start = start
    this.most = most
  }

  /** One that is idle, or a new one. */
  take(): Worker {
    return this.idle.pop() ?? this.takeNew()
  }

  takeNew(): Worker {
    const worker = this.start()
    worker.addEventListener('message', () => this.sound.add(worker), { once: true })
    worker.addEventListener('error', () => this.sound.delete(worker))
    return worker
  }

  /** Keeps a worker that has nothing left to do and nothing left to report. */
  give(worker: Worker): void {
    worker.onmessage = null
    worker.onerror = null
    if (this.sound.has(worker) && this.idle.length < this.most) this.idle.push(worker)
    else worker.terminate()
  }

  /** Ends those that are idle. */
  clear(): void {
    for (const worker of this.idle.splice(0)) worker.terminate()
  }
}
