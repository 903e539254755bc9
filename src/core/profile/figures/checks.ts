import { isDelivered, type Facts } from '../facts/facts.ts'
import { ledgerClasses, type Ledger } from './ledger.ts'
import { sum } from './numbers.ts'

export interface Check {
  id: string
  /** null: this log cannot decide it. */
  ok: boolean | null
  evidence: string
  /** The first moment that the evidence is about, ms. */
  atMs?: number
}

/** The invariants of a run, checked against its own log. Each reports what it counted. */
export function checkRun(facts: Facts, ledger: Ledger): Check[] {
  const checks = checkAll(facts, ledger)
  if (facts.log.head.world !== 'recorded') return checks
  // The rules of another loader are not known: only that every byte is counted once can be checked.
  return checks.map((each) =>
    each.id === 'bytes'
      ? each
      : check(each.id, null, 'not decided: the app’s own limits and rules are not part of what was recorded'),
  )
}

function checkAll(facts: Facts, ledger: Ledger): Check[] {
  return [
    endsOnce(facts),
    slots(facts),
    budget(facts),
    bytes(facts, ledger),
    truePicture(facts),
    closed(facts),
    rank(facts),
    reuse(facts),
    place(facts),
    keep(facts),
  ]
}

/** `t`: where its evidence begins, µs; none where it is of the run as a whole. */
const check = (id: string, ok: boolean | null, evidence: string, t?: number): Check =>
  t === undefined ? { id, ok, evidence } : { id, ok, evidence, atMs: t / 1000 }

function endsOnce({ requests, endBreaches }: Facts): Check {
  const open = requests.filter((request) => request.end === 'open').length
  return check(
    'once',
    endBreaches.length === 0,
    endBreaches.length === 0
      ? `${requests.length} requests: ${requests.length - open} ended once, ${open} open at the end`
      : `request ${endBreaches[0]} ended more than once, or never began (${endBreaches.length} such)`,
  )
}

function slots({ peakActive, peakPerHost, decodePeak, log }: Facts): Check {
  const { fetchSlots, fetchSlotsPerHost, decodeWorkers } = log.head.policy
  const ok = peakActive <= fetchSlots && peakPerHost <= fetchSlotsPerHost && decodePeak <= decodeWorkers
  return check(
    'slots',
    ok,
    `at most ${peakActive} of ${fetchSlots} fetches, ${peakPerHost} of ${fetchSlotsPerHost} to one host, ${decodePeak} of ${decodeWorkers} decodes at once`,
  )
}

function budget({ memory, disk, log }: Facts): Check {
  const { memoryMb, diskMb } = log.head.policy
  const most = memory.reduce((peak, each) => Math.max(peak, each.tier), 0)
  let held = log.head.diskStartBytes
  let peak = held
  for (const each of disk) {
    held += each.bytes
    if (!each.written) peak = Math.max(peak, held)
  }
  peak = Math.max(peak, held)
  const over = memory.find(({ tier }) => tier > memoryMb * 1e6)
  const ok = most <= memoryMb * 1e6 && peak <= diskMb * 1e6
  return check(
    'budget',
    ok,
    `memory tier at most ${most} of ${memoryMb * 1e6} bytes, disk tier ${peak} of ${diskMb * 1e6}`,
    over?.t,
  )
}

function bytes(facts: Facts, ledger: Ledger): Check {
  const classes = sum(ledgerClasses.map((name) => ledger.bytes[name]))
  const { reportedBytes } = facts
  return check(
    'bytes',
    classes === reportedBytes,
    `the classes sum to ${classes} of ${reportedBytes} bytes that the log’s transfers have received`,
  )
}

function truePicture({ wrongs, exposures, log }: Facts): Check {
  const { guard, resetOnBind } = log.head.policy
  if (!guard || !resetOnBind)
    return check(
      'true-picture',
      null,
      `not decided: the guard or the reset is off (${wrongs.length} wrong pictures)`,
      wrongs[0]?.t,
    )
  return check(
    'true-picture',
    wrongs.length === 0,
    `${wrongs.length} wrong pictures in ${exposures.length} exposures`,
    wrongs[0]?.t,
  )
}

function closed(facts: Facts): Check {
  const ended = facts.claims.filter((claim) => claim.why === 'closed')
  if (ended.length === 0) return check('closed', true, 'no scope was closed in this run')
  const late = ended.filter(isDelivered).filter(({ deliverT, releaseT }) => releaseT !== null && deliverT > releaseT)
  return check(
    'closed',
    late.length === 0,
    `${late.length} of ${ended.length} claims were delivered after their scope had closed`,
    late[0]?.deliverT,
  )
}

function rank({ rankBreaches, requests }: Facts): Check {
  const first = rankBreaches[0]
  return check(
    'rank',
    !first,
    first
      ? `request ${first.request} waited on screen at ${(first.t / 1000).toFixed(1)} ms while a slot was free or went to a lower class (${rankBreaches.length} times)`
      : `${requests.length} requests: none waited on screen beside a free slot or one given to a lower class`,
    first?.t,
  )
}

function reuse({ cells, boundPeaks }: Facts): Check {
  const created = new Map<number, number>()
  for (const cell of cells) created.set(cell.kind, (created.get(cell.kind) ?? 0) + 1)
  const over = [...created].find(([kind, count]) => count > (boundPeaks.get(kind) ?? 0))
  return check(
    'reuse',
    !over,
    over
      ? `${over[1]} cells of kind ${over[0]} were created, at most ${boundPeaks.get(over[0]) ?? 0} were needed at once`
      : [...created]
          .map(([kind, count]) => `kind ${kind}: ${count} created, ${boundPeaks.get(kind)} needed at once`)
          .join('; ') || 'no cells',
  )
}

function place({ placeBreaches, edits }: Facts): Check {
  return check(
    'place',
    placeBreaches.length === 0,
    edits === 0 ? 'no edits in this run' : `${edits} edits; ${placeBreaches.length} moved what was on screen`,
    placeBreaches[0],
  )
}

function keep({ keepBreaches: flickers, log }: Facts): Check {
  const { guard, resetOnBind } = log.head.policy
  if (!guard || !resetOnBind)
    return check('keep', null, `not decided: the guard or the reset is off (${flickers.length} flickers)`, flickers[0])
  return check(
    'keep',
    flickers.length === 0,
    `${flickers.length} flickers of pictures that stayed bound to their item`,
    flickers[0],
  )
}
