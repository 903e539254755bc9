import type { ListLayout } from '../layout/list-layout.ts'
import { toUnits, unitsPerDp } from '../numbers/units.ts'
import type { Step } from '../project/types.ts'
import type { FeedPages } from './feed-pages.ts'
import type { FrameCosts } from './frame-costs.ts'
import type { ListCells } from './list-cells.ts'
import type { ListEdits } from './list-edits.ts'
import type { ListState } from './list-state.ts'
import type { OpenedScreens } from './opened-screens.ts'
import type { OutsideLoads } from './outside-loads.ts'
import type { ScreenEdge } from './screen-edge.ts'
import { whenPresented } from './visuals.ts'

interface StepParts {
  cells: ListCells
  edge: ScreenEdge
  edits: ListEdits
  costs: FrameCosts
  pages: FeedPages
  outside: OutsideLoads
  opened: OpenedScreens
  /** The list's items laid out at a width, dp. */
  layoutOf: (widthDp: number) => ListLayout
}

/** Why the network is gone. */
type Outage = number | 'script'

/** Steps of a script that are not gestures: scopes, network, memory, rotation, edits, loads. */
export class ScriptSteps {
  private readonly list: ListState
  private readonly parts: StepParts
  private readonly outages = new Set<Outage>()

  constructor(list: ListState, parts: StepParts) {
    this.list = list
    this.parts = parts
  }

  act(step: Step): void {
    const { list } = this
    const { cancel: policy } = list.parts.project.loading
    list.dirty = true
    switch (step.do) {
      case 'edit':
        this.parts.edits.pendingEdits.push(step)
        return
      case 'load':
        this.parts.outside.load(step.address, step.px)
        return
      case 'offline':
        this.networkGone('script')
        return
      case 'online':
        this.networkBack('script')
        return
      case 'pressure':
        list.recycler.dropHeld()
        list.loader.relieve()
        return
      case 'collect':
        this.parts.costs.forceCollect = true
        return
      case 'rotate':
        this.rotate()
        return
      case 'background':
        this.hide(policy.whenPaused, 'paused')
        return
      // Another screen covers this one: its cells stay as they are for the way back.
      case 'open':
        this.hide(policy.whenLeft, 'left')
        this.parts.opened.open(step.screen, step.item)
        return
      case 'leave':
        this.parts.opened.close()
        this.hide(policy.whenLeft, 'closed')
        return
      case 'foreground':
      case 'return':
      case 'back':
        if (step.do !== 'foreground') this.parts.opened.close()
        this.logScope('active')
        if (list.parts.project.loading.setup === 'per-screen' && step.do !== 'foreground') list.setupsDue++
        list.hidden = false
        list.loader.resume()
        for (const cell of list.recycler.attached.values()) this.parts.cells.askAgain(cell)
        return
      default:
        return
    }
  }

  /**
   * The network is gone for a reason: a span of the project, by its number, or the script. It is gone while there is
   * any reason.
   */
  networkGone(reason: Outage): void {
    const before = this.outages.size
    this.outages.add(reason)
    if (before > 0) return
    this.list.loader.networkLost()
    this.list.parts.setOffline(true)
  }

  networkBack(reason: Outage): void {
    const { list } = this
    if (!this.outages.delete(reason) || this.outages.size > 0) return
    list.parts.setOffline(false)
    list.loader.networkReturned()
    if (this.parts.pages.pageState === 'failed') this.parts.pages.askPage()
    list.wake()
  }

  private logScope(state: 'active' | 'paused' | 'left' | 'closed'): void {
    const { log, world, parts } = this.list
    log.events.scope(world.clock.now(), { which: parts.screen.id, state })
  }

  private hide(how: 'carry-on' | 'finish-running' | 'let-go', state: 'paused' | 'left' | 'closed'): void {
    const { list } = this
    this.logScope(state)
    list.hidden = true
    for (const cell of list.recycler.attached.values()) this.parts.edge.leaveScreen(cell, list.world.clock.now())
    if (state === 'closed') {
      list.ahead.clear('closed')
      this.parts.cells.close()
    } else if (how === 'let-go') list.ahead.clear('left')
    list.loader.suspend(how, state)
    list.loader.settle()
  }

  private rotate(): void {
    const { list } = this
    const { place } = list
    const width = list.height / unitsPerDp
    list.height = toUnits(list.width)
    list.width = width
    list.visuals.events.screen(whenPresented, { width: toUnits(list.width), height: list.height })
    for (const cell of [...list.recycler.attached.values()]) this.parts.cells.detach(cell, false)
    list.recycler.dropHeld()
    list.layout = this.parts.layoutOf(list.width)
    list.pictures.forget(list.layout)
    this.parts.cells.forgetPlaces()
    if (place) list.correct((list.topOf(place) ?? list.top) - list.top)
  }
}
