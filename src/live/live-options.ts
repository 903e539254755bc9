import type { KeptTiers } from '../core/loading/loader-state.ts'
import type { RunLog } from '../core/log/run-log.ts'
import type { Item, Project, Screen, Visit } from '../core/project/types.ts'
import type { ListPlace } from '../core/scrolling/script-player.ts'
import type { HandedOver } from './live-decoder.ts'
import type { FeedState, LivePage } from './live-pages.ts'
import type { PickedFiles } from './local-body.ts'
import type { SessionHeader } from './origin-client.ts'

/** The options of a live list. */
export interface LiveOptions {
  project: Project
  screen: Screen
  /** A script drives; null: a hand does. */
  script: string | null
  seed: number
  visit: Visit
  /** Owner of a drive's disk tier: the project's id. */
  whose: string
  /** What an earlier run has left behind; null: nothing. */
  left: LeftBehind | null
  /** Hz of this browser. */
  refreshHz: number
  host: HTMLElement
  /** px on the page for one px of the device. */
  shown: () => number
  /** Initial position of the list; null: its top. */
  start: ListPlace | null
  /** Pages of the feed that an earlier list has loaded; those that this one loads are added. */
  pages: LivePage[]
  /** How fast arrivals play. */
  pace: () => number
  /** Items of a feed that was picked as a file. */
  items: readonly Item[] | null
  /** Pictures that were picked from this machine, by name. */
  picked: PickedFiles
  /** Headers with secrets, for the hosts that need them. */
  headers: readonly SessionHeader[]
  /** The present headers, for a renewal. */
  headersNow: () => Promise<readonly SessionHeader[]>
  /** What the host shows stays there until the list has its first cells. */
  stays: boolean
  /** The pages of the feed that are known, reported as they change. */
  feed: (state: FeedState) => void
  trouble: (message: string) => void
  ended: (log: RunLog) => void
}

/** The state that a list finds when it begins. */
export type Found = 'visit' | 'left' | 'start'

/** The state that a run leaves behind for the visits after it. */
export interface LeftBehind {
  tiers: KeptTiers
  /** The decoded pictures, in the order of `tiers.memory`; null: not available any more. */
  pictures: (HandedOver | null)[]
}
