import type { CellGeometry } from '../layout/cell-geometry.ts'
import type { Item, Screen } from '../project/types.ts'

/** An instant or a duration in whole µs since the visit began. */
export type Us = number

/** Reasons for a failed request, exactly these (engine.md, Loading 9). */
export const failReasons = [
  'bad-address',
  'cleartext',
  'not-granted',
  'offline',
  'timeout',
  'status',
  'unauthorized',
  'redirects',
  'truncated',
  'not-a-picture',
  'too-large',
  'undecodable',
] as const
export type FailReason = (typeof failReasons)[number]

/** Causes of main-thread work in a frame. */
export const workCauses = [
  'frame',
  'create',
  'bind',
  'upload',
  'transition',
  'mask',
  'layout',
  'setup',
  'decode',
  'collect',
  'animation',
] as const
export type WorkCause = (typeof workCauses)[number]

export interface Clock {
  now(): Us
  /** Runs a callback at an instant, never earlier than now; returns a timer to cancel. */
  at(time: Us, run: () => void): number
  cancel(timer: number): void
}

/** An item's data about a picture before it is loaded; null where it has none. */
export interface Hints {
  bytes: number | null
  widthPx: number | null
  heightPx: number | null
}

export interface TransferOrder {
  transfer: number
  request: number
  asset: number
  address: string
  host: string
  hints: Hints
  /** The validator of the copy on disk: the transfer is conditional. */
  etag: string | null
}

export interface ReplyHead {
  status: number
  /** Bytes of the body, or null when the server does not say. */
  total: number | null
  type: string
  headers: Record<string, string>
}

/** What the network reports to the loader, each transfer ending in exactly one of `done` and `failed`. */
export interface TransferEvents {
  connected(transfer: number): void
  firstByte(transfer: number, head: ReplyHead): void
  progress(transfer: number, bytes: number): void
  done(transfer: number, bytes: number): void
  failed(transfer: number, bytes: number, reason: FailReason): void
}

export interface Network {
  listen(events: TransferEvents): void
  start(order: TransferOrder): void
  /** Bytes of a running transfer received by now. */
  received(transfer: number): number
  /** When the last byte that a running transfer has received arrived; its start, or before, when none has. */
  lastByteAt(transfer: number): Us
  /**
   * Cuts a transfer off; no event of it follows. Reports how much had been received and how much was in flight, before
   * this returns or, where the other side has to be asked, a moment later.
   */
  abort(transfer: number, onCut: (bytes: number, inFlight: number) => void): void
  /** Asks a host for new credentials; reports whether it has issued them. */
  renew(host: string, answered: (ok: boolean) => void): void
}

export interface DecodeOrder {
  request: number
  asset: number
  rendition: number
}

export type DecodeResult =
  /** `frames`: of a moving picture that is played, each shown for `frameMs`. */
  | {
      ok: true
      us: Us
      sourceWidth: number
      sourceHeight: number
      width: number
      height: number
      frames?: number
      frameMs?: number
    }
  | { ok: false; us: Us; reason: 'undecodable' | 'too-large' }

export interface Decoder {
  /** Decodes in a worker. The body is the one that the network or the disk delivered last for the request. */
  start(order: DecodeOrder, ended: (result: DecodeResult) => void): void
  /** Makes a body ready for onMain; `ready` may be called before this returns. */
  prepareMain(order: DecodeOrder, ready: () => void): void
  /** Decodes at once on the main thread, inside a frame. */
  onMain(order: DecodeOrder): DecodeResult
  /** The decoded picture is not kept by anything any more. */
  drop(rendition: number): void
  /** The encoded body of a request is not needed any more. */
  dropBody(request: number): void
}

export interface Disk {
  /** Reads an entry for a request; false when it could not be read. */
  read(asset: number, request: number, bytes: number, done: (ok: boolean) => void): void
  /** Reads what is on the device already: a packaged picture, a data address, a picked file. It takes no fetch slot. */
  local(asset: number, request: number, bytes: number, done: (ok: boolean) => void): void
  write(asset: number, request: number, bytes: number): void
  /** The copy was revalidated: updates its entry in the index. */
  renew(asset: number): void
  remove(asset: number): void
}

export interface Frames {
  /** One more frame, at the first refresh at which the main thread is free. */
  request(): void
  onFrame(run: (begin: Us) => void): void
  /** Reports that work of a cause was just done inside the frame: so many things, so many px. */
  work(cause: WorkCause, count: number, px: number): void
  /** Main-thread time of a known length, such as a decode (virtual world) or a collection. */
  spent(cause: WorkCause, us: Us): void
  /**
   * Ends the frame. `afterWork` runs at the end of the work; `presented` when the frame is on screen, with
   * the work in µs by cause (indexed as workCauses).
   */
  end(afterWork: () => void, presented: (due: Us, presented: Us, work: Float64Array) => void): void
}

export interface Heap {
  /** So many bytes have become garbage. */
  churn(bytes: number): void
  garbage(): number
  /** A collection, when one is due or requested. */
  collect(force: boolean): { us: Us; freed: number } | null
}

export interface PageReply {
  items: readonly Item[]
  more: boolean
}

/** The source of the feed's pages. */
export interface Pages {
  /**
   * A page that cannot be loaded is null, with the reason: one of a failed request's, or what was wrong with its text.
   */
  ask(page: number, done: (reply: PageReply | null, reason: string) => void): void
  /** A page has failed, whether it was requested or not. */
  failed(page: number, reason: string): void
}

/** Draws the list: nothing in the virtual world, real cells in the live one. */
export interface Surface {
  create(cell: number, kind: number): void
  bind(cell: number, index: number): void
  recycle(cell: number): void
  /** Left and width in dp, top and height in 1/1024 dp. */
  place(cell: number, left: number, width: number, top: number, height: number): void
  /** The frames of a bound cell's slots have changed. */
  arrange(cell: number, index: number): void
  stage(cell: number, slot: number, stage: 'absent' | 'waiting' | 'failed'): void
  arriving(cell: number, slot: number, received: number, total: number | null): void
  picture(cell: number, slot: number, rendition: number, transition: boolean): void
  /** Another frame of a moving picture. */
  frame(cell: number, slot: number, rendition: number, frame: number): void
  clear(cell: number, slot: number): void
  scroll(top: number, total: number): void
}

/** The other screens of the app: their feeds, and their drawing while one is open over the list. */
export interface Screens {
  pages(screen: Screen): Pages
  show(
    screen: Screen,
    item: (index: number) => Item,
    geometry: (index: number) => CellGeometry,
  ): { surface: Surface; close: () => void }
}

export interface World {
  screens: Screens
  clock: Clock
  network: Network
  decoder: Decoder
  disk: Disk
  frames: Frames
  heap: Heap
  pages: Pages
  surface: Surface
}
