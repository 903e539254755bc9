import { failWords } from '../../loading/fail-words.ts'
import {
  isAnswered,
  isReady,
  isShown,
  type ClaimFact,
  type Facts,
  type RequestFact,
  type TransferFact,
} from '../facts/facts.ts'
import type { Ledger, RequestClass } from '../figures/ledger.ts'

/** One sentence of a story, and its moment, ms. */
export interface Sentence {
  t: number
  text: string
  /** The request that it is about, where it is another story's. */
  request?: number
}

export interface Story {
  request: number
  address: string
  outcome: RequestClass
  bytes: number
  /** Cells and items that it was for: their own stories. */
  cells: number[]
  items: number[]
  sentences: Sentence[]
}

const classWords = ['on screen', 'coming up', 'just left', 'not needed on screen'] as const

const mostNamed = 6

/** A request as sentences with times and reasons, from the log alone. */
export function requestStory(facts: Facts, ledger: Ledger, id: number): Story | null {
  const request = facts.requests[id]
  if (!request) return null
  const claims = request.claims.map((claim) => facts.claims[claim]!)
  const sentences = [
    wanted(facts, request, claims[0]),
    ...claims.flatMap((claim) => onScreen(facts, claim)),
    ...request.transfers.flatMap((transfer) => transferSentences(facts.transfers[transfer]!, request)),
    ...facts.decodes
      .filter((each) => each.request === id)
      .map((each) => ({
        t: each.endT / 1000,
        text: each.ok ? `decoded to ${sizeOf(facts, each.rendition)} in ${ms(each.us)}.` : 'could not be decoded.',
      })),
    ...claims.flatMap((claim) => released(facts, claim)),
    ...ending(request),
  ]
  return {
    request: id,
    address: facts.log.assets[request.asset]!.address,
    outcome: ledger.requestClass[id]!,
    bytes: request.transfers.reduce((sum, transfer) => sum + facts.transfers[transfer]!.bytes, 0),
    cells: [...new Set(claims.flatMap(({ cell }) => (cell === null ? [] : [cell])))].slice(0, mostNamed),
    items: [
      ...new Set(claims.flatMap(({ scope, index }) => (scope === 'list' && index !== null ? [index] : []))),
    ].slice(0, mostNamed),
    sentences: sentences.sort((a, b) => a.t - b.t),
  }
}

function wanted(facts: Facts, request: RequestFact, claim: ClaimFact | undefined): Sentence {
  const index = claim?.index ?? null
  const row = index === null ? null : Math.floor(index / facts.log.head.policy.columns)
  return { t: request.queueT / 1000, text: `wanted${claim ? `: ${whyWanted(claim, row)}` : ''}.` }
}

function whyWanted({ scope, cell }: ClaimFact, row: number | null): string {
  if (scope === 'opened') return 'a screen opened that shows it'
  if (scope === 'app') return 'it is needed outside the list'
  return cell === null ? `row ${row} came near, ahead of the screen` : `cell ${cell} was bound in row ${row}`
}

function onScreen(facts: Facts, claim: ClaimFact): Sentence[] {
  return facts.exposures
    .filter((each) => each.claim === claim.id)
    .flatMap((each) => {
      const enter = {
        t: each.enterT / 1000,
        text: isReady(each) ? 'on screen, its picture there at once.' : 'on screen, still without its picture.',
      }
      return isShown(each) && !isReady(each)
        ? [enter, { t: each.shownT / 1000, text: `shown, ${ms(each.shownT - each.enterT)} after it came on screen.` }]
        : [enter]
    })
}

function transferSentences(transfer: TransferFact, request: RequestFact): Sentence[] {
  const started = {
    t: transfer.startT / 1000,
    text: `${transfer.attempt > 0 ? `tried again (${transfer.attempt}), ` : ''}given a fetch slot after ${ms(transfer.startT - request.queueT)}, ${classWords[transfer.startClass] ?? ''}.`,
  }
  const first = !isAnswered(transfer)
    ? []
    : [
        {
          t: transfer.firstByteT / 1000,
          text: `first byte${transfer.total !== null ? ` of ${kB(transfer.total)}` : ', of an unknown total'}.`,
        },
      ]
  if (transfer.end === 'complete')
    return [started, ...first, { t: transfer.endT / 1000, text: `all ${kB(transfer.bytes)} received.` }]
  if (transfer.end !== 'cut') return [started, ...first]
  const share =
    transfer.total !== null && transfer.total > 0
      ? `${Math.round((100 * transfer.bytes) / transfer.total)} % of ${kB(transfer.total)}`
      : kB(transfer.bytes)
  return [
    started,
    ...first,
    {
      t: transfer.endT / 1000,
      text: transfer.bytes === 0 ? 'cut off before a byte had arrived.' : `cut off; ${share} had arrived.`,
    },
  ]
}

function released(facts: Facts, claim: ClaimFact): Sentence[] {
  if (claim.releaseT === null) return []
  const t = claim.releaseT / 1000
  switch (claim.why) {
    case 'recycle':
      return [{ t, text: `cell ${claim.cell} was recycled.` }]
    case 'rebind':
      return [{ t, text: `cell ${claim.cell} was bound to another item.` }]
    case 'zone':
      return [{ t, text: 'its row left the zone in which requests are kept.' }]
    case 'ahead':
      return facts.claims.some((other) => other.request === claim.request && other.cell !== null)
        ? []
        : [{ t, text: 'its row is no longer ahead of the screen.' }]
    case 'larger':
      return [{ t, text: 'the larger picture was requested in its place.' }]
    default:
      return [{ t, text: `let go (${claim.why}).` }]
  }
}

function ending(request: RequestFact): Sentence[] {
  const t = request.endT / 1000
  if (request.end === 'failed') return [{ t, text: `failed: ${failWords[request.reason] ?? request.reason}.` }]
  if (request.end === 'cancelled' && request.transfers.length === 0)
    return [{ t, text: 'let go while it still waited in line: no byte was spent.' }]
  return request.end === 'open' ? [{ t, text: 'still open when the run ended.' }] : []
}

function sizeOf(facts: Facts, rendition: number): string {
  const { width, height } = facts.log.renditions[rendition]!
  return `${width} × ${height} px`
}

const ms = (us: number) => (us >= 1_000_000 ? `${(us / 1e6).toFixed(2)} s` : `${Math.round(us / 1000)} ms`)
const kB = (bytes: number) => `${Math.round(bytes / 1000)} kB`
