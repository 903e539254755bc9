import type { Operation } from 'fast-json-patch'
import type { Project, Screen, Slot, Visit } from '../../project/types.ts'
import type { ComparedId, MetricId } from '../figures/metric-definitions.ts'
import type { TransferFact } from '../facts/facts.ts'
import type { Profile } from '../profile.ts'

/** What a run suggests, before it is proven: evidence from this run, and the change that should mend it. */
export interface Suspicion {
  id: string
  what: string
  /** In numbers from this run. */
  evidence: string
  /** The metric that the change is about. */
  metric: ComparedId
  change: string
  patch: Operation[]
  /** Where it shows on the map, ms; null: all over. */
  pinMs: number | null
  /** No setting mends it: this other visit of the same project, on which the metric is below a bound, tells what it is about. */
  other?: { visit: Visit; below: number }
}

interface Subject extends Profile {
  project: Project
  screen: Screen
  /** Where the screen stands in the project. */
  at: string
}

type Rule = (subject: Subject) => Suspicion | null

/** Everything that a run suggests, in no order; each has still to be proven. */
export function suspicionsOf(profile: Profile, project: Project): Suspicion[] {
  const number = Math.max(
    0,
    project.screens.findIndex(({ id }) => id === profile.facts.log.head.screen),
  )
  const screen = project.screens[number]
  if (!screen) return []
  const subject = { ...profile, project, screen, at: `/screens/${number}` }
  return rules.flatMap((rule) => rule(subject) ?? [])
}

const replace = (path: string, value: unknown): Operation => ({ op: 'replace', path, value })
const kB = (bytes: number) => `${Math.round(bytes / 1000)} kB`
const percent = (share: number) => `${Math.round(100 * share)} %`
const metric = ({ metrics }: Subject, id: MetricId) => metrics[id] ?? 0

/** Every slot of the screen with its path. */
const slotsOf = ({ screen, at }: Subject): { slot: Slot; path: string }[] =>
  screen.cells.flatMap((cell, c) => cell.slots.map((slot, s) => ({ slot, path: `${at}/cells/${c}/slots/${s}` })))

/** µs of main-thread work of a cause in late frames, and when the first of them was. */
function lateBy({ facts }: Subject, cause: string): { ms: number; frames: number; first: number | null } {
  const late = facts.frames.filter(
    (frame) => frame.presented > frame.due && (frame.causes.get(cause) ?? 0) > 0.25 * frame.work,
  )
  return {
    ms: late.reduce((sum, frame) => sum + (frame.causes.get(cause) ?? 0), 0) / 1000,
    frames: late.length,
    first: late[0] ? late[0].presented / 1000 : null,
  }
}

/** Slots whose transition runs even when memory had the picture. */
const fadedFromMemory = (subject: Subject) =>
  slotsOf(subject).filter(
    ({ slot: { transition } }) =>
      transition.type !== 'none' && transition.ms > 0 && !transition.skip.includes('memory'),
  )

/** From this share of empty screen on a visit is slow; below the other it is not. */
const slowShare = 0.3
const quickShare = 0.15

const firstMs = (transfers: readonly TransferFact[]) => (transfers[0] ? transfers[0].startT / 1000 : null)

const rules: readonly Rule[] = [
  function oversize(subject) {
    const ratio = metric(subject, 'decode.pixelRatio')
    const whole = slotsOf(subject).filter(({ slot }) => slot.decodeAt.type !== 'slot')
    if (ratio < 1.5 || whole.length === 0) return null
    return {
      id: 'decode-oversize',
      what: 'Pictures are decoded larger than they are shown.',
      metric: 'memory.peakMb',
      pinMs: null,
      evidence: `${ratio.toFixed(1)} px are decoded for each px shown, ${Math.round(metric(subject, 'decode.ms'))} ms in all; memory peaks at ${Math.round(metric(subject, 'memory.peakMb'))} MB.`,
      change: 'decode at the slot’s size',
      patch: whole.map(({ path }) => replace(`${path}/decodeAt`, { type: 'slot' })),
    }
  },
  function soft(subject) {
    const count = metric(subject, 'pictures.soft')
    const fixed = slotsOf(subject).filter(({ slot }) => slot.decodeAt.type === 'fixed')
    if (count < 2 || fixed.length === 0) return null
    return {
      id: 'soft',
      what: 'Pictures are shown with fewer px than their slot has.',
      metric: 'pictures.soft',
      pinMs: null,
      evidence: `${count} pictures were stretched, by ${(metric(subject, 'pictures.softRatio') || 1).toFixed(1)} a side in the middle.`,
      change: 'decode at the slot’s size',
      patch: fixed.map(({ path }) => replace(`${path}/decodeAt`, { type: 'slot' })),
    }
  },
  function askWhole(subject) {
    const over = metric(subject, 'bytes.oversize')
    const bare = slotsOf(subject).flatMap(({ slot, path }) =>
      slot.address.type === 'pointer' ? [{ path, at: slot.address.at }] : [],
    )
    const own =
      subject.screen.feed.source.type === 'origin' || subject.screen.feed.base?.includes('archive.example.test')
    if (over < 0.3 * metric(subject, 'bytes.received') || bare.length === 0 || !own) return null
    return {
      id: 'ask-smaller',
      what: 'Whole pictures are fetched for small slots.',
      metric: 'bytes.received',
      pinMs: null,
      evidence: `${kB(over)} of ${kB(metric(subject, 'bytes.received'))} carry px that no slot shows.`,
      change: 'ask for the slot’s size',
      patch: bare.map(({ path, at }) =>
        replace(`${path}/address`, {
          type: 'template',
          template: `{+${at.slice(1).replaceAll('/', '.')}}?width={widthPx}&height={heightPx}&as=webp`,
        }),
      ),
    }
  },
  function flicking(subject) {
    const { facts, project } = subject
    if (project.loading.startBelowDpPerS !== null) return null
    const cut = facts.transfers.filter((each) => each.end === 'cut')
    if (cut.length < 8 || cut.length < 0.15 * facts.transfers.length) return null
    return {
      id: 'starts-while-flicking',
      what: 'Requests start for rows that only fly past.',
      metric: 'bytes.wastedShare',
      pinMs: firstMs(cut),
      evidence: `${cut.length} of ${facts.transfers.length} transfers were cut off, with ${kB(cut.reduce((sum, each) => sum + each.bytes, 0))} received for nothing.`,
      change: 'start nothing above 1,500 dp/s',
      patch: [replace('/loading/startBelowDpPerS', 1500)],
    }
  },
  function fewSlots(subject) {
    const { loading, network } = subject.project
    const busy = metric(subject, 'threads.fetchBusyShare')
    if (loading.fetchSlots > 3 || metric(subject, 'pictures.holeShare') < 0.05 || busy < 0.3 || network.downKbps < 1000)
      return null
    return {
      id: 'few-slots',
      what: 'Too few fetch slots: the link waits for the round trip of each.',
      metric: 'pictures.holeShare',
      pinMs: null,
      evidence: `${loading.fetchSlots} slots were busy ${percent(busy)} of the time while ${percent(metric(subject, 'pictures.holeShare'))} of the screen was empty.`,
      change: 'six fetch slots',
      patch: [replace('/loading/fetchSlots', 6), replace('/loading/fetchSlotsPerHost', 6)],
    }
  },
  function manySlots(subject) {
    const { loading } = subject.project
    const peak = metric(subject, 'requests.peakActive')
    if (loading.fetchSlots < 12 || peak < 12) return null
    return {
      id: 'many-slots',
      what: 'Too many fetch slots share the link: what is looked at comes as late as what is not.',
      metric: 'pictures.firstScreenMs',
      pinMs: null,
      evidence: `${peak} transfers ran at once; the first screen took ${Math.round(metric(subject, 'pictures.firstScreenMs'))} ms.`,
      change: 'six fetch slots',
      patch: [replace('/loading/fetchSlots', 6), replace('/loading/fetchSlotsPerHost', 6)],
    }
  },
  function farAhead(subject) {
    const { ahead } = subject.project.loading
    const unseen = subject.ledger.bytes.neverSeen
    if (ahead.amount <= 2 || unseen < 0.1 * subject.ledger.received) return null
    return {
      id: 'ahead-too-far',
      what: 'It looks further ahead than the list goes.',
      metric: 'bytes.wastedShare',
      pinMs: firstMs(subject.facts.transfers.filter((each) => subject.ledger.transferClass[each.id] === 'neverSeen')),
      evidence: `${kB(unseen)}, ${percent(unseen / subject.ledger.received)} of all bytes, were fetched ${ahead.amount} ${ahead.by} ahead and never seen.`,
      change: 'two rows ahead',
      patch: [
        replace('/loading/ahead/by', 'rows'),
        replace('/loading/ahead/amount', 2),
        replace('/loading/ahead/direction', 'travel'),
      ],
    }
  },
  function nearAhead(subject) {
    const { ahead } = subject.project.loading
    const ready = metric(subject, 'pictures.readyShare')
    if (ahead.amount > 1 || ready > 0.6 || metric(subject, 'threads.fetchBusyShare') > 0.6) return null
    return {
      id: 'ahead-too-near',
      what: 'Pictures are asked for only when they are on screen, while the link idles.',
      metric: 'pictures.holeShare',
      pinMs: null,
      evidence: `${percent(ready)} of pictures were there when they came on screen; the slots stood free ${percent(1 - metric(subject, 'threads.fetchBusyShare'))} of the time.`,
      change: 'four rows ahead, when nothing on screen waits',
      patch: [
        replace('/loading/ahead/by', 'rows'),
        replace('/loading/ahead/amount', 4),
        replace('/loading/ahead/onlyWhenIdle', true),
      ],
    }
  },
  function smallMemory(subject) {
    const again = metric(subject, 'tier.evictedThenWanted')
    const { memoryMb } = subject.project.loading
    const none = memoryMb === 0 && subject.facts.claims.length > 0
    if (again < 4 && !none) return null
    const more = memoryMb === 0 ? 32 : memoryMb * 4
    return {
      id: 'memory-small',
      what: memoryMb === 0 ? 'Nothing that was decoded is kept.' : 'The memory tier is too small for the way back.',
      metric: 'pictures.holeShare',
      pinMs: null,
      evidence:
        memoryMb === 0
          ? `${percent(metric(subject, 'tier.memoryShare'))} of pictures came from memory; ${Math.round(metric(subject, 'decode.ms'))} ms were spent decoding.`
          : `${again} pictures were pushed out of ${memoryMb} MB and wanted again.`,
      change: `${more} MB of memory`,
      patch: [replace('/loading/memoryMb', more)],
    }
  },
  function largeMemory(subject) {
    const { memoryMb } = subject.project.loading
    const used = Math.max(0, ...subject.facts.memory.map(({ tier }) => tier)) / 1e6
    if (memoryMb < 64 || metric(subject, 'tier.memoryShare') > 0.05 || used < 24) return null
    return {
      id: 'memory-large',
      what: 'Memory is kept that is hardly ever used again.',
      metric: 'memory.peakMb',
      pinMs: null,
      evidence: `${Math.round(used)} MB were kept; ${percent(metric(subject, 'tier.memoryShare'))} of pictures came from there.`,
      change: '24 MB of memory',
      patch: [replace('/loading/memoryMb', 24)],
    }
  },
  function noSharing(subject) {
    if (subject.project.loading.share) return null
    return {
      id: 'no-sharing',
      what: 'Equal addresses in flight are fetched more than once.',
      metric: 'bytes.received',
      pinMs: null,
      evidence: `${subject.ledger.requests.again} requests and ${kB(subject.ledger.bytes.again)} brought what was there already.`,
      change: 'share equal fetches',
      patch: [replace('/loading/share', true)],
    }
  },
  function nearlyDone(subject) {
    const { cancel } = subject.project.loading
    const most = subject.facts.transfers.filter(
      (each) => each.end === 'cut' && each.total > 0 && each.bytes > 0.6 * each.total,
    )
    const bytes = most.reduce((sum, each) => sum + each.bytes, 0)
    if (cancel.keepAbove <= 0.6 || most.length < 3) return null
    return {
      id: 'cut-nearly-finished',
      what: 'Transfers are cut off when they are nearly there.',
      metric: 'bytes.wastedShare',
      pinMs: firstMs(most),
      evidence: `${most.length} transfers were cut off with more than 60 % received, ${kB(bytes)} in all.`,
      change: 'finish from 60 % on',
      patch: [replace('/loading/cancel/keepAbove', 0.6)],
    }
  },
  function neverCancels(subject) {
    const { cancel } = subject.project.loading
    const unseen = subject.ledger.bytes.neverSeen
    if (cancel.when !== 'never' || unseen === 0) return null
    return {
      id: 'no-cancelling',
      what: 'What nobody sees any more is loaded to its end.',
      metric: 'bytes.wastedShare',
      pinMs: firstMs(subject.facts.transfers.filter((each) => subject.ledger.transferClass[each.id] === 'neverSeen')),
      evidence: `${subject.ledger.requests.neverSeen} requests with ${kB(unseen)} ended for nobody, before what was on screen.`,
      change: 'let go when a cell is recycled',
      patch: [replace('/loading/cancel/when', 'recycle')],
    }
  },
  function lateCancel(subject) {
    const { cancel } = subject.project.loading
    const unseen = subject.ledger.bytes.neverSeen
    if (cancel.when !== 'zone' || cancel.zoneRows < 3 || unseen < 0.05 * subject.ledger.received) return null
    return {
      id: 'cancel-too-late',
      what: 'Requests are let go long after their rows have left.',
      metric: 'bytes.wastedShare',
      pinMs: firstMs(subject.facts.transfers.filter((each) => subject.ledger.transferClass[each.id] === 'neverSeen')),
      evidence: `${kB(unseen)}, ${percent(unseen / subject.ledger.received)} of all bytes, came for rows that were up to ${cancel.zoneRows} rows off the screen, and were never seen.`,
      change: 'let go when a cell is recycled',
      patch: [replace('/loading/cancel/when', 'recycle')],
    }
  },
  function flicker(subject) {
    const count = metric(subject, 'pictures.flickers')
    const { memoryMb } = subject.project.loading
    if (count === 0) return null
    const faded = fadedFromMemory(subject)
    const more = Math.max(32, memoryMb * 4)
    return {
      id: 'flicker',
      what: 'Pictures that were there go away and come back.',
      metric: 'pictures.flickers',
      pinMs: subject.facts.flickers[0]! / 1000,
      evidence: `${count} times a shown picture went back to waiting, or faded in once more, under the same item.`,
      change: `${faded.length > 0 ? 'no transition for what memory has, and ' : ''}${more} MB of memory`,
      patch: [
        ...faded.map(({ path, slot }) => replace(`${path}/transition/skip`, [...slot.transition.skip, 'memory'])),
        replace('/loading/memoryMb', more),
      ],
    }
  },
  function transitionOnHit(subject) {
    const faded = fadedFromMemory(subject).filter(({ slot }) => slot.transition.on === 'main')
    const hits = subject.facts.claims.filter((claim) => claim.tier === 'memory').length
    const late = lateBy(subject, 'transition')
    if (faded.length === 0 || hits < 5 || late.frames === 0) return null
    return {
      id: 'transition-on-hit',
      what: 'Pictures that memory has are faded in all the same.',
      metric: 'frames.lateMsPerS',
      pinMs: late.first,
      evidence: `${hits} pictures came from memory; ${late.frames} late frames carried ${Math.round(late.ms)} ms of transitions.`,
      change: 'no transition for what memory has',
      patch: faded.map(({ path, slot }) => replace(`${path}/transition/skip`, [...slot.transition.skip, 'memory'])),
    }
  },
  function aheadFirst(subject) {
    const { ahead } = subject.project.loading
    if (ahead.onlyWhenIdle || ahead.amount === 0) return null
    return {
      id: 'ahead-delays-screen',
      what: 'Looking ahead takes slots and link from what is on screen.',
      metric: 'pictures.firstScreenMs',
      pinMs: 0,
      evidence: `The first screen took ${Math.round(metric(subject, 'pictures.firstScreenMs'))} ms while rows ahead of it were loading.`,
      change: 'ahead only when nothing on screen waits',
      patch: [replace('/loading/ahead/onlyWhenIdle', true)],
    }
  },
  function inversion(subject) {
    const ms = metric(subject, 'requests.inversionMs')
    if (ms < 100 || subject.project.loading.order === 'nearest') return null
    return {
      id: 'inversion',
      what: 'What is on screen waits behind what has left it.',
      metric: 'pictures.holeShare',
      pinMs: null,
      evidence: `For ${Math.round(ms)} ms a request on screen waited for a slot that a lower one held.`,
      change: 'nearest first',
      patch: [replace('/loading/order', 'nearest')],
    }
  },
  function allHigh(subject) {
    const slots = slotsOf(subject)
    if (slots.length < 2 || !slots.every(({ slot }) => slot.priority === 'high')) return null
    return {
      id: 'all-high',
      what: 'Every slot has high priority: none comes first.',
      metric: 'pictures.firstScreenMs',
      pinMs: null,
      evidence: `All ${slots.length} slots of the screen are set to high.`,
      change: 'only the first slot of each cell high',
      patch: slots
        .filter(({ path }) => !path.endsWith('/slots/0'))
        .map(({ path }) => replace(`${path}/priority`, 'normal')),
    }
  },
  function decodeOnMain(subject) {
    if (subject.project.loading.decodeOn !== 'main') return null
    const late = lateBy(subject, 'decode')
    return {
      id: 'decode-on-main',
      what: 'Pictures are decoded on the main thread.',
      metric: 'frames.lateMsPerS',
      pinMs: late.first,
      evidence: `${late.frames} late frames carried ${Math.round(late.ms)} ms of decoding.`,
      change: 'decode in workers',
      patch: [replace('/loading/decodeOn', 'workers')],
    }
  },
  function setup(subject) {
    const { setup: when } = subject.project.loading
    const late = lateBy(subject, 'setup')
    if ((when !== 'per-bind' && when !== 'per-screen') || late.frames === 0) return null
    return {
      id: 'setup-repeated',
      what: 'The loader is set up again and again.',
      metric: 'frames.lateMsPerS',
      pinMs: late.first,
      evidence: `${late.frames} late frames carried ${Math.round(late.ms)} ms of set-up.`,
      change: 'set up once, at the app’s start',
      patch: [replace('/loading/setup', 'app-start')],
    }
  },
  function lateCells(subject) {
    const { layout } = subject.screen
    const late = lateBy(subject, 'create')
    if (late.frames < 2 || layout.afterDp > 0 || metric(subject, 'cells.createdAfterFirstScreen') < 2) return null
    return {
      id: 'late-creations',
      what: 'Cells are made while the list moves.',
      metric: 'frames.lateMsPerS',
      pinMs: late.first,
      evidence: `${metric(subject, 'cells.createdAfterFirstScreen')} cells were made after the first screen; ${late.frames} late frames carried ${Math.round(late.ms)} ms of it.`,
      change: 'attach 200 dp below the screen',
      patch: [replace(`${subject.at}/layout/afterDp`, 200)],
    }
  },
  function jumps(subject) {
    const count = metric(subject, 'pictures.jumps')
    if (count === 0) return null
    const framed = slotsOf(subject).flatMap(({ slot, path }) =>
      Object.entries(slot.stages).flatMap(([stage, look]): Operation[] =>
        typeof look === 'object' && look !== null && 'frame' in look && look.frame !== undefined
          ? [{ op: 'remove', path: `${path}/stages/${stage}/frame` }]
          : [],
      ),
    )
    const sized = slotsOf(subject).flatMap(({ slot, path }) =>
      slot.size.type === 'from-picture' && slot.widthAt !== null && slot.heightAt !== null
        ? [replace(`${path}/size`, { type: 'aspect-at', width: slot.widthAt, height: slot.heightAt })]
        : [],
    )
    if (framed.length + sized.length === 0) return null
    return {
      id: 'jumps',
      what: 'What is on screen moves when pictures arrive.',
      metric: 'pictures.jumps',
      pinMs: subject.facts.jumps[0]!.t / 1000,
      evidence: `${count} jumps by ${Math.round(metric(subject, 'pictures.jumpDp'))} dp in all.`,
      change: framed.length > 0 ? 'hold the slot’s frame in every stage' : 'take the ratio from the item',
      patch: [...framed, ...sized],
    }
  },
  function wrong(subject) {
    const { guard, resetOnBind } = subject.project.loading
    const count = metric(subject, 'pictures.wrong')
    if (count === 0 || (guard && resetOnBind)) return null
    return {
      id: 'wrong-pictures',
      what: 'Cells show pictures of other items.',
      metric: 'pictures.wrong',
      pinMs: subject.facts.wrongs[0] ? subject.facts.wrongs[0].t / 1000 : null,
      evidence: `${count} times, for ${Math.round(metric(subject, 'pictures.wrongMs'))} ms in all.`,
      change: 'guard late arrivals and reset cells on bind',
      patch: [replace('/loading/guard', true), replace('/loading/resetOnBind', true)],
    }
  },
  function vainRetries(subject) {
    const { attempts } = subject.project.loading.retry
    const tried = subject.facts.requests.filter((request) => request.retries > 0)
    const vain = tried.filter((request) => request.end === 'failed')
    if (vain.length < 2 || vain.length < 0.7 * tried.length || attempts === 0) return null
    return {
      id: 'vain-retries',
      what: 'Retries do not help: what fails once fails again.',
      metric: 'requests.retries',
      pinMs: vain[0]!.queueT / 1000,
      evidence: `${vain.length} of ${tried.length} requests that were tried again failed all the same, after ${vain.reduce((sum, request) => sum + request.retries, 0)} retries.`,
      change: 'do not try again',
      patch: [replace('/loading/retry/attempts', 0)],
    }
  },
  function firstVisit(subject) {
    const empty = metric(subject, 'pictures.holeShare')
    if (subject.facts.log.head.visit !== 'first' || empty < slowShare || subject.ledger.received === 0) return null
    return {
      id: 'first-visit-only',
      what: 'It is slow on the first visit only.',
      metric: 'pictures.holeShare',
      pinMs: null,
      other: { visit: 'restarted', below: quickShare },
      patch: [],
      evidence: `${percent(empty)} of the screen was empty; ${kB(subject.ledger.received)} were fetched, and pictures waited ${Math.round(metric(subject, 'pictures.waitP95'))} ms (95th of 100).`,
      change: 'the visit after a restart, with nothing changed',
    }
  },
  function noDisk(subject) {
    const { diskMb } = subject.project.loading
    if (diskMb > 0 || subject.facts.log.head.visit === 'first') return null
    return {
      id: 'no-disk',
      what: 'Nothing is kept across visits.',
      metric: 'bytes.received',
      pinMs: null,
      evidence: `${kB(metric(subject, 'bytes.received'))} were fetched on a ${subject.facts.log.head.visit} visit.`,
      change: '120 MB of disk',
      patch: [replace('/loading/diskMb', 120)],
    }
  },
]
