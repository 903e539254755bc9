import type { MapData } from '../../core/profile/views/map-data.ts'
import { joinMaps } from '../../core/profile/views/joined-map.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import type { Item } from '../../core/project/types.ts'
import { noItems } from '../../core/feed/known-items.ts'
import { handMoves } from '../store/hand.ts'
import { itemsOf } from '../store/feed-store.ts'
import { currentProject, drawWhen, followProject, notify, type ProjectState } from '../store/project-store.ts'
import { Cancelled, handWorker } from './worker-client.ts'
import { followed } from './follow-store.ts'
import type { Followed } from '../../workers/jobs/simulate-job.ts'

interface Order {
  /** Later changes have higher numbers. */
  number: number
  state: ProjectState
  screen: number
  /** The first part of its answer is on the strip. */
  answered: () => void
}

/** The change that is being simulated. */
interface Simulating {
  order: Order
  /** It may be replaced by a later change: its beginning has been reported, and figures are not too old. */
  mayEnd: boolean
  cancel: () => void
}

/** While a hand keeps moving, figures are at most about this old, ms. */
const figuresAfterMs = 300

/** Simulates one change at a time, always the newest there is. */
class Follower {
  private now: Simulating | null = null
  private next: Order | null = null

  get idle(): boolean {
    return this.now === null
  }

  /**
   * Replaces the change that is being simulated, but not before its beginning has been reported: otherwise a hand that
   * keeps moving would see nothing. Resolves when this change, or the one it waited for, is over.
   */
  async follow(order: Order): Promise<void> {
    if (this.now && !this.now.mayEnd) this.next = order
    else await this.simulate(order)
  }

  private async simulate(order: Order): Promise<void> {
    this.now?.cancel()
    const now: Simulating = { order, mayEnd: false, cancel: () => undefined }
    this.now = now
    try {
      await this.ask(now)
    } catch (error) {
      if (!(error instanceof Cancelled))
        notify(`The strip cannot follow: ${error instanceof Error ? error.message : String(error)}.`)
    }
    // Another may have replaced it.
    if (this.now !== now) return
    this.now = null
    await this.goOn()
  }

  private async goOn(): Promise<void> {
    const { next } = this
    this.next = null
    if (next) await this.simulate(next)
  }

  private async ask(now: Simulating): Promise<void> {
    const { state, screen } = now.order
    const { project } = state
    const chosen = project.screens[Math.min(screen, project.screens.length - 1)]!
    let items: readonly Item[] | null
    try {
      // What the worker already has is not waited for: the order is sent within the change.
      items = noItems(chosen.feed) === null ? null : await itemsOf(state.id, chosen)
    } catch {
      // The device reports what is missing; there is nothing to follow until it is there.
      return
    }
    const { script, seed } = project
    const order = { project, screen: chosen.id, script: script ?? '', seed, items }
    const job = handWorker.ask('follow', order, undefined, (part) => {
      if (this.now !== now) return
      receive(now.order, part)
      // A hand that keeps moving would never see figures: now and then a change is simulated to its end.
      const areFresh = whole !== null && performance.now() - changedSince < figuresAfterMs
      now.mayEnd = areFresh || now.order.number <= forgotten
      if (now.mayEnd) void this.goOn()
    })
    now.cancel = job.cancel
    receive(now.order, await job.result)
  }
}

let orders = 0
/** The change that is simulated to its end, and its figures. */
let whole: { order: Order; metrics: Metrics; map: MapData } | null = null
/** When the first change came that the figures do not include; the page's clock, ms. */
let changedSince = 0
/** How far the newest change is simulated, if it is not at its end. */
let begun: { order: Order; map: MapData; untilMs: number } | null = null

const follower = new Follower()

/** Shows an answer unless a newer change has already been shown as far. */
function receive(order: Order, answer: Followed): void {
  if (order.number <= forgotten) return
  order.answered()
  if (answer.untilMs === null) {
    // The simulation that warms up the engine has already been shown.
    if (whole && whole.order.number >= order.number) return
    whole = { order, metrics: answer.metrics, map: answer.map }
    changedSince = performance.now()
    if (begun && begun.order.number <= order.number) begun = null
  } else {
    const last = Math.max(whole?.order.number ?? 0, begun?.order.number ?? 0)
    const goesOn = begun?.order === order && begun.untilMs < answer.untilMs
    if (order.number <= last && !goesOn) return
    begun = { order, map: answer.map, untilMs: answer.untilMs }
  }
  // Figures are of a whole visit: there are none before the first has ended.
  if (!whole) return
  followed.set({
    metrics: whole.metrics,
    map: begun ? joinMaps(begun.map, whole.map) : whole.map,
    untilMs: begun?.untilMs ?? null,
    raw: (begun ?? whole).order.state.effective,
  })
}

/** Answers to changes up to this one belong to another project or screen. */
let forgotten = 0

function forget(): void {
  forgotten = orders
  whole = null
  begun = null
  followed.set(null)
}

/** Not every browser reports when it is idle; elsewhere it is done a moment later. */
function whenIdle(act: () => void): void {
  if ('requestIdleCallback' in window) requestIdleCallback(act, { timeout: 1000 })
  else setTimeout(act, 300)
}

/** The longest that the rest of the page waits until the strip has answered a hand, ms. */
const restWaitsMs = 16

/** The first part of an answer has been painted, or takes too long for the rest of the page to wait. */
function onStrip(order: Order): Promise<void> {
  return new Promise((resolve) => {
    setTimeout(resolve, restWaitsMs)
    order.answered = () => requestAnimationFrame(() => setTimeout(resolve))
  })
}

/**
 * Simulates again whenever the project changes; only the newest change counts. A worker is asked before the page is
 * drawn with the change; while a handle is moved, the page is drawn once the strip has begun to answer.
 *
 * @returns ends it
 */
export function followHand(screen: number): () => void {
  let last: ProjectState | null = null
  const follow = (state: ProjectState | null) => {
    const isOther = state?.id !== last?.id
    // A project that was saved meanwhile, or has a new message, is still the same project.
    const isSame = !isOther && state?.project === last?.project
    last = state
    if (isOther) forget()
    if (!state || isSame) return
    const order: Order = { number: ++orders, state, screen, answered: () => undefined }
    // While the page opens, the list on the device comes first.
    if (!whole) whenIdle(() => order.number === orders && void follower.follow(order))
    else {
      if (handMoves()) drawWhen(onStrip(order))
      if (whole.order.number === order.number - 1) changedSince = performance.now()
      void follower.follow(order)
    }
  }
  forget()
  follow(currentProject())
  return followProject(follow)
}

/** How many simulations it takes until the browser has compiled the engine well; once a page. */
const warmRuns = 40
let warmed = 0

/**
 * A hand comes near the settings: the browser compiles code that runs often, so the engine runs now, and the first drag
 * is followed as closely as the hundredth. A change that is made meanwhile comes next.
 */
export async function warmUp(): Promise<void> {
  while (whole && warmed < warmRuns && follower.idle) {
    warmed++
    await follower.follow(whole.order)
  }
}
