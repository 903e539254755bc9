import { vi } from 'vitest'

/**
 * Turns of the event loop in each ms: what was written to a socket has been read by then, and answered, and read again.
 */
const turnsPerMs = 10

/**
 * Runs something whose timers, dates and clock are virtual while its sockets are real: a ms is over when everything
 * that this process had to do in it is done, however long the machine has taken. Both ends of the sockets must be in
 * this process, and they must not wait for anything outside it.
 */
export async function inVirtualTime<T>(run: () => Promise<T>): Promise<T> {
  vi.useFakeTimers({
    toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Date', 'performance'],
  })
  try {
    let over = false
    const result = run().finally(() => (over = true))
    while (!over) {
      for (let turn = 0; turn < turnsPerMs; turn++) await new Promise((resolve) => setImmediate(resolve))
      vi.advanceTimersByTime(1)
    }
    return await result
  } finally {
    vi.useRealTimers()
  }
}
