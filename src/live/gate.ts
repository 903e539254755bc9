import type { Us, World } from '../core/worlds/ports.ts'
import type { LiveClock } from './live-clock.ts'

/**
 * Stands between a live world and the engine when a run is stepped. While closed, it queues everything that happens
 * outside, in order, and the clock is paused; the network itself goes on. After each event that it lets through it
 * checks whether to close.
 */
export class Gate {
  private readonly clock: LiveClock
  private readonly waiting: (() => void)[] = []
  private shut = false
  /** Whether the run is to pause now. */
  closes: () => boolean = () => false
  /** It was closed, or opened again. */
  turned: (closed: boolean) => void = () => undefined

  constructor(clock: LiveClock) {
    this.clock = clock
  }

  get closed(): boolean {
    return this.shut
  }

  /** Lets something happen: now, or when the gate is open again. */
  pass(run: () => void): void {
    if (this.shut || this.waiting.length > 0) {
      this.waiting.push(run)
      return
    }
    run()
    this.look()
  }

  /** Closes when it is asked to. */
  look(): void {
    if (this.shut || !this.closes()) return
    this.shut = true
    this.clock.hold()
    this.turned(true)
  }

  open(): void {
    if (!this.shut) return
    this.shut = false
    this.clock.goOn()
    while (this.waiting.length > 0 && !this.shut) {
      this.waiting.shift()!()
      this.look()
    }
    if (!this.shut) this.turned(false)
  }
}

/** The same world, with all its callbacks to the engine passing through a gate; frames ask the gate themselves. */
export function gated(world: World, gate: Gate): World {
  const { clock, network, decoder, disk, pages, screens } = world
  const through =
    <A extends unknown[]>(callback: (...given: A) => void) =>
    (...given: A) =>
      gate.pass(() => callback(...given))
  /** The engine's timers, and what they are on the clock now. */
  const timers = new Map<number, number>()
  let last = 0
  const arm = (id: number, time: Us, run: () => void): void => {
    timers.set(
      id,
      clock.at(time, () =>
        gate.pass(() => {
          if (!timers.delete(id)) return
          // A timer that fired while the clock was paused is early by that.
          if (clock.now() < time) arm(id, time, run)
          else run()
        }),
      ),
    )
  }
  return {
    ...world,
    clock: {
      now: () => clock.now(),
      at: (time, run) => {
        arm(++last, time, run)
        return last
      },
      cancel: (id) => {
        clock.cancel(timers.get(id) ?? -1)
        timers.delete(id)
      },
    },
    network: {
      listen: (events) =>
        network.listen({
          connected: (transfer) => events.connected(transfer),
          firstByte: through((transfer, head) => events.firstByte(transfer, head)),
          progress: through((transfer, bytes) => events.progress(transfer, bytes)),
          done: through((transfer, bytes) => events.done(transfer, bytes)),
          failed: through((transfer, bytes, reason) => events.failed(transfer, bytes, reason)),
        }),
      start: (order) => network.start(order),
      received: (transfer) => network.received(transfer),
      lastByteAt: (transfer) => network.lastByteAt(transfer),
      abort: (transfer, onCut) => network.abort(transfer, through(onCut)),
      renew: (host, answered) => network.renew(host, through(answered)),
    },
    decoder: {
      start: (order, ended) => decoder.start(order, through(ended)),
      prepareMain: (order, ready) => decoder.prepareMain(order, through(ready)),
      onMain: (order) => decoder.onMain(order),
      drop: (rendition) => decoder.drop(rendition),
      dropBody: (request) => decoder.dropBody(request),
    },
    disk: {
      read: (asset, request, bytes, done) => disk.read(asset, request, bytes, through(done)),
      local: (asset, request, bytes, done) => disk.local(asset, request, bytes, through(done)),
      write: (asset, request, bytes) => disk.write(asset, request, bytes),
      renew: (asset) => disk.renew(asset),
      remove: (asset) => disk.remove(asset),
    },
    pages: {
      ask: (page, done) => pages.ask(page, through(done)),
      failed: (page, reason) => pages.failed(page, reason),
    },
    screens: {
      ...screens,
      pages: (screen) => {
        const other = screens.pages(screen)
        return { ask: (page, done) => other.ask(page, through(done)), failed: (page, why) => other.failed(page, why) }
      },
    },
  }
}
