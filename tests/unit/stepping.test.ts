import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { TransferEvents, World } from '../../src/core/worlds/ports.ts'
import { gated, Gate } from '../../src/live/gate.ts'
import { LiveClock } from '../../src/live/live-clock.ts'

beforeEach(() => vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] }))
afterEach(() => vi.useRealTimers())

/** A world of which only the clock and the network are real enough to be gated. */
function stand() {
  const clock = new LiveClock()
  const gate = new Gate(clock)
  let events: TransferEvents | null = null
  const network = {
    listen: (handlers: TransferEvents) => (events = handlers),
    start: () => undefined,
    received: () => 0,
    abort: () => undefined,
    renew: () => undefined,
  }
  const world = gated({ clock, network, decoder: {}, disk: {}, pages: {}, screens: {} } as unknown as World, gate)
  const heard: string[] = []
  world.network.listen({
    connected: () => undefined,
    firstByte: (id) => heard.push(`first byte of ${id}`),
    progress: (id, bytes) => heard.push(`${bytes} of ${id}`),
    done: (id) => heard.push(`${id} done`),
    failed: (id) => heard.push(`${id} failed`),
  })
  return { clock, gate, world, heard, network: () => events! }
}

describe('a gate for stepping', () => {
  it('lets everything through at once while it is open', () => {
    const { network, heard } = stand()
    network().progress(3, 500)
    network().done(3, 900)
    expect(heard).toEqual(['500 of 3', '3 done'])
  })

  it('closes behind the thing that it is asked to close at, and gives the rest in its order', () => {
    const { gate, network, heard } = stand()
    const turns: boolean[] = []
    gate.turned = (closed) => turns.push(closed)
    gate.closes = () => heard.at(-1)?.startsWith('500') ?? false
    network().progress(1, 100)
    network().progress(1, 500)
    network().progress(1, 700)
    network().done(1, 900)
    expect(heard).toEqual(['100 of 1', '500 of 1'])
    // The next stop lies among what waits: it is met before the rest.
    gate.closes = () => heard.at(-1)?.startsWith('700') ?? false
    gate.open()
    expect(heard).toEqual(['100 of 1', '500 of 1', '700 of 1'])
    gate.closes = () => false
    gate.open()
    expect(heard.at(-1)).toBe('1 done')
    expect(turns).toEqual([true, true, false])
  })

  it('lets what happens while it gives the rest wait behind that rest', () => {
    const { gate, network, heard } = stand()
    gate.closes = () => heard.length === 1
    network().progress(1, 100)
    network().progress(1, 200)
    network().progress(1, 300)
    // What the second of them sets off comes after the third.
    gate.closes = () => {
      if (heard.length === 2 && heard.at(-1) === '200 of 1') network().done(1, 300)
      return false
    }
    gate.open()
    expect(heard).toEqual(['100 of 1', '200 of 1', '300 of 1', '1 done'])
  })

  it('holds the clock still: timers keep the distance to what they wait for, and those that are cancelled never come', () => {
    const { clock, gate, world, heard } = stand()
    world.clock.at(100_000, () => heard.push(`at ${Math.round(clock.now() / 1000)}`))
    const dropped = world.clock.at(120_000, () => heard.push('dropped'))
    vi.advanceTimersByTime(40)
    gate.closes = () => true
    gate.look()
    vi.advanceTimersByTime(5000)
    expect([heard, Math.round(clock.now() / 1000)]).toEqual([[], 40])
    gate.closes = () => false
    gate.open()
    // It went off while time was paused, sixty ms of the visit too early.
    expect(heard).toEqual([])
    world.clock.cancel(dropped)
    vi.advanceTimersByTime(59)
    expect(heard).toEqual([])
    vi.advanceTimersByTime(1)
    expect(heard).toEqual(['at 100'])
    vi.advanceTimersByTime(1000)
    expect(heard).toEqual(['at 100'])
  })
})
