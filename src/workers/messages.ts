import type { LoadTrack } from './track-job.ts'
import type { FeedRead, FeedWishes } from '../core/feed/read-feed.ts'
import type { Spread } from '../core/compare/repeat.ts'
import type { Change, Proven } from '../core/compare/prove.ts'
import type { Raw } from '../core/project/parse.ts'
import type { FeedCheck } from '../core/simulate/feed-check.ts'
import type { EventPage, EventWish } from '../core/log/event-list.ts'
import type { LedgerTable } from '../core/profile/figures/ledger-table.ts'
import type { EncodedLog } from '../core/log/log-encoding.ts'
import type { Target } from '../core/loading/rendition.ts'
import type { Check } from '../core/profile/figures/checks.ts'
import type { PlayedScreen } from '../core/profile/views/playback.ts'
import type { WayStory } from '../core/profile/stories/cell-stories.ts'
import type {
  CellsLens,
  FailureGroup,
  FramesLens,
  MemoryLens,
  ThreadsLens,
  TiersLens,
  While,
} from '../core/profile/views/lenses.ts'
import type { Story } from '../core/profile/stories/stories.ts'
import type { Metrics } from '../core/profile/figures/metric-definitions.ts'
import type { MapData } from '../core/profile/views/map-data.ts'
import type { ReplyHead } from '../core/worlds/ports.ts'
import type { Item, Project, Visit } from '../core/project/types.ts'

/** A picked file that is a picture or a video; px are null where its header does not tell them. */
export interface PickedPicture {
  name: string
  bytes: number
  width: number | null
  height: number | null
}

/** A long list of items, which goes over once for all jobs that have it. */
export interface ListMessage {
  type: 'list'
  id: number
  /** null: the worker lets go of it. */
  items: readonly Item[] | null
}

/** The requests that a view is narrowed to, by number; null: all. */
export type Requests = readonly number[] | null

/** What a simulation worker is asked for. */
export type SimulateJob =
  | {
      do: 'simulate'
      project: Project
      screen: string
      script: string
      seed: number
      visits: Visit[]
      /** The state that the first of the visits begins from, as an earlier run left it; null: what the visits before it leave. */
      from: string | null
      items: readonly Item[] | null
      seen: [string, { bytes: number; width: number; height: number }][]
    }
  /** A first visit while the hand moves a setting: only what is drawn and told at once. */
  | { do: 'follow'; project: Project; screen: string; script: string; seed: number; items: readonly Item[] | null }
  /** Profiles a log that another world has written. */
  | { do: 'describe'; log: EncodedLog; against: FidelityOrder | null }
  | { do: 'story'; log: EncodedLog; hash: string; request: number }
  /** Looks for what could be better in a run, and proves it by simulating it with each change. */
  | {
      do: 'findings'
      log: EncodedLog
      hash: string
      raw: Raw
      screen: string
      script: string
      seed: number
      visit: Visit
      items: readonly Item[] | null
      seen: [string, { bytes: number; width: number; height: number }][]
    }
  /** Two projects on the same ten seeds. */
  | {
      do: 'compare'
      a: Raw
      b: Raw
      screen: string
      script: string
      seed: number
      visit: Visit
      items: readonly Item[] | null
      seen: [string, { bytes: number; width: number; height: number }][]
    }
  /** One project on many seeds. */
  | {
      do: 'repeat'
      raw: Raw
      screen: string
      script: string
      seed: number
      visit: Visit
      items: readonly Item[] | null
      seen: [string, { bytes: number; width: number; height: number }][]
      times: number
    }
  /** The screen at a moment of a run; `log` null: it was opened before. */
  | { do: 'play'; log: EncodedLog | null; hash: string; ms: number }
  /** One view of a run, or of a part of it. */
  | { do: 'lens'; log: EncodedLog; hash: string; which: LensName; within: While | null; only: Requests }
  /** A cell's or an item's way through a run. */
  | { do: 'way'; log: EncodedLog; hash: string; of: 'cell' | 'item'; number: number }
  | { do: 'ledger'; log: EncodedLog; hash: string; only: Requests }
  | { do: 'events'; log: EncodedLog; hash: string; wish: EventWish; most: number }
  /** The whole log as NDJSON, or the wanted events as CSV. */
  | {
      do: 'export'
      log: EncodedLog
      hash: string
      as: 'ndjson' | 'csv'
      wish: EventWish
      notes: readonly { ms: number; text: string }[]
    }
  | { do: 'track'; project: Project; screen: number; item: Item; slot: number }
  | { do: 'read-feed'; name: string; body: Blob; wishes: FeedWishes }
  /** Finds out which picked files are pictures or videos, and how large. */
  | { do: 'read-pictures'; files: { name: string; body: Blob }[] }
  | { do: 'check-feed'; project: Project; screen: number; items: readonly Item[] | null }

/** What a live run was driven with: simulated on a device calibrated to it, it tells how near the two worlds are. */
export interface FidelityOrder {
  project: Project
  items: readonly Item[] | null
}

/** A run seen from one side. */
export type Lens =
  | ({ of: 'frames' } & FramesLens)
  | ({ of: 'threads' } & ThreadsLens)
  | ({ of: 'memory' } & MemoryLens)
  | ({ of: 'cells' } & CellsLens)
  | ({ of: 'tiers' } & TiersLens)
  | { of: 'failures'; groups: FailureGroup[] }
export type LensName = Lens['of']

/** One run as the app keeps and shows it. */
export interface RunResult {
  log: EncodedLog
  hash: string
  metrics: Metrics
  checks: Check[]
  map: MapData
  /** What it left in the tiers, as JSON: thousands of entries are handed over as one text. */
  kept: string | null
}

export type ToWorker = { id: number; type: 'start'; job: SimulateJob } | { id: number; type: 'cancel' } | ListMessage

export type Answer =
  | { is: 'runs'; runs: RunResult[] }
  | { is: 'followed'; metrics: Metrics; map: MapData }
  | { is: 'story'; story: Story | null }
  | { is: 'findings'; proven: Proven }
  | { is: 'compared'; changes: Change[] }
  | { is: 'repeated'; spreads: Spread[] }
  | { is: 'ledger'; table: LedgerTable }
  | { is: 'events'; page: EventPage }
  | { is: 'played'; screen: PlayedScreen | null; addresses: string[] }
  | { is: 'lens'; lens: Lens }
  | { is: 'way'; story: WayStory | null }
  | { is: 'file'; file: Blob }
  | { is: 'feed'; read: FeedRead }
  | { is: 'pictures'; pictures: PickedPicture[] }
  | { is: 'feed-check'; check: FeedCheck }
  | { is: 'track'; track: LoadTrack }

export type FromWorker =
  | { id: number; type: 'progress'; share: number }
  | { id: number; type: 'done'; answer: Answer }
  | { id: number; type: 'failed'; message: string }
  | { id: number; type: 'cancelled' }

export interface DecodeJob {
  id: number
  body: Blob
  target: Target
}

export type DecodeAnswer =
  /** One bitmap, or the frames of a picture that plays, each shown for `frameMs`. */
  | {
      id: number
      ok: true
      us: number
      bitmaps: ImageBitmap[]
      frameMs: number
      sourceWidth: number
      sourceHeight: number
    }
  | { id: number; ok: false; us: number; reason: 'undecodable' | 'too-large' }

/**
 * What the fetch worker is told. `counter`: the place of the transfer's byte count in the first half of the shared
 * memory, and in the second half of the instant of its last byte, ms since `epoch`.
 */
export type ToFetcher =
  | { type: 'begin'; counters: Int32Array<SharedArrayBuffer>; epoch: number; letGoUrl: string }
  | { type: 'start'; id: number; url: string; etag: string | null; counter: number }
  | { type: 'let-go'; ids: number[] }

export type FromFetcher =
  | { type: 'head'; id: number; head: ReplyHead }
  | { type: 'progress'; id: number; bytes: number }
  | { type: 'done'; id: number; bytes: number; body: Blob }
  | { type: 'failed'; id: number; bytes: number; reason: 'redirects' | 'truncated' | 'offline' }
  /** The server has forgotten the session: the transfer never began. */
  | { type: 'session-lost'; id: number }
  /** The worker's own policy does not let it ask there. */
  | { type: 'blocked'; id: number; origin: string }
  /** `bytes` had come when it was let go, `inFlight` came after that. */
  | { type: 'aborted'; id: number; bytes: number; inFlight: number }
