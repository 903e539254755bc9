import type { MapData } from '../../core/profile/views/map-data.ts'
import { joinMaps } from '../../core/profile/views/joined-map.ts'
import type { Metrics } from '../../core/profile/figures/metric-definitions.ts'
import type { Item } from '../../core/project/types.ts'
import { noItems } from '../../core/feed/known-items.ts'
import { itemsOf } from '../store/feed-store.ts'
import { currentProject, followProject, tell, type ProjectState } from '../store/project-store.ts'
import { Cancelled, handWorker, longHandWorker, type WorkerClient } from './worker-client.ts'
import type { Order } from '../../workers/jobs/jobs.ts'
import { followed } from './follow-store.ts'
import type { Followed } from '../../workers/jobs/simulate-job.ts'

interface Wish {
  /** Later changes have higher numbers. */
  number: number
  state: ProjectState
  screen: number
}

/** One of two that follow: simulates one change at a time, always the newest there is. */
class Follower {
  private readonly worker: WorkerClient
  private readonly part: Order<'follow'>['part']
  private readonly hear: (wish: Wish, answer: Followed) => void
  private next: Wish | null = null
  private busy = false

  constructor(worker: WorkerClient, part: Order<'follow'>['part'], hear: (wish: Wish, answer: Followed) => void) {
    this.worker = worker
    this.part = part
    this.hear = hear
  }

  get idle(): boolean {
    return !this.busy
  }

  async follow(wish: Wish): Promise<void> {
    this.next = wish
    if (this.busy) return
    this.busy = true
    try {
      for (let now = this.take(); now; now = this.take()) await this.simulate(now)
    } finally {
      this.busy = false
    }
  }

  private take(): Wish | null {
    const wish = this.next
    this.next = null
    return wish
  }

  private async simulate(wish: Wish): Promise<void> {
    const { id, project } = wish.state
    const chosen = project.screens[Math.min(wish.screen, project.screens.length - 1)]!
    let items: readonly Item[] | null
    try {
      // What the worker knows itself is not waited for: the order goes out within the change.
      items = noItems(chosen.feed) === null ? null : await itemsOf(id, chosen)
    } catch {
      // The device says what is missing; there is nothing to follow until it is there.
      return
    }
    const { script, seed } = project
    const order = { project, screen: chosen.id, script: script ?? '', seed, items, part: this.part }
    const heard = (answer: Followed) => this.hear(wish, answer)
    try {
      heard(await this.worker.ask('follow', order, undefined, heard).result)
    } catch (error) {
      if (!(error instanceof Cancelled))
        tell(`The strip cannot follow: ${error instanceof Error ? error.message : String(error)}.`)
    }
  }
}

let wishes = 0
/** What is simulated to its end, and whose it is. */
let whole: { wish: Wish; metrics: Metrics; map: MapData } | null = null
/** How far the newest change is simulated that is not yet so to its end. */
let begun: { wish: Wish; map: MapData; untilMs: number } | null = null

/** Simulates what can be simulated within a frame. On a short script that is all, on a long one its beginning. */
const atOnce = new Follower(handWorker, 'first', (wish, answer) => {
  hear(wish, answer)
  // The rest takes longer than a frame: while the hand moves on, the newest change is simulated to its end as soon as the one before is.
  if (answer.untilMs !== null) void toTheEnd.follow(wish)
})
const toTheEnd = new Follower(longHandWorker, 'whole', hear)

/** Shows an answer unless a newer change has been shown as far. */
function hear(wish: Wish, answer: Followed): void {
  if (wish.number <= forgotten) return
  if (answer.untilMs === null) {
    // What warms the engine up is shown already.
    if (whole && whole.wish.number >= wish.number) return
    whole = { wish, metrics: answer.metrics, map: answer.map }
    if (begun && begun.wish.number <= wish.number) begun = null
  } else {
    const newest = Math.max(whole?.wish.number ?? 0, begun?.wish.number ?? 0)
    const goesOn = begun?.wish === wish && begun.untilMs < answer.untilMs
    if (wish.number <= newest && !goesOn) return
    begun = { wish, map: answer.map, untilMs: answer.untilMs }
  }
  // Figures are of a whole visit: before the first there are none to show.
  if (!whole) return
  followed.set({
    metrics: whole.metrics,
    map: begun ? joinMaps(begun.map, whole.map) : whole.map,
    untilMs: begun?.untilMs ?? null,
    raw: (begun ?? whole).wish.state.effective,
  })
}

/** Answers to changes up to this one belong to another project or screen. */
let forgotten = 0

function forget(): void {
  forgotten = wishes
  whole = null
  begun = null
  followed.set(null)
}

/** Not every browser tells when it is idle: there it is done a moment later. */
function whenIdle(act: () => void): void {
  if ('requestIdleCallback' in window) requestIdleCallback(act, { timeout: 1000 })
  else setTimeout(act, 300)
}

/**
 * Simulates again whenever the project changes; only the newest change counts. A worker is asked before the page is
 * drawn with the change: the two go on side by side.
 *
 * @returns ends it
 */
export function followHand(screen: number): () => void {
  let last: ProjectState | null = null
  const follow = (state: ProjectState | null) => {
    const isOther = state?.id !== last?.id
    // That it is saved by now, or what is told of it, is no other project.
    const isSame = !isOther && state?.project === last?.project
    last = state
    if (isOther) forget()
    if (!state || isSame) return
    const wish = { number: ++wishes, state, screen }
    // While the page opens, the list on the device comes first.
    if (whole) void atOnce.follow(wish)
    else whenIdle(() => wish.number === wishes && void atOnce.follow(wish))
  }
  forget()
  follow(currentProject())
  return followProject(follow)
}

/** How many simulations it takes until the browser has compiled the engine well; each is made once a page at most. */
const warmRuns = 40
let warmed = 0

/**
 * A hand comes near the settings: the browser compiles code that runs often, so the engine runs now, and the first
 * drag is followed as closely as the hundredth. A change that is made meanwhile comes next.
 */
export async function warmUp(): Promise<void> {
  while (whole && warmed < warmRuns && atOnce.idle) {
    warmed++
    await atOnce.follow(whole.wish)
  }
}
