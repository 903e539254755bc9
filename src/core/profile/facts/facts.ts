import type { Mover } from '../../log/event-kinds.ts'
import type { ClaimScope } from '../../log/claim-place.ts'
import type { RunLog } from '../../log/run-log.ts'

/** One HTTP exchange and its end. Instants in µs, null where there was none. */
export interface TransferFact {
  id: number
  request: number
  asset: number
  attempt: number
  conditional: boolean
  startT: number
  /** When its own connection was there, where the log says so. */
  connectedT: number | null
  firstByteT: number | null
  /** Also the end of the visit, where it was still under way then. */
  endT: number
  /**
   * When its fetch slot was free again: a live transfer that is cut frees it before it is known how much had arrived.
   */
  freeT: number
  status: number
  /** Declared length of the body; null: the server did not say. */
  total: number | null
  bytes: number
  inFlight: number
  end: 'open' | 'complete' | 'cut' | 'failed'
  /** The class of its request when it started: 0 on screen … 3 all else. */
  startClass: number
}

export interface RequestFact {
  id: number
  asset: number
  queueT: number
  /** The end of the visit where it was still under way then. */
  endT: number
  end: 'open' | 'ready' | 'cancelled' | 'failed'
  reason: string
  transfers: number[]
  claims: number[]
  fromDisk: boolean
  retries: number
}

export interface ClaimFact {
  id: number
  rendition: number
  /** The owner: the list, a screen that opened over it, or the app. */
  scope: ClaimScope
  /** null: no cell made it. */
  cell: number | null
  /** null: of no slot of the list. */
  slot: number | null
  /** The item's place in the feed; null: it is for no item of the list. */
  index: number | null
  /** Position of the cell that made it; null: no cell made it, for the column also: the log does not have it. */
  row: number | null
  column: number | null
  t: number
  releaseT: number | null
  why: string
  /** null: delivered without a request. */
  request: number | null
  tier: string
  deliverT: number | null
  failT: number | null
}

/** A slot, bound to one item, on screen. */
export interface ExposureFact {
  cell: number
  slot: number
  key: number
  index: number
  row: number
  /** The slot's frame: the present one while the log is read, in the end its last one. */
  geometry: number
  /** The frame that it had when its picture was shown, null while it was not; the most px that it had from then on. */
  shownGeometry: number | null
  largestPx: number
  enterT: number
  /** The end of the visit where it was still on screen then. */
  leaveT: number
  /** It has left the screen, or shows another address now. */
  left: boolean
  /** null: it has made none. */
  claim: number | null
  rendition: number | null
  shownT: number | null
  failT: number | null
  /** Whether the slot shows its own picture, or a stand-in, at the instant that is being read. */
  covered: boolean
  outcome: 'shown' | 'failed' | 'unseen' | 'absent'
  /** dp² × µs on screen, and the part of that without its picture. */
  areaTime: number
  holeTime: number
}

/** An exposure that has shown its picture, once the log is read. */
export type ShownExposure = ExposureFact & { shownT: number; claim: number; rendition: number; shownGeometry: number }

export const isShown = (exposure: ExposureFact): exposure is ShownExposure => exposure.shownT !== null

/** Whether an exposure came on screen with its picture. */
export const isReady = ({ shownT, enterT }: ExposureFact): boolean => shownT !== null && shownT <= enterT

/** A transfer whose first byte has arrived. */
export type AnsweredTransfer = TransferFact & { firstByteT: number }

export const isAnswered = (transfer: TransferFact): transfer is AnsweredTransfer => transfer.firstByteT !== null

/** A claim that a picture was delivered to. */
export type DeliveredClaim = ClaimFact & { deliverT: number }

export const isDelivered = (claim: ClaimFact): claim is DeliveredClaim => claim.deliverT !== null

export interface FrameFact {
  begin: number
  due: number
  presented: number
  work: number
  moved: boolean
  /** µs by cause, from the work events; null for a frame with none but its own. */
  causes: Map<string, number>
}

export interface CellFact {
  kind: number
  createT: number
  /** Row of its first bind; null: it was never bound. */
  row: number | null
}

/** Everything that happened in a run, put in order once: all of a profile is read from this. */
export interface Facts {
  log: RunLog
  endT: number
  endWhy: string
  transfers: TransferFact[]
  requests: RequestFact[]
  claims: ClaimFact[]
  exposures: ExposureFact[]
  frames: FrameFact[]
  cells: CellFact[]
  binds: number
  bindTimes: number[]
  /** The row of each bind, beside its instant. */
  bindRows: number[]
  /** Positions of items when they were last bound, by feed index; the column is null where the log does not have it. */
  itemPlaces: Map<number, { row: number; column: number | null }>
  heldHits: number
  decodes: { request: number; rendition: number; startT: number; endT: number; us: number; ok: boolean }[]
  scrolls: { t: number; top: number; by: Mover }[]
  places: { t: number; row: number; top: number; height: number }[]
  memory: { t: number; tier: number; resident: number; bound: number; garbage: number }[]
  collections: { t: number; us: number; asked: boolean }[]
  reliefs: number[]
  /** Spans in which threads of a recorded app were busy, as it reports them. */
  busy: { t: number; thread: string; us: number }[]
  /** Renditions that were used outside the list. */
  uses: { t: number; claim: number; rendition: number }[]
  evictions: { t: number; rendition: number }[]
  disk: { t: number; bytes: number; written: boolean }[]
  wrongs: { t: number; endT: number; cell: number; rendition: number }[]
  jumps: { t: number; row: number; units: number }[]
  flickers: number[]
  /** Flickers of pictures whose address had stayed the same. */
  keepBreaches: number[]
  notes: { t: number; text: string }[]
  /** Bytes as the log's own events report them, each end of a transfer by itself. */
  reportedBytes: number
  peakActive: number
  peakPerHost: number
  decodePeak: number
  inversionUs: number
  /** The spans that make it up. */
  inversions: { from: number; to: number }[]
  /** Times at which a slot was free, or went to a lower class, beside a waiting on-screen request. */
  rankBreaches: { t: number; request: number }[]
  /** Requests that ended more than once, or never started. */
  endBreaches: number[]
  edits: number
  /** Edits after which the first cell on screen was elsewhere. */
  placeBreaches: number[]
  /** Most cells of a kind bound at once. */
  boundPeaks: Map<number, number>
}

/** The state before anything of a log was read. */
export function emptyFacts(log: RunLog): Facts {
  return {
    log,
    endT: 0,
    endWhy: '',
    transfers: [],
    requests: [],
    claims: [],
    exposures: [],
    frames: [],
    cells: [],
    binds: 0,
    bindTimes: [],
    bindRows: [],
    itemPlaces: new Map(),
    heldHits: 0,
    decodes: [],
    scrolls: [],
    places: [],
    memory: [],
    collections: [],
    reliefs: [],
    busy: [],
    uses: [],
    evictions: [],
    disk: [],
    wrongs: [],
    jumps: [],
    flickers: [],
    keepBreaches: [],
    notes: [],
    reportedBytes: 0,
    peakActive: 0,
    peakPerHost: 0,
    decodePeak: 0,
    inversionUs: 0,
    inversions: [],
    rankBreaches: [],
    endBreaches: [],
    edits: 0,
    placeBreaches: [],
    boundPeaks: new Map(),
  }
}
