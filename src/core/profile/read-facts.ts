import { kindNames, movers, type EventKind } from '../log/event-kinds.ts'
import type { RunLog } from '../log/run-log.ts'
import { Exchanges } from './exchanges.ts'
import { emptyFacts, type CellFact, type ClaimFact, type ExposureFact, type Facts, type FrameFact } from './facts.ts'
import { OnScreen } from './on-screen.ts'
import { PlaceWatch } from './place-watch.ts'
import { QueueWatch } from './queue-watch.ts'

/** Most slots of one cell: room in the packed number of a slot of a cell. */
const slotRoom = 8

/** What is known of one slot of one cell while the log is read. */
interface Place {
  claim: number
  exposure: ExposureFact | null
  /** The claim and key whose picture it shows, −1 for none. */
  shownClaim: number
  shownKey: number
  shownRendition: number
  wrong: Facts['wrongs'][number] | null
}

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
  private readonly places: Place[] = []
  private readonly keys: number[] = []
  private readonly indices: number[] = []
  private readonly rows: number[] = []
  /** Where cells stand since they were bound last. */
  private readonly stands: { row: number; column: number }[] = []
  private readonly failedAssets = new Map<number, string>()
  private readonly boundCells = new Set<number>()
  private readonly boundNow = new Map<number, number>()
  private readonly runningDecodes = new Map<string, number>()
  private frame: FrameFact | null = null
  constructor(log: RunLog) {
    this.log = log
    this.facts = emptyFacts(log)
    this.watch = new QueueWatch(log.head.policy, this.facts)
    this.placing = new PlaceWatch(this.facts)
    this.onScreen = new OnScreen(log, this.placing)
    this.exchanges = new Exchanges(this.facts, this.watch)
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
    this.onScreen.pass(facts.endT)
    for (const exposure of this.onScreen.all) this.close(exposure, facts.endT)
    for (const place of this.places) if (place?.wrong) place.wrong.endT = facts.endT
    this.exchanges.finish(facts.endT)
    this.watch.finish(facts.endT)
    return facts
  }

  /** What each kind of event does; kinds that say nothing here are passed over. */
  private readonly handlers: Partial<Record<EventKind, Handler>> = {
    frame: (t, a, b, c) => {
      this.watch.presented(t)
      this.placing.presented(t, this.frame?.moved ?? false, ({ cell, key }) =>
        this.keys[cell] === key && this.boundCells.has(cell) ? this.rows[cell]! : null,
      )
      this.frame = { begin: t + c, due: t + a, presented: t + b, work: 0, moved: false, causes: new Map() }
      this.facts.frames.push(this.frame)
    },
    work: (_t, a, b) => {
      this.frame!.work += b
      this.frame!.causes.set(this.text(a), b)
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
      this.facts.bindTimes.push(t)
      this.facts.bindRows.push(d)
      this.facts.itemPlaces.set(c, (this.stands[a] = { row: d, column: x - 1 }))
      this.bind(a, b, c, d)
    },
    recycle: (_t, a) => {
      this.recycle(a)
    },
    hold: () => {
      this.facts.heldHits++
    },
    claim: (t, a, b, c, d, x) => {
      this.claim(t, a, b, c, d, x)
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
      this.join(t, a, b)
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
      this.exchanges.endTransfer(t, a, b, 'complete')
    },
    cut: (t, a, b) => {
      this.exchanges.cut(t, a, b)
    },
    cancel: (t, a, b, c, d, x) => {
      if (a >= 0) {
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
      this.watch.park(t, a)
    },
    park: (t, a) => {
      this.watch.park(t, a)
      this.failClaims(t, a)
    },
    unpark: (t, a) => {
      this.watch.unpark(t, a)
      for (const claim of this.facts.requests[a]!.claims) this.facts.claims[claim]!.failT = -1
    },
    decodeStart: (t, a, b) => {
      this.runningDecodes.set(`${a} ${b}`, t)
      this.facts.decodePeak = Math.max(this.facts.decodePeak, this.runningDecodes.size)
    },
    decodeEnd: (t, a, b, c, d) => {
      const startT = this.runningDecodes.get(`${a} ${b}`) ?? t
      this.runningDecodes.delete(`${a} ${b}`)
      this.facts.decodes.push({ request: a, rendition: b, startT, endT: t, us: c, ok: d === 1 })
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
      this.show(t, a, b, c * slotRoom + d, x === 1)
    },
    wrong: (t, a, b, c) => {
      const place = this.place(a * slotRoom + c)
      if (place.wrong) place.wrong.endT = t
      this.facts.wrongs.push((place.wrong = { t, endT: t, cell: a, rendition: b }))
      place.shownClaim = -1
    },
    clear: (t, a, b) => {
      this.clear(t, a, b)
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
      this.enter(t, a, b, c, d)
    },
    leave: (t, a, b) => {
      this.onScreen.pass(t)
      const place = this.place(a * slotRoom + b)
      if (place.exposure) this.close(place.exposure, t)
      place.exposure = null
    },
    memory: (t, a, b, c, _d, x) => {
      this.facts.memory.push({ t, tier: x, resident: a * 1000, bound: b * 1000, garbage: c * 1000 })
    },
    collect: (t, a, _b, c) => {
      this.facts.collections.push({ t, us: a, asked: c === 1 })
    },
    use: (t, _a, b) => {
      this.facts.uses.push({ t, rendition: b })
    },
    relief: (t) => {
      this.facts.reliefs.push(t)
    },
    edit: (_t, _a, _b, _c, _d, x) => {
      this.facts.edits++
      const exposure = this.places[x * slotRoom]?.exposure
      if (x >= 0 && exposure) this.placing.edited(x, exposure.key, exposure.row)
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

  private place(number: number): Place {
    return (this.places[number] ??= {
      claim: -1,
      exposure: null,
      shownClaim: -1,
      shownKey: -1,
      shownRendition: -1,
      wrong: null,
    })
  }

  private bind(cell: number, key: number, index: number, row: number): void {
    const { facts } = this
    facts.binds++
    this.keys[cell] = key
    this.indices[cell] = index
    this.rows[cell] = row
    for (let slot = 0; slot < slotRoom; slot++) {
      const exposure = this.places[cell * slotRoom + slot]?.exposure
      if (exposure?.key !== key) continue
      exposure.index = index
      exposure.row = row
    }
    const fact = facts.cells[cell] as CellFact
    if (fact.row < 0) fact.row = row
    if (this.boundCells.has(cell)) return
    this.boundCells.add(cell)
    const now = (this.boundNow.get(fact.kind) ?? 0) + 1
    this.boundNow.set(fact.kind, now)
    facts.boundPeaks.set(fact.kind, Math.max(now, facts.boundPeaks.get(fact.kind) ?? 0))
  }

  private recycle(cell: number): void {
    if (this.boundCells.delete(cell)) {
      const { kind } = this.facts.cells[cell]!
      this.boundNow.set(kind, this.boundNow.get(kind)! - 1)
    }
    for (let slot = 0; slot < slotRoom; slot++) {
      const place = this.places[cell * slotRoom + slot]
      if (place) place.claim = -1
    }
  }

  private claim(t: number, id: number, rendition: number, cell: number, slot: number, index: number): void {
    const fact: ClaimFact = {
      id,
      rendition,
      cell,
      slot,
      index,
      row: -1,
      column: -1,
      ...(cell < 0 ? null : this.stands[cell]),
      t,
      releaseT: -1,
      why: '',
      request: -1,
      tier: '',
      deliverT: -1,
      failT: -1,
    }
    this.facts.claims[id] = fact
    if (this.failedAssets.has(this.log.renditions[rendition]!.asset)) fact.failT = t
    if (cell < 0) return
    const place = this.place(cell * slotRoom + slot)
    place.claim = id
    // The leave of the former item is presented only later: its exposure keeps its own claim.
    if (place.exposure && place.exposure.key === this.keys[cell]) {
      place.exposure.claim = id
      place.exposure.rendition = rendition
    }
  }

  private join(t: number, claim: number, request: number): void {
    const fact = this.facts.claims[claim]!
    fact.request = request
    this.facts.requests[request]!.claims.push(claim)
    if (this.watch.isParked(request)) fact.failT = t
  }

  private fail(t: number, transfer: number, request: number, bytes: number, reason: string): void {
    const { facts } = this
    const owner = request >= 0 ? request : facts.transfers[transfer]!.request
    if (transfer >= 0) {
      this.exchanges.endTransfer(t, transfer, bytes, 'failed')
      facts.transfers[transfer]!.end = 'failed'
    }
    if (request >= 0) {
      this.exchanges.endRequest(t, request, 'failed', reason)
      this.failedAssets.set(facts.requests[request]!.asset, reason)
    } else {
      this.watch.back(t, owner)
      return
    }
    this.failClaims(t, owner)
  }

  private failClaims(t: number, owner: number): void {
    const { facts } = this
    for (const claim of facts.requests[owner]!.claims) {
      const fact = facts.claims[claim]!
      if (fact.deliverT < 0 && fact.failT < 0) fact.failT = t
      const exposure = fact.cell < 0 ? null : this.place(fact.cell * slotRoom + fact.slot).exposure
      if (exposure && exposure.claim === claim && exposure.shownT < 0 && exposure.failT < 0) exposure.failT = t
    }
  }

  private show(t: number, claim: number, rendition: number, number: number, transition: boolean): void {
    this.onScreen.pass(t)
    const place = this.place(number)
    const key = this.keys[Math.floor(number / slotRoom)]!
    const again = place.shownKey === key && place.shownClaim >= 0
    if (again && transition && place.shownRendition === rendition) this.facts.flickers.push(t)
    if (place.claim !== claim) return
    if (place.wrong) place.wrong.endT = t
    place.wrong = null
    place.shownClaim = claim
    place.shownKey = key
    place.shownRendition = rendition
    const { exposure } = place
    if (exposure && exposure.shownT < 0) {
      exposure.shownT = t
      exposure.rendition = rendition
    }
  }

  private clear(t: number, cell: number, slot: number): void {
    this.onScreen.pass(t)
    const place = this.place(cell * slotRoom + slot)
    if (place.wrong) place.wrong.endT = t
    place.wrong = null
    if (place.shownClaim >= 0 && place.shownKey === this.keys[cell] && place.exposure) this.facts.flickers.push(t)
    place.shownClaim = -1
    place.shownKey = -1
    place.shownRendition = -1
  }

  private enter(t: number, cell: number, slot: number, key: number, geometry: number): void {
    this.onScreen.pass(t)
    const place = this.place(cell * slotRoom + slot)
    const claim = place.claim < 0 ? null : this.facts.claims[place.claim]!
    const ready = claim !== null && place.shownClaim === claim.id
    const exposure: ExposureFact = {
      cell,
      slot,
      key,
      index: this.indices[cell]!,
      row: this.rows[cell]!,
      geometry,
      enterT: t,
      leaveT: -1,
      claim: claim?.id ?? -1,
      rendition: claim?.rendition ?? -1,
      shownT: ready ? t : -1,
      failT: claim && claim.failT >= 0 ? t : -1,
      outcome: 'unseen',
      areaTime: 0,
      holeTime: 0,
    }
    place.exposure = exposure
    this.facts.exposures.push(exposure)
    this.onScreen.add(exposure)
  }

  private close(exposure: ExposureFact, t: number): void {
    exposure.leaveT = t
    exposure.outcome = this.outcomeOf(exposure)
    this.onScreen.delete(exposure)
  }

  private outcomeOf(exposure: ExposureFact): ExposureFact['outcome'] {
    if (exposure.claim < 0) return 'absent'
    if (exposure.shownT >= 0) return 'shown'
    const claim = this.facts.claims[exposure.claim]!
    const { asset } = this.log.renditions[claim.rendition]!
    if (this.failedAssets.get(asset) === 'bad-address') return 'absent'
    return claim.failT >= 0 ? 'failed' : 'unseen'
  }
}
