import type { Us } from '../worlds/ports.ts'
import { heapBytes } from './heap-account.ts'
import type { ListState } from './list-state.ts'
import type { PictureSetter } from './picture-setter.ts'
import type { ScreenEdge } from './screen-edge.ts'

const kB = (bytes: number) => Math.round(bytes / 1000)

/**
 * The costs of a frame beside its cells: decodes on main, set-up, masks, transitions, collections; and the memory held.
 */
export class FrameCosts {
  private readonly list: ListState
  private readonly setter: PictureSetter
  private readonly edge: ScreenEdge
  private readonly ended: (why: string) => void
  /** The script requests a collection. */
  forceCollect = false
  private lastMemory: number | null = null

  constructor(list: ListState, setter: PictureSetter, edge: ScreenEdge, ended: (why: string) => void) {
    this.list = list
    this.setter = setter
    this.edge = edge
    this.ended = ended
  }

  decodeOnMain(): boolean {
    let any = false
    this.list.loader.decodeOnMain((us) => {
      any = true
      this.list.world.frames.spent('decode', us)
    })
    return any
  }

  doSetup(): void {
    const { list } = this
    const times = list.setupsDue + (list.firstUse === 'due' ? 1 : 0)
    if (times > 0) list.world.frames.work('setup', times, 0)
    list.setupsDue = 0
    if (list.firstUse === 'due') list.firstUse = 'paid'
  }

  /** What the main thread draws in each frame: masks of pictures on screen, transitions not on the compositor. */
  drawCosts(now: Us): void {
    const { frames } = this.list.world
    if (this.setter.movingTransitions.length > 0) {
      this.setter.movingTransitions = this.setter.movingTransitions.filter((end) => end > now)
      if (this.setter.movingTransitions.length > 0) frames.work('transition', this.setter.movingTransitions.length, 0)
    }
    const masks = this.edge.masksOnScreen
    if (masks > 0) frames.work('mask', masks, 0)
  }

  collectGarbage(now: Us): void {
    const asked = this.forceCollect
    this.forceCollect = false
    const collection = this.list.world.heap.collect(asked)
    if (!collection) return
    this.list.log.events.collect(now, { ms: collection.us, freed: Math.min(collection.freed, 2_147_483_647), asked })
    this.list.world.frames.spent('collect', collection.us)
  }

  logMemory(): void {
    const bytes = heapBytes(this.list.loader, this.list.world.heap.garbage())
    if (bytes.resident === this.lastMemory) return
    this.lastMemory = bytes.resident
    this.list.log.events.memory(this.list.world.clock.now(), {
      tier: bytes.tier,
      resident: kB(bytes.resident),
      bound: kB(bytes.bound),
      garbage: kB(bytes.garbage),
    })
    if (bytes.resident > this.list.parts.project.device.heapMb * 1e6) this.ended('heap')
  }
}
