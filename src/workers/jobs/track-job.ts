import { profileRun } from '../../core/profile/profile.ts'
import type { Item, Project, Screen } from '../../core/project/types.ts'
import { baseOf } from '../../core/list/pictures.ts'
import { simulate } from '../../core/simulate/simulate.ts'

/** The load of one picture, step by step, ms from the moment at which it was wanted; null: the step was not reached. */
export interface LoadTrack {
  /** The steps, one after the other. */
  parts: {
    what: 'in line' | 'on the way' | 'receiving' | 'decoding' | 'waiting for a frame' | 'arriving' | 'settled'
    fromMs: number
    toMs: number
  }[]
  bytes: number
  /** How it ended: shown, or why it failed. */
  end: 'shown' | 'failed' | 'absent'
  reason: string
  decodeMs: number
}

/** Simulates the load of one item's picture alone on the project's device and network. */
export function trackJob(job: { project: Project; screen: number; item: Item; slot: number }): LoadTrack {
  return trackLoad(job.project, job.project.screens[job.screen]!, job.item, job.slot)
}

const longestMs = 20_000
/** How long the track goes on after the last event, ms. */
const settledMs = 160

export function trackLoad(project: Project, screen: Screen, item: Item, slot: number): LoadTrack {
  const alone: Project = {
    ...project,
    network: { ...project.network, offline: [] },
    loading: { ...project.loading, ahead: { ...project.loading.ahead, amount: 0 }, startBelowDpPerS: null },
    screens: [
      {
        ...screen,
        feed: {
          ...screen.feed,
          base: baseOf(screen),
          source: { type: 'inline', items: [item] },
          repeat: { times: 1, addresses: 'same' },
        },
      },
    ],
    scripts: [{ name: 'load', steps: [{ do: 'wait', ms: longestMs }] }],
    script: 'load',
  }
  const { facts } = profileRun(simulate(alone, { screen: screen.id, script: 'load' }).log)
  const claim = facts.claims.find((each) => each.slot === slot)
  const none: LoadTrack = { parts: [], bytes: 0, end: 'absent', reason: '', decodeMs: 0 }
  if (!claim) return none
  const request = claim.request === null ? undefined : facts.requests[claim.request]
  const ms = (us: number) => (us - claim.t) / 1000
  const transfer = request ? request.transfers.map((id) => facts.transfers[id]!).at(-1) : undefined
  const shown = facts.exposures.find((each) => each.claim === claim.id)?.shownT ?? null
  const decode = facts.decodes.find((each) => each.request === claim.request)
  const parts: LoadTrack['parts'] = []
  let at = 0
  const until = (what: LoadTrack['parts'][number]['what'], us: number | null) => {
    if (us === null || ms(us) <= at) return
    parts.push({ what, fromMs: at, toMs: ms(us) })
    at = ms(us)
  }
  if (transfer) {
    until('in line', transfer.startT)
    until('on the way', transfer.firstByteT)
    until('receiving', transfer.endT)
  }
  if (decode) until('decoding', decode.endT)
  if (shown !== null) {
    until('waiting for a frame', shown)
    const { type, ms: lasts } = screen.cells[0]!.slots[slot]?.transition ?? { type: 'none', ms: 0 }
    if (type !== 'none' && lasts > 0) until('arriving', shown + lasts * 1000)
  }
  const failed = request?.end === 'failed'
  if (failed) until('on the way', request.endT)
  parts.push({ what: 'settled', fromMs: at, toMs: at + settledMs })
  return {
    parts,
    bytes: transfer?.bytes ?? 0,
    end: failed ? 'failed' : 'shown',
    reason: request?.reason ?? '',
    decodeMs: decode ? decode.us / 1000 : 0,
  }
}
