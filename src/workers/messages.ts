import type { DiskEntry } from '../core/loading/disk-tier.ts'
import type { Target } from '../core/loading/rendition.ts'
import type { Item } from '../core/project/types.ts'
import type { ReplyHead } from '../core/worlds/ports.ts'
import type { Body, SharedBody } from './body.ts'
import type { DiskChange } from './disk-store.ts'
import type { Answer, JobName, Order } from './jobs/jobs.ts'

/** A long list of items, sent once for all jobs that have it. */
export interface ListMessage {
  type: 'list'
  id: number
  /** null: the worker drops it. */
  items: readonly Item[] | null
}

export interface StartMessage<Name extends JobName = JobName> {
  id: number
  type: 'start'
  name: Name
  order: Order<Name>
}

export type ToWorker = StartMessage | { id: number; type: 'cancel' } | ListMessage

export type FromWorker<Name extends JobName = JobName> =
  | { id: number; type: 'progress'; share: number }
  | { id: number; type: 'part'; answer: Answer<Name> }
  | { id: number; type: 'done'; answer: Answer<Name> }
  | { id: number; type: 'failed'; message: string }
  | { id: number; type: 'cancelled' }

export interface DecodeJob {
  id: number
  body: Body
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
 * Orders to the fetch worker. `counter`: the place of the transfer's byte count in the first half of the shared
 * memory, and in the second half of the instant of its last byte, ms since `epoch`.
 */
export type ToFetcher =
  | { type: 'begin'; counters: Int32Array<SharedArrayBuffer>; epoch: number; letGoUrl: string }
  | { type: 'start'; id: number; url: string; etag: string | null; counter: number }
  | { type: 'let-go'; ids: number[] }

export type FromFetcher =
  | { type: 'head'; id: number; head: ReplyHead }
  | { type: 'progress'; id: number; bytes: number }
  | { type: 'done'; id: number; bytes: number; body: SharedBody }
  | { type: 'failed'; id: number; bytes: number; reason: 'redirects' | 'truncated' | 'offline' }
  /** The server has forgotten the session: the transfer never started. */
  | { type: 'session-lost'; id: number }
  /** The worker's own policy does not allow the address. */
  | { type: 'blocked'; id: number; origin: string }
  /** `bytes` had arrived when it was let go, `inFlight` arrived after that. */
  | { type: 'aborted'; id: number; bytes: number; inFlight: number }

/** A preview of a few bytes, to be drawn. `text`: a blurhash, or a thumbhash in base64. */
export interface PreviewJob {
  id: number
  as: 'blurhash' | 'thumbhash'
  text: string
}

/** The drawn preview, as a data address. `us`: the time to decode its pixels. */
export type PreviewAnswer = { id: number; ok: true; us: number; url: string } | { id: number; ok: false; why: string }

/** Orders to the disk worker. Reads of a frame are sent together and answered together. */
export type ToDisk =
  | { type: 'read'; id: number; places: readonly string[] }
  | { type: 'kept'; id: number; whose: string }
  /** Pending writes are made now. */
  | { type: 'flush' }
  | { type: 'changes'; changes: readonly DiskChange[] }

export type FromDisk =
  | { type: 'read'; id: number; bodies: readonly (Body | null)[] }
  | { type: 'kept'; id: number; entries: DiskEntry[] }
  /** A change that this run made was lost. `error`: its name. */
  | { type: 'failed'; disk: number; error: string }
