import { movers, type Mover } from '../../log/event-kinds.ts'
import { EventReader, type EventHandlers } from '../../log/event-reader.ts'
import type { RunLog } from '../../log/run-log.ts'
import { Exchanges } from './exchanges.ts'
import { emptyFacts, type Facts, type FrameFact } from './facts.ts'
import { OnScreen } from './on-screen.ts'
import { PlaceWatch } from './place-watch.ts'
import { QueueWatch } from './queue-watch.ts'
import { Slots } from './slots.ts'

const known = new Set<string>(movers)
const isMover = (by: string): by is Mover => known.has(by)

/** Reads a log from front to back, once, and puts what happened in order. */
export function readFacts(log: RunLog): Facts {
  return new Reader(log).read()
}

class Reader {
  private readonly log: RunLog
  private readonly facts: Facts
  private readonly watch: QueueWatch
  private readonly placing: PlaceWatch
  private readonly onScreen: OnScreen
  private readonly exchanges: Exchanges
  private readonly slots: Slots
  private readonly runningDecodes = new Map<string, number>()
  private frame: FrameFact | null = null
  constructor(log: RunLog) {
    this.log = log
    this.facts = emptyFacts(log)
    this.watch = new QueueWatch(log.head.policy, this.facts)
    this.placing = new PlaceWatch(this.facts)
    this.onScreen = new OnScreen(log, this.placing)
    this.exchanges = new Exchanges(this.facts, this.watch)
    this.slots = new Slots(log, this.facts, this.onScreen, this.watch)
  }

  read(): Facts {
    new EventReader(this.log, this.handlers).readAll()
    const { facts } = this
    facts.endT = this.log.endTime
    this.slots.finish(facts.endT)
    for (const { end, bytes } of facts.transfers) if (end === 'open') facts.reportedBytes += bytes
    this.exchanges.finish(facts.endT)
    this.watch.finish(facts.endT)
    return facts
  }

  /** The handlers by kind of event; kinds without one are skipped. */
  private readonly handlers: EventHandlers = {
    frame: ({ t, begin, due, presented }) => {
      this.slots.presented(t)
      this.watch.presented(t)
      this.placing.presented(t, this.frame?.moved ?? false, ({ cell, key }) => this.slots.rowOf(cell, key))
      this.frame = { begin, due, presented, work: 0, moved: false, causes: new Map() }
      this.facts.frames.push(this.frame)
    },
    work: ({ cause, ms }) => {
      this.frame!.work += ms
      this.frame!.causes.set(this.log.strings[cause]!, ms)
    },
    scroll: ({ t, top, corrected, atBound, by }) => {
      this.onScreen.pass(t)
      this.placing.scrolled(top, corrected, atBound)
      this.facts.scrolls.push({ t, top, by: isMover(by) ? by : 'rest' })
      if (this.frame) this.frame.moved = true
    },
    place: ({ t, row, top, height }) => {
      this.onScreen.pass(t)
      this.placing.placed(row, top)
      this.facts.places.push({ t, row, top, height })
    },
    create: ({ t, cell, kind }) => {
      this.facts.cells[cell] = { kind, createT: t, row: null }
    },
    bind: ({ t, cell, key, index, row, column }) => this.slots.bind(t, cell, key, index, row, column),
    recycle: ({ t, cell }) => this.slots.recycle(t, cell),
    hold: () => this.facts.heldHits++,
    claim: ({ t, id, rendition, cell, slot, index }) => this.slots.claim(t, id, rendition, cell, slot, index),
    release: ({ t, id, why }) => {
      const claim = this.facts.claims[id]!
      claim.releaseT = t
      claim.why = why
    },
    queue: ({ t, request, asset }) => this.exchanges.queue(t, request, asset, this.log.assets[asset]!.host),
    join: ({ t, claim, request }) => this.slots.join(t, claim, request),
    rank: (event) => this.watch.ranked(event.t, event.request, event.class),
    start: ({ t, request, transfer, attempt, conditional }) =>
      this.exchanges.start(t, request, transfer, attempt, conditional),
    connected: ({ t, transfer }) => {
      this.facts.transfers[transfer]!.connectedT = t
    },
    firstByte: ({ t, transfer, status, total }) =>
      Object.assign(this.facts.transfers[transfer]!, { firstByteT: t, status, total }),
    progress: ({ transfer, bytes }) => {
      this.facts.transfers[transfer]!.bytes = bytes
    },
    received: ({ t, transfer, bytes }) => {
      this.facts.reportedBytes += bytes
      this.exchanges.endTransfer(t, transfer, bytes, 'complete')
    },
    cut: ({ t, transfer, request }) => this.exchanges.cut(t, transfer, request),
    cancel: ({ t, transfer, request, bytes, inFlight, why }) => {
      if (transfer !== null) {
        this.facts.reportedBytes += bytes
        this.exchanges.endTransfer(t, transfer, bytes, 'cut')
        this.facts.transfers[transfer]!.inFlight = inFlight
      }
      this.exchanges.endRequest(t, request, 'cancelled', why)
    },
    fail: ({ t, transfer, request, bytes, reason }) => this.fail(t, transfer, request, bytes, reason),
    retry: ({ t, request, at }) => {
      this.facts.requests[request]!.retries++
      this.watch.waitsUntil(t, request, at)
    },
    refused: ({ t, request }) => this.watch.refused(t, request),
    park: ({ t, request }) => {
      this.watch.park(t, request)
      this.slots.failClaims(t, request)
    },
    unpark: ({ t, request }) => {
      this.watch.unpark(t, request)
      for (const claim of this.facts.requests[request]!.claims) this.facts.claims[claim]!.failT = null
    },
    decodeStart: ({ t, request, rendition }) => {
      this.runningDecodes.set(`${request} ${rendition}`, t)
      this.facts.decodePeak = Math.max(this.facts.decodePeak, this.runningDecodes.size)
    },
    decodeEnd: ({ t, request, rendition, ms: us, ok }) => {
      const startT = this.runningDecodes.get(`${request} ${rendition}`) ?? t
      this.runningDecodes.delete(`${request} ${rendition}`)
      this.facts.decodes.push({ request, rendition, startT, endT: t, us, ok })
    },
    ready: ({ t, request }) => this.exchanges.endRequest(t, request, 'ready', ''),
    deliver: ({ t, claim: id, tier }) => {
      const claim = this.facts.claims[id]!
      claim.tier = tier
      claim.deliverT = t
    },
    show: ({ t, claim, rendition, cell, slot, transition }) =>
      this.slots.show(t, claim, rendition, cell, slot, transition),
    standIn: ({ t, cell, slot }) => this.slots.standIn(t, cell, slot),
    wrong: ({ t, cell, rendition, slot }) => this.slots.wrong(t, cell, rendition, slot),
    clear: ({ t, cell, slot }) => this.slots.clear(t, cell, slot),
    evict: ({ t, rendition }) => this.facts.evictions.push({ t, rendition }),
    diskAsk: ({ t, request }) => this.watch.left(t, request),
    diskMiss: ({ t, request }) => this.watch.back(t, request),
    diskRead: ({ request }) => {
      this.facts.requests[request]!.fromDisk = true
    },
    diskWrite: ({ t, bytes }) => this.facts.disk.push({ t, bytes, written: true }),
    diskEvict: ({ t, bytes }) => this.facts.disk.push({ t, bytes: -bytes, written: false }),
    jump: ({ t, row, dp: units }) => {
      this.placing.jumped(row, units)
      this.facts.jumps.push({ t, row, units })
    },
    enter: ({ t, cell, slot, key, geometry }) => this.slots.enter(t, cell, slot, key, geometry),
    leave: ({ t, cell, slot }) => this.slots.leave(t, cell, slot),
    slotFrame: ({ t, cell, slot, geometry }) => this.slots.slotFrame(t, cell, slot, geometry),
    screen: ({ t, height }) => this.onScreen.turned(t, height),
    restrain: ({ t, on }) => this.watch.restrained(t, on),
    memory: ({ t, tier, resident, bound, garbage }) =>
      this.facts.memory.push({ t, tier, resident: resident * 1000, bound: bound * 1000, garbage: garbage * 1000 }),
    collect: ({ t, ms: us, asked }) => this.facts.collections.push({ t, us, asked }),
    use: ({ t, claim, rendition }) => this.facts.uses.push({ t, claim, rendition }),
    busy: ({ t, thread, ms: us }) => this.facts.busy.push({ t, thread, us }),
    relief: ({ t }) => this.facts.reliefs.push(t),
    edit: ({ anchor }) => {
      this.facts.edits++
      const exposure = anchor === null ? null : this.slots.firstExposureOf(anchor)
      if (anchor !== null && exposure) this.placing.edited(anchor, exposure.key, exposure.row)
    },
    scope: ({ which, state }) => {
      if (which === this.log.head.screen) this.placing.covered(state !== 'active')
    },
    note: ({ t, text }) => this.facts.notes.push({ t, text }),
    end: ({ why }) => {
      this.facts.endWhy = why
    },
  }

  private fail(t: number, transfer: number | null, request: number | null, bytes: number, reason: string): void {
    const { facts } = this
    if (transfer !== null) {
      // One that arrived complete and could not be decoded has been counted already.
      if (facts.transfers[transfer]!.end === 'open') facts.reportedBytes += bytes
      this.exchanges.endTransfer(t, transfer, bytes, 'failed')
      facts.transfers[transfer]!.end = 'failed'
    }
    if (request !== null) {
      this.exchanges.endRequest(t, request, 'failed', reason)
      this.slots.assetFailed(facts.requests[request]!.asset, reason)
      this.slots.failClaims(t, request)
    } else if (transfer !== null) this.watch.back(t, facts.transfers[transfer]!.request)
  }
}
