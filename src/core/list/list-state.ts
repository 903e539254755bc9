import type { FeedList } from '../feed/feed-list.ts'
import type { ListLayout } from '../layout/list-layout.ts'
import type { Loader } from '../loading/loader.ts'
import type { RunLog } from '../log/run-log.ts'
import type { AssetTable } from '../loading/asset-table.ts'
import { toUnits } from '../numbers/units.ts'
import type { Project, Screen, Step } from '../project/types.ts'
import type { Recycler } from './recycler.ts'
import type { ListPlace, Motion, ScrollBounds } from '../scrolling/script-player.ts'
import type { World } from '../worlds/ports.ts'
import type { GeometryTable } from './geometry-table.ts'
import type { ListCell } from './list-cell.ts'
import type { LookAhead } from './look-ahead.ts'
import type { Pictures, SlotPicture } from './pictures.ts'
import type { Visuals } from './visuals.ts'

export interface ListRunParts {
  project: Project
  screen: Screen
  world: World
  log: RunLog
  table: AssetTable
  seed: number
  epochMs: number
  /** What moves the list; made late, because it needs the list's bounds. */
  motion: (bounds: ScrollBounds, act: (step: Step) => void, requestFrame: () => void) => Motion
  /** The network goes or returns by a step of the script. */
  setOffline: (offline: boolean) => void
}

/** The parts of one list's run. */
export interface ListMembers {
  visuals: Visuals
  geometries: GeometryTable
  feed: FeedList
  layout: ListLayout
  pictures: Pictures
  recycler: Recycler<ListCell>
  loader: Loader
  ahead: LookAhead
  motion: Motion
}

/** What the parts of one list's run share: each other, and the position of the window. */
export class ListState {
  readonly parts: ListRunParts
  readonly world: World
  readonly log: RunLog
  readonly visuals: Visuals
  readonly geometries: GeometryTable
  readonly feed: FeedList
  readonly pictures: Pictures
  readonly recycler: Recycler<ListCell>
  readonly loader: Loader
  readonly ahead: LookAhead
  readonly motion: Motion
  /** Another one after the device has changed its width. */
  layout: ListLayout
  /** The window: top and height in 1/1024 dp, width in dp. */
  top = 0
  height: number
  width: number
  /** dp/s. */
  speed = 0
  direction: 1 | -1 = 1
  /** How far the screen's content was moved along with the list since the last scroll, 1/1024 dp. */
  corrected = 0
  /** Corrections that the present frame has taken in and will report, 1/1024 dp. */
  corrections = 0
  /** Something has moved the list since the run began. */
  hasMoved = false
  dirty = true
  hidden = false
  /** Set-ups that the next frame pays for. */
  setupsDue: number
  /** The one that the first use pays for, where that is the policy. */
  firstUse: 'to come' | 'due' | 'paid' = 'to come'
  ended: string | null = null

  constructor(parts: ListRunParts, members: ListMembers) {
    const { device, loading } = parts.project
    this.parts = parts
    this.world = parts.world
    this.log = parts.log
    this.visuals = members.visuals
    this.geometries = members.geometries
    this.feed = members.feed
    this.layout = members.layout
    this.pictures = members.pictures
    this.recycler = members.recycler
    this.loader = members.loader
    this.ahead = members.ahead
    this.motion = members.motion
    this.height = toUnits(device.heightDp)
    this.width = device.widthDp
    this.setupsDue = loading.setup === 'app-start' || loading.setup === 'per-screen' ? 1 : 0
  }

  /** The picture that is requested first: the small one, unless memory has the picture itself. */
  firstOf(picture: SlotPicture): SlotPicture {
    return picture.small && !this.loader.memory.has(picture.rendition) ? picture.small : picture
  }

  /** Requests one more frame: a hand has moved, a setting has changed. */
  wake(): void {
    this.dirty = true
    this.world.frames.request()
  }

  /** Position of the window once what has moved above it is taken in, 1/1024 dp. */
  get correctedTop(): number {
    return this.top + this.corrected
  }

  /** The item at the top, and the share of its row above the window; null: there are no rows. */
  get place(): ListPlace | null {
    const { layout } = this
    const row = layout.rowAt(this.top)
    if (row === null) return null
    return { item: layout.itemAt(row, 0)!, share: (this.top - layout.topOf(row)) / Math.max(1, layout.heightOf(row)) }
  }

  /** A place in the present layout, 1/1024 dp; null: its item is not there yet. */
  topOf({ item, share }: ListPlace): number | null {
    const { layout } = this
    if (item >= this.feed.count) return null
    const row = layout.rowOf(item) ?? 0
    return Math.round(layout.topOf(row) + share * layout.heightOf(row))
  }

  /** Moves the list along with what has moved above the window, so that the screen stays. */
  correct(units: number): void {
    this.motion.shift(units)
    this.corrected += units
  }
}
