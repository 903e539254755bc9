import { kindNames, movers, type EventKind } from '../../log/event-kinds.ts'
import type { RunLog } from '../../log/run-log.ts'
import { Exchanges } from './exchanges.ts'
import { emptyFacts, type Facts, type FrameFact } from './facts.ts'
import { OnScreen } from './on-screen.ts'
import { PlaceWatch } from './place-watch.ts'
import { QueueWatch } from './queue-watch.ts'
import { Slots } from './slots.ts'

/** Reads a log from front to back, once, and puts what happened in order. */
export function readFacts(log: RunLog): Facts {
  return new Reader(log).read()
}

type Handler = (t: number, a: number, b: number, c: number, d: number, x: number) => void

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
    const byKind = kindNames.map((name) => this.handlers[name] ?? null)
    this.log.each((chunk, row) =>
      byKind[chunk.kind[row]!]?.(
        chunk.t[row]!,
        chunk.a[row]!,
        chunk.b[row]!,
        chunk.c[row]!,
        chunk.d[row]!,
        chunk.x[row]!,
      ),
    )
    const { facts } = this
    facts.endT = this.log.endTime
    this.slots.finish(facts.endT)
    for (const { end, bytes } of facts.transfers) if (end === 'open') facts.toldBytes += bytes
    this.exchanges.finish(facts.endT)
    this.watch.finish(facts.endT)
    return facts
  }

  /** What each kind of event does; kinds that say nothing here are passed over. */
  private readonly handlers: Partial<Record<EventKind, Handler>> = {
    frame: (t, _a, b, c, _d, x) => {
      this.slots.presented(t)
      this.watch.presented(t)
      this.placing.presented(t, this.frame?.moved ?? false, ({ cell, key }) => this.slots.rowOf(cell, key))
      this.frame = { begin: t + x + c, due: t + x, presented: t + b, work: 0, moved: false, causes: new Map() }
      this.facts.frames.push(this.frame)
    },
    work: (_t, a, _b, _c, _d, x) => {
      this.frame!.work += x
      this.frame!.causes.set(this.text(a), x)
    },
    scroll: (t, _a, b, c, d, x) => {
      this.onScreen.pass(t)
      this.placing.scrolled(x, b, c === 1)
      this.facts.scrolls.push({ t, top: x, by: movers.find((each) => each === this.text(d)) ?? 'rest' })
      if (this.frame) this.frame.moved = true
    },
    place: (t, a, b, _c, _d, x) => {
      this.onScreen.pass(t)
      this.placing.placed(a, x)
      this.facts.places.push({ t, row: a, top: x, height: b })
    },
    create: (t, a, b) => {
      this.facts.cells[a] = { kind: b, createT: t, row: -1 }
    },
    bind: (t, a, b, c, d, x) => {
      this.slots.bind(t, a, b, c, d, x - 1)
    },
    recycle: (t, a) => {
      this.slots.recycle(t, a)
    },
    hold: () => {
      this.facts.heldHits++
    },
    claim: (t, a, b, c, d, x) => {
      this.slots.claim(t, a, b, c, d, x)
    },
    release: (t, a, b) => {
      const claim = this.facts.claims[a]!
      claim.releaseT = t
      claim.why = this.text(b)
    },
    queue: (t, a, b) => {
      this.exchanges.queue(t, a, b, this.log.assets[b]!.host)
    },
    join: (t, a, b) => {
      this.slots.join(t, a, b)
    },
    rank: (t, a, b) => {
      this.watch.ranked(t, a, b)
    },
    start: (t, a, b, c, d) => {
      this.exchanges.start(t, a, b, c, d === 1)
    },
    firstByte: (t, a, b, c) => {
      const transfer = this.facts.transfers[a]!
      transfer.firstByteT = t
      transfer.status = b
      transfer.total = c
    },
    progress: (_t, a, b) => {
      this.facts.transfers[a]!.bytes = b
    },
    received: (t, a, b) => {
      this.facts.toldBytes += b
      this.exchanges.endTransfer(t, a, b, 'complete')
    },
    cut: (t, a, b) => {
      this.exchanges.cut(t, a, b)
    },
    cancel: (t, a, b, c, d, x) => {
      if (a >= 0) {
        this.facts.toldBytes += c
        this.exchanges.endTransfer(t, a, c, 'cut')
        this.facts.transfers[a]!.inFlight = d
      }
      this.exchanges.endRequest(t, b, 'cancelled', this.text(x))
    },
    fail: (t, a, b, c, d) => {
      this.fail(t, a, b, c, this.text(d))
    },
    retry: (t, a, _b, _c, _d, x) => {
      this.facts.requests[a]!.retries++
      this.watch.waitsUntil(t, a, x)
    },
    refused: (t, a) => {
      this.watch.refused(t, a)
    },
    park: (t, a) => {
      this.watch.park(t, a)
      this.slots.failClaims(t, a)
    },
    unpark: (t, a) => {
      this.watch.unpark(t, a)
      for (const claim of this.facts.requests[a]!.claims) this.facts.claims[claim]!.failT = -1
    },
    decodeStart: (t, a, b) => {
      this.runningDecodes.set(`${a} ${b}`, t)
      this.facts.decodePeak = Math.max(this.facts.decodePeak, this.runningDecodes.size)
    },
    decodeEnd: (t, a, b, _c, d, x) => {
      const startT = this.runningDecodes.get(`${a} ${b}`) ?? t
      this.runningDecodes.delete(`${a} ${b}`)
      this.facts.decodes.push({ request: a, rendition: b, startT, endT: t, us: x, ok: d === 1 })
    },
    ready: (t, a) => {
      this.exchanges.endRequest(t, a, 'ready', '')
    },
    deliver: (t, a, b) => {
      const claim = this.facts.claims[a]!
      claim.tier = this.text(b)
      claim.deliverT = t
    },
    show: (t, a, b, c, d, x) => {
      this.slots.show(t, a, b, c, d, x === 1)
    },
    standIn: (t, a, _b, c) => {
      this.slots.standIn(t, a, c)
    },
    wrong: (t, a, b, c) => {
      this.slots.wrong(t, a, b, c)
    },
    clear: (t, a, b) => {
      this.slots.clear(t, a, b)
    },
    evict: (t, a) => {
      this.facts.evictions.push({ t, rendition: a })
    },
    diskAsk: (t, a) => {
      this.watch.left(t, a)
    },
    diskMiss: (t, a) => {
      this.watch.back(t, a)
    },
    diskRead: (_t, _a, _b, c) => {
      this.facts.requests[c]!.fromDisk = true
    },
    diskWrite: (t, _a, b) => {
      this.facts.disk.push({ t, bytes: b, written: true })
    },
    diskEvict: (t, _a, b) => {
      this.facts.disk.push({ t, bytes: -b, written: false })
    },
    jump: (t, a, _b, _c, _d, x) => {
      this.placing.jumped(a, x)
      this.facts.jumps.push({ t, row: a, units: x })
    },
    enter: (t, a, b, c, d) => {
      this.slots.enter(t, a, b, c, d)
    },
    leave: (t, a, b) => {
      this.slots.leave(t, a, b)
    },
    slotFrame: (t, a, b, c) => {
      this.slots.slotFrame(t, a, b, c)
    },
    screen: (t, _a, b) => {
      this.onScreen.turned(t, b)
    },
    restrain: (t, a) => {
      this.watch.restrained(t, a === 1)
    },
    memory: (t, a, b, c, _d, x) => {
      this.facts.memory.push({ t, tier: x, resident: a * 1000, bound: b * 1000, garbage: c * 1000 })
    },
    collect: (t, _a, _b, c, _d, x) => {
      this.facts.collections.push({ t, us: x, asked: c === 1 })
    },
    use: (t, a, b) => {
      this.facts.uses.push({ t, claim: a, rendition: b })
    },
    relief: (t) => {
      this.facts.reliefs.push(t)
    },
    edit: (_t, _a, _b, _c, _d, x) => {
      this.facts.edits++
      const exposure = x < 0 ? null : this.slots.firstExposureOf(x)
      if (exposure) this.placing.edited(x, exposure.key, exposure.row)
    },
    scope: (_t, a, b) => {
      if (this.text(a) === this.log.head.screen) this.placing.covered(this.text(b) !== 'active')
    },
    note: (t, a) => {
      this.facts.notes.push({ t, text: this.text(a) })
    },
    end: (_t, a) => {
      this.facts.endWhy = this.text(a)
    },
  }

  private text(number: number): string {
    return this.log.strings[number] ?? ''
  }

  private fail(t: number, transfer: number, request: number, bytes: number, reason: string): void {
    const { facts } = this
    const owner = request >= 0 ? request : facts.transfers[transfer]!.request
    if (transfer >= 0) {
      // One that had come whole and could not be decoded has been told already.
      if (facts.transfers[transfer]!.end === 'open') facts.toldBytes += bytes
      this.exchanges.endTransfer(t, transfer, bytes, 'failed')
      facts.transfers[transfer]!.end = 'failed'
    }
    if (request >= 0) {
      this.exchanges.endRequest(t, request, 'failed', reason)
      this.slots.failedAssets.set(facts.requests[request]!.asset, reason)
    } else {
      this.watch.back(t, owner)
      return
    }
    this.slots.failClaims(t, owner)
  }
}
