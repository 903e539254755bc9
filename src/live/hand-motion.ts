import { toUnits, unitsPerDp } from '../core/numbers/units.ts'
import type { Device } from '../core/project/types.ts'
import { glide } from '../core/scrolling/flick.ts'
import type { ListPlace, Motion, Scroll, ScrollBounds } from '../core/scrolling/script-player.ts'
import type { Us } from '../core/worlds/ports.ts'

/** The speed of a release is taken from the moves within this time, ms. */
const releaseWindowMs = 80

/** A hand on the device: it drags, lets go, and the list glides on by the device's flick curve. */
export class HandMotion implements Motion {
  readonly ended = false
  private readonly flick: Device['flick']
  private readonly bounds: ScrollBounds
  private readonly requestFrame: () => void
  private readonly now: () => Us
  private position: number
  private speed = 0
  private drag: { y: number; from: number; moves: { t: number; y: number }[] } | null = null
  private nudged = false
  /** The position to take once its items are there. */
  private start: ListPlace | null
  /** A hand has moved it. */
  touched = false
  private gliding: { start: Us; from: number; speed: number } | null = null

  constructor(
    flick: Device['flick'],
    bounds: ScrollBounds,
    requestFrame: () => void,
    now: () => Us,
    start: ListPlace | null,
  ) {
    this.flick = flick
    this.bounds = bounds
    this.requestFrame = requestFrame
    this.now = now
    this.start = start
    this.position = 0
  }

  get moving(): boolean {
    return this.gliding !== null
  }

  get topDp(): number {
    return this.position
  }

  advance(now: Us): Scroll {
    const byHand = this.drag || this.nudged ? 'drag' : 'rest'
    const by = this.gliding ? 'flick' : byHand
    this.nudged = false
    if (this.gliding) {
      const at = glide(this.gliding.speed, Math.max(0, now - this.gliding.start) / 1000, this.flick)
      this.position = this.gliding.from + at.moved
      this.speed = at.speed
      if (at.atRest) this.gliding = null
    } else if (!this.drag) this.speed = 0
    const max = this.bounds.max() / unitsPerDp
    if (this.start && max > 0) this.goToStart(this.start, max)
    const clamped = max > 0 || !this.bounds.growing() ? Math.max(0, Math.min(max, this.position)) : this.position
    if (clamped !== this.position) {
      this.position = clamped
      this.gliding = null
      this.speed = 0
    }
    return { top: toUnits(max > 0 ? this.position : 0), speed: this.speed, jumped: false, by }
  }

  /** Once its item is there; until then at the end, where the next page is requested. */
  private goToStart(place: ListPlace, max: number): void {
    const top = this.bounds.topOf(place)
    this.position = top === null ? max : top / unitsPerDp
    if (top !== null || !this.bounds.growing()) this.start = null
  }

  /** A hand takes over, wherever the list was going. */
  private touch(): void {
    this.touched = true
    this.start = null
  }

  shift(units: number): void {
    this.position += units / unitsPerDp
    if (this.gliding) this.gliding.from += units / unitsPerDp
    if (this.drag) this.drag.from += units / unitsPerDp
  }

  press(yDp: number, ms: number): void {
    this.touch()
    this.gliding = null
    this.drag = { y: yDp, from: this.position, moves: [{ t: ms, y: yDp }] }
  }

  move(yDp: number, ms: number): void {
    if (!this.drag) this.press(yDp, ms)
    const drag = this.drag!
    drag.moves.push({ t: ms, y: yDp })
    this.position = drag.from + drag.y - yDp
    this.speed = this.releaseSpeed(ms)
    this.requestFrame()
  }

  release(ms: number): void {
    if (!this.drag) return
    const speed = this.releaseSpeed(ms)
    this.drag = null
    this.gliding = { start: this.now(), from: this.position, speed }
    this.requestFrame()
  }

  /** A wheel or a key moves the list by so much. */
  nudge(dp: number): void {
    this.touch()
    this.gliding = null
    this.nudged = true
    this.position += dp
    this.requestFrame()
  }

  private releaseSpeed(ms: number): number {
    const moves = this.drag!.moves.filter((move) => ms - move.t <= releaseWindowMs)
    const first = moves[0]
    const last = moves.at(-1)
    if (!first || !last || last.t <= first.t) return 0
    return ((first.y - last.y) / (last.t - first.t)) * 1000
  }
}
