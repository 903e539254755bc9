import { replace, kB, percent, metric, slotsOf, firstMs, type Rule } from './suspicion.ts'

/** Faults of starting, sharing, letting go and retrying. */
export const requestRules: readonly Rule[] = [
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
      ({ end, total, bytes }) => end === 'cut' && total !== null && total > 0 && bytes > 0.6 * total,
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
      what: 'Pictures that are off screen again are loaded to the end.',
      metric: 'bytes.wastedShare',
      pinMs: firstMs(subject.facts.transfers.filter((each) => subject.ledger.transferClass[each.id] === 'neverSeen')),
      evidence: `${subject.ledger.requests.neverSeen} requests with ${kB(unseen)} finished though nothing needed them, before those on screen.`,
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
  function allHighPriority(subject) {
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
  function uselessRetries(subject) {
    const { attempts } = subject.project.loading.retry
    const tried = subject.facts.requests.filter((request) => request.retries > 0)
    const failed = tried.filter((request) => request.end === 'failed')
    if (failed.length < 2 || failed.length < 0.7 * tried.length || attempts === 0) return null
    return {
      id: 'useless-retries',
      what: 'Retries do not help: what fails once fails again.',
      metric: 'requests.retries',
      pinMs: failed[0]!.queueT / 1000,
      evidence: `${failed.length} of ${tried.length} requests that were tried again failed all the same, after ${failed.reduce((sum, request) => sum + request.retries, 0)} retries.`,
      change: 'do not try again',
      patch: [replace('/loading/retry/attempts', 0)],
    }
  },
]
