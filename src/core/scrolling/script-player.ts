import type { Mover } from '../log/event-kinds.ts'
import { toUnits, unitsPerDp } from '../numbers/units.ts'
import type { Device, Step } from '../project/types.ts'
import type { Clock, Us } from '../worlds/ports.ts'
import { glide } from './flick.ts'

/** Position of the list at a frame: top in 1/1024 dp, speed in dp/s with its sign. */
export interface Scroll {
  top: number
  speed: number
  jumped: boolean
  by: Mover
}

/** What moves the list: a script, or a hand. */
export interface Motion {
  /** The position at a frame's refresh. */
  advance(now: Us): Scroll
  /** The screen's content was moved by so much (a correction above the window): the gesture moves with it. */
  shift(units: number): void
  /** Whether another frame is needed for the motion to go on. */
  readonly moving: boolean
  /** Everything is done and the list is at rest. */
  readonly ended: boolean
}

/** Position of a list, whatever its width: the item at its top, and the share of its row above the window. */
export interface ListPlace {
  item: number
  share: number
}

export interface ScrollBounds {
  /** The greatest top, 1/1024 dp. */
  max(): number
  topOfRow(row: number): number
  /** Top of the window at a share of an item's row; null: the item is not there yet. */
  topOf(place: ListPlace): number | null
  /** More rows may come at the end. */
  growing(): boolean
}

/** `step` is the number of the step that began it. */
type Gesture = { step: number; start: Us; from: number } & (
  | { kind: 'flick'; speed: number }
  | { kind: 'drag'; dp: number; ms: number }
  | {
      kind: 'to'
      where: 'start' | 'end' | number
      speed: number
      /** Its distance when it began, and by how much that has grown with the list, dp; null: not begun. */
      way: { dp: number; farthest: number } | null
      /** How far it had gone when the list last grew, dp. */
      gone: number
    }
)

/** A place that is not reached within so many times the distance to it, and so many seconds more, is given up. */
const patience = 2
const patienceS = 10

type Act = Exclude<Step, { do: 'wait' | 'drag' | 'flick' | 'to' | 'jump' }>

/**
 * Plays a script on a clock. Steps follow one another at exact instants; their effect on the list is seen at the next
 * frame. A flick takes no time of its own: it runs on through `wait`s and is caught by any other step.
 */
export class ScriptPlayer implements Motion {
  private readonly steps: readonly Step[]
  private readonly flick: Device['flick']
  private readonly clock: Clock
  private readonly bounds: ScrollBounds
  private readonly act: (step: Act) => void
  private readonly requestFrame: () => void
  private next = 0
  private stepStart: Us = 0
  private began = false
  private gesture: Gesture | null = null
  /** dp; what is reported is this, rounded to 1/1024 dp and clamped. */
  private position = 0
  private speed = 0
  private jumped = false
  private by: Mover = 'rest'
  private timerFor: number | null = null

  constructor(
    steps: readonly Step[],
    flick: Device['flick'],
    clock: Clock,
    bounds: ScrollBounds,
    act: (step: Act) => void,
    requestFrame: () => void,
  ) {
    this.steps = steps
    this.flick = flick
    this.clock = clock
    this.bounds = bounds
    this.act = act
    this.requestFrame = requestFrame
  }

  get moving(): boolean {
    return this.gesture !== null
  }

  get ended(): boolean {
    return this.began && this.next >= this.steps.length && this.gesture === null
  }

  advance(now: Us): Scroll {
    this.began = true
    this.jumped = false
    this.by = 'rest'
    while (this.next < this.steps.length && this.perform(this.steps[this.next]!, now)) this.next++
    this.moveTo(now)
    return { top: toUnits(this.position), speed: this.speed, jumped: this.jumped, by: this.by }
  }

  shift(units: number): void {
    const dp = units / unitsPerDp
    this.position += dp
    if (this.gesture) this.gesture.from += dp
  }

  /** Does a step as far as it is due by now; returns whether it is over. */
  private perform(step: Step, now: Us): boolean {
    switch (step.do) {
      case 'wait':
        return this.waitUntil(this.stepStart + step.ms * 1000, now)
      case 'flick':
        this.moveTo(this.stepStart)
        this.gesture = { kind: 'flick', ...this.here(), speed: step.dpPerS }
        return true
      case 'drag':
        if (this.gesture?.step !== this.next) {
          this.moveTo(this.stepStart)
          this.gesture = { kind: 'drag', ...this.here(), dp: step.dp, ms: step.ms }
        }
        return this.endDrag(this.stepStart + Math.round(step.ms * 1000), now)
      case 'to':
        if (this.gesture?.step !== this.next) {
          this.moveTo(this.stepStart)
          this.gesture = { kind: 'to', ...this.here(), where: step.where, speed: step.dpPerS, way: null, gone: 0 }
          this.moveTo(this.stepStart)
          // It is there already, which takes no time.
          if (this.gesture === null) return true
        }
        this.moveTo(now)
        if (this.gesture !== null) return false
        this.stepStart = now
        return true
      case 'jump':
        this.gesture = null
        this.position = this.clamp(this.bounds.topOfRow(step.row) / unitsPerDp)
        this.speed = 0
        this.jumped = true
        this.by = 'app'
        return true
      default:
        this.moveTo(this.stepStart)
        this.gesture = null
        this.speed = 0
        this.act(step)
        return true
    }
  }

  private here() {
    return { step: this.next, start: this.stepStart, from: this.position }
  }

  private waitUntil(end: Us, now: Us): boolean {
    if (now < end) {
      if (this.timerFor !== this.next) {
        this.timerFor = this.next
        this.clock.at(end, () => {
          // A real frame can carry a timestamp from just before the timer: then it is set again.
          this.timerFor = null
          this.requestFrame()
        })
      }
      return false
    }
    this.stepStart = end
    return true
  }

  private endDrag(end: Us, now: Us): boolean {
    if (now < end) return false
    this.moveTo(end)
    this.gesture = null
    this.speed = 0
    this.stepStart = end
    return true
  }

  private moveTo(now: Us): void {
    const { gesture } = this
    if (gesture === null) {
      this.position = this.clamp(this.position)
      this.speed = 0
      return
    }
    const ms = Math.max(0, now - gesture.start) / 1000
    this.by = gesture.kind === 'to' ? 'app' : gesture.kind
    switch (gesture.kind) {
      case 'flick': {
        const at = glide(gesture.speed, ms, this.flick)
        this.position = gesture.from + at.moved
        this.speed = at.speed
        if (at.atRest) this.gesture = null
        break
      }
      case 'drag': {
        const share = gesture.ms <= 0 ? 1 : Math.min(1, ms / gesture.ms)
        this.position = gesture.from + gesture.dp * share
        this.speed = gesture.ms <= 0 ? 0 : (gesture.dp / gesture.ms) * 1000
        break
      }
      case 'to':
        this.goTowards(gesture, ms)
    }
    const clamped = this.clamp(this.position)
    if (clamped !== this.position) {
      this.position = clamped
      this.speed = 0
      if (gesture.kind === 'flick') this.gesture = null
    }
  }

  private targetOf(where: number | 'start' | 'end', max: number): number {
    if (where === 'start') return 0
    return where === 'end' ? max : this.clamp(this.bounds.topOfRow(where) / unitsPerDp)
  }

  private goTowards(gesture: Extract<Gesture, { kind: 'to' }>, ms: number): void {
    const { where, from, speed } = gesture
    const max = this.bounds.max() / unitsPerDp
    const target = this.targetOf(where, max)
    const sign = target >= from ? 1 : -1
    const leg = speed * (ms / 1000)
    const at = from + sign * leg
    const reached = sign > 0 ? at >= target : at <= target
    gesture.way ??= { dp: Math.abs(target - from), farthest: target }
    if (target > gesture.way.farthest) {
      gesture.way.dp += target - gesture.way.farthest
      gesture.way.farthest = target
    }
    this.position = reached ? target : at
    this.speed = reached ? 0 : sign * speed
    if (!reached) {
      // A row that grows whenever it comes in moves the list away from its place again and again: no script goes on for
      // ever.
      if (gesture.gone + leg > patience * gesture.way.dp + patienceS * speed) this.gesture = null
      return
    }
    if (target === max && this.bounds.growing()) {
      gesture.gone += Math.abs(target - from)
      gesture.from = target
      gesture.start += Math.round(ms * 1000)
    } else this.gesture = null
  }

  private clamp(dp: number): number {
    return Math.max(0, Math.min(this.bounds.max() / unitsPerDp, dp))
  }
}
