import { describe, expect, it, vi } from 'vitest'
import { K } from '../../src/core/log/event-kinds.ts'
import { countUpTo } from '../../src/core/numbers/search.ts'
import { unitsPerDp } from '../../src/core/numbers/units.ts'
import { headOf } from '../../src/core/simulate/simulate.ts'
import { glide } from '../../src/core/scrolling/flick.ts'
import { Gate } from '../../src/live/gate.ts'
import type { ListPlace, ScrollBounds } from '../../src/core/scrolling/script-player.ts'
import { HandMotion } from '../../src/live/hand-motion.ts'
import type { LiveClock } from '../../src/live/live-clock.ts'
import { LiveLog } from '../../src/live/live-log.ts'
import { projectOf } from '../support/projects.ts'

const project = projectOf({})

describe('a live log', () => {
  it('puts what is reported late behind what was reported before it, and keeps the spans of it', () => {
    const log = new LiveLog(
      headOf(project, project.screens[0]!, { world: 'live', seed: 1, visit: 'first', script: 'by hand' }),
    )
    log.events.received(9000, { transfer: 1, bytes: 100 })
    log.events.frame(5000, { due: 5000 - 16_000, presented: 5000, begin: 5000 - 33_000, toldLate: 0 })
    log.events.scroll(5000, { top: 2048, speed: 0, corrected: 0, atBound: false, by: 'drag' })
    log.events.received(9500, { transfer: 2, bytes: 100 })
    const reported: number[][] = []
    log.each(({ kind, t, c, d, x }, row) => reported.push([kind[row]!, t[row]!, x[row]!, c[row]!, d[row]!]))
    expect(reported.map(([kind, t]) => [kind, t])).toEqual([
      [K.received, 9000],
      [K.frame, 9000],
      [K.scroll, 9000],
      [K.received, 9500],
    ])
    // By how much it was moved is reported with it: its own instants can be recovered.
    expect(reported[1]!.slice(2)).toEqual([-16_000, -17_000, 4000])
  })
})

describe('a hand', () => {
  const handOn = (maxDp = 5000, start: ListPlace | null = null, topOf: ScrollBounds['topOf'] = () => 0) => {
    const clock = { us: 0 }
    const frames = vi.fn()
    const hand = new HandMotion(
      project.device.flick,
      { max: () => maxDp * unitsPerDp, topOfRow: () => 0, topOf, growing: () => true },
      frames,
      () => clock.us,
      start,
    )
    const at = (ms: number) => {
      clock.us = ms * 1000
      const { top, speed, by } = hand.advance(clock.us)
      return { top: top / unitsPerDp, speed, by }
    }
    return { hand, at, clock, frames }
  }

  it('moves the list by as much as the finger moves, asks for a frame, and is reported as a drag', () => {
    const { hand, at, frames } = handOn()
    hand.press(600, 0)
    expect(at(0)).toEqual({ top: 0, speed: 0, by: 'drag' })
    hand.move(500, 16)
    hand.move(380, 32)
    expect(frames).toHaveBeenCalledTimes(2)
    expect(at(32)).toMatchObject({ top: 220, by: 'drag' })
    hand.move(480, 48)
    expect(at(48).top).toBe(120)
  })

  it('glides on from its speed at the release as far as a flick of that speed does, and comes to rest', () => {
    const { hand, at, clock } = handOn()
    hand.press(600, 0)
    for (let ms = 10; ms <= 60; ms += 10) hand.move(600 - 2 * ms, ms)
    clock.us = 60_000
    hand.release(60)
    expect(hand.moving).toBe(true)
    const gone = at(60)
    expect([gone.top, gone.by]).toEqual([120, 'flick'])
    expect(gone.speed).toBeCloseTo(2000, 6)
    expect(at(10_000).by).toBe('flick')
    const rest = at(10_016)
    expect([rest.by, rest.speed, hand.moving]).toEqual(['rest', 0, false])
    expect(rest.top).toBeCloseTo(120 + glide(2000, 1e6, project.device.flick).moved, 1)
  })

  it('catches a glide where it is, and lets go without speed when it has stood still', () => {
    const { hand, at, clock } = handOn()
    hand.press(600, 0)
    hand.move(500, 16)
    clock.us = 16_000
    hand.release(16)
    const { top } = at(100)
    hand.press(300, 100)
    expect(at(200)).toMatchObject({ top, by: 'drag' })
    hand.move(300, 300)
    clock.us = 300_000
    hand.release(300)
    at(300)
    expect(at(316)).toEqual({ top, speed: 0, by: 'rest' })
  })

  it('stays within the list, goes with corrections, and is reported as moved when a wheel moves it', () => {
    const { hand, at } = handOn(300)
    hand.nudge(500)
    expect(at(0)).toMatchObject({ top: 300, by: 'drag' })
    expect(at(16).by).toBe('rest')
    hand.nudge(-1000)
    expect(at(32).top).toBe(0)
    hand.shift(50 * unitsPerDp)
    expect(at(48).top).toBe(50)
    hand.press(100, 48)
    hand.shift(20 * unitsPerDp)
    hand.move(90, 64)
    expect(at(64).top).toBe(80)
  })

  it('stands at its place once its item is there, and at the end until then; a hand that takes over goes on', () => {
    let there = false
    const topOf = ({ item, share }: ListPlace) => (there ? (item * 10 + share * 10) * unitsPerDp : null)
    const { hand, at } = handOn(5000, { item: 12, share: 0.5 }, topOf)
    expect(at(0).top).toBe(5000)
    there = true
    expect(at(16)).toMatchObject({ top: 125, by: 'rest' })
    expect(hand.touched).toBe(false)
    hand.nudge(40)
    expect(at(32).top).toBe(165)
    expect(hand.touched).toBe(true)
    const early = handOn(5000, { item: 12, share: 0 }, () => null)
    early.hand.nudge(70)
    expect(early.at(0).top).toBe(70)
  })
})

describe('a gate', () => {
  const gateOf = () => {
    const clock = { hold: vi.fn(), goOn: vi.fn() }
    const gate = new Gate(clock as unknown as LiveClock)
    const happened: number[] = []
    const stops = new Set<number>()
    gate.closes = () => stops.delete(happened.at(-1)!)
    return { gate, clock, happened, stops, send: (number: number) => gate.pass(() => void happened.push(number)) }
  }

  it('lets everything through until it closes, then keeps what comes, in its order', () => {
    const { gate, clock, happened, stops, send } = gateOf()
    stops.add(2)
    for (const number of [1, 2, 3, 4]) send(number)
    expect([happened, gate.closed]).toEqual([[1, 2], true])
    expect(clock.hold).toHaveBeenCalledTimes(1)
    gate.open()
    expect([happened, gate.closed]).toEqual([[1, 2, 3, 4], false])
    expect(clock.goOn).toHaveBeenCalledTimes(1)
  })

  it('closes again in the middle of what had waited, and what comes meanwhile stands behind it', () => {
    const { gate, happened, stops, send } = gateOf()
    const turns: boolean[] = []
    gate.turned = (closed) => turns.push(closed)
    for (const number of [1, 3]) stops.add(number)
    for (const number of [1, 2, 3, 4]) send(number)
    gate.open()
    expect(happened).toEqual([1, 2, 3])
    send(5)
    expect(happened).toEqual([1, 2, 3])
    gate.open()
    expect(happened).toEqual([1, 2, 3, 4, 5])
    expect(turns).toEqual([true, true, false])
    gate.open()
    expect(turns).toHaveLength(3)
  })
})

it('counts how many of ascending numbers are at most a bound', () => {
  const numbers = Float64Array.from([1, 3, 3, 7])
  expect([0, 1, 2, 3, 6.9, 7, 9].map((bound) => countUpTo(numbers, bound))).toEqual([0, 1, 1, 3, 3, 4, 4])
  expect(countUpTo([], 5)).toBe(0)
})
