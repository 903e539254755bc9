import { AssetTable } from '../loading/asset-table.ts'
import { Loader } from '../loading/loader.ts'
import type { Claim } from '../loading/request.ts'
import type { Target } from '../loading/rendition.ts'
import { RunLog } from '../log/run-log.ts'
import { headOf } from '../simulate/simulate.ts'
import { parseProject } from '../project/parse.ts'
import { projectFormat, projectVersion } from '../project/project-schema.ts'
import type { Project } from '../project/types.ts'
import type { DecodeResult, FailReason, TransferEvents } from '../worlds/ports.ts'
import type { VectorOutput, VectorPolicy, VectorStep } from './protocol.ts'

const target: Target = { width: 100, height: 100, fit: 'cover', decodeAt: { type: 'slot' }, making: [] }
const decoded: DecodeResult = { ok: true, us: 1000, sourceWidth: 100, sourceHeight: 100, width: 100, height: 100 }
const noHints = { bytes: null, widthPx: null, heightPx: null }

interface Cell {
  claim: Claim
  address: string
}

/** Our own loader behind the protocol of the vectors: the steps determine its world and its time. */
export class VectorEngine {
  private readonly loader: Loader
  private readonly project: Project
  private readonly table: AssetTable
  private readonly cells = new Map<number, Cell>()
  /** Distances by row: each bind has a row of its own. */
  private readonly distances: number[] = []
  private readonly transfers = new Map<number, { address: string; bytes: number; responded: boolean }>()
  private readonly decodes: { address: string; ended: (result: DecodeResult) => void }[] = []
  private timers: { id: number; at: number; run: () => void }[] = []
  private timer = 0
  private now = 0
  private network: TransferEvents | null = null
  private out: VectorOutput[] = []

  constructor(policy: VectorPolicy) {
    this.project = projectOf(policy)
    const { loading, device, seed } = this.project
    const [screen] = this.project.screens
    const log = new RunLog(headOf(this.project, screen!, { world: 'simulated', seed, visit: 'first', script: '' }))
    this.table = new AssetTable(log)
    this.loader = new Loader({
      world: this.world(),
      log,
      policy: loading,
      granted: device.granted,
      seed,
      table: this.table,
      epochMs: 0,
      owner: {
        delivered: (claim) => this.out.push({ show: this.addressOf(claim.asset), cell: claim.cell! }),
        failed: (claim, reason) => this.out.push({ fail: claim.cell!, reason }),
        arriving: () => undefined,
        waiting: () => undefined,
        needFrame: () => undefined,
      },
    })
  }

  /** Does a step, and what is due until then; returns what the loader does. */
  step(step: VectorStep): VectorOutput[] {
    this.out = []
    this.pass(step.at * 1000)
    this.act(step)
    this.loader.rerank(this.view(), 0)
    this.loader.settle()
    return this.out
  }

  private act({ do: doing, cell, address, ...step }: VectorStep): void {
    switch (doing) {
      case 'bind':
        this.bind(cell!, address!, step.class ?? 0, step.distance ?? 0)
        break
      case 'recycle':
        this.release(cell!, 'recycled')
        break
      case 'place':
        this.place(cell!, step.class ?? 0, step.distance)
        break
      case 'leave':
        this.loader.suspend(this.project.loading.cancel.whenLeft, 'left')
        break
      case 'return':
        this.comeBack()
        break
      case 'close':
        for (const each of [...this.cells.keys()]) this.release(each, 'closed')
        this.loader.suspend('let-go', 'closed')
        break
      case 'decoded': {
        const at = this.decodes.findIndex((each) => each.address === address)
        if (at >= 0) this.decodes.splice(at, 1)[0]!.ended(decoded)
        break
      }
      case 'tick':
        break
      default:
        this.answerNetwork(doing, address!, step)
    }
  }

  private answerNetwork(
    doing: 'responded' | 'progress' | 'received' | 'failed',
    address: string,
    { bytes = 0, total, reason, status, retryAfterS }: Partial<VectorStep>,
  ): void {
    const found = [...this.transfers].find(([, transfer]) => transfer.address === address)
    if (!found) return
    const [id, transfer] = found
    const respond = () => {
      if (transfer.responded) return
      transfer.responded = true
      const headers: Record<string, string> = retryAfterS === undefined ? {} : { 'retry-after': String(retryAfterS) }
      this.network!.firstByte(id, { status: status ?? 200, total: total ?? null, type: 'image/webp', headers })
    }
    switch (doing) {
      case 'responded':
        respond()
        break
      case 'progress':
        respond()
        transfer.bytes = bytes
        this.network!.progress(id, bytes)
        break
      case 'received':
        respond()
        this.transfers.delete(id)
        this.network!.done(id, bytes)
        break
      case 'failed':
        if (reason === 'status') respond()
        this.transfers.delete(id)
        if (reason === 'status') this.network!.done(id, bytes)
        else this.network!.failed(id, transfer.bytes, reason as FailReason)
    }
  }

  private bind(cell: number, address: string, rank: number, distance: number): void {
    this.release(cell, 'rebound')
    const asset = this.table.asset(address, address, 'pictures.example.test', noHints)
    const row = this.distances.push(distance) - 1
    const claim = this.loader.claim(
      {
        rendition: this.table.rendition(asset, target),
        cell,
        slot: 0,
        index: row,
        row,
        priority: 1,
        refused: null,
        later: rank === 3,
      },
      rank === 0,
    )
    claim.held = rank === 2
    this.cells.set(cell, { claim, address })
  }

  private place(cell: number, rank: number, distance: number | undefined): void {
    const bound = this.cells.get(cell)
    if (!bound) return
    const { claim } = bound
    Object.assign(claim, { onScreen: rank === 0, held: rank === 2, later: rank === 3 })
    if (distance !== undefined) this.distances[claim.row] = distance
  }

  private release(cell: number, why: string): void {
    const bound = this.cells.get(cell)
    if (!bound) return
    this.cells.delete(cell)
    this.loader.release(bound.claim, why)
  }

  /** What was let go when the screen was left is requested again. */
  private comeBack(): void {
    this.loader.resume()
    for (const [cell, { claim, address }] of [...this.cells])
      if (claim.state === 'open' && claim.request?.state === 'cancelled') {
        const { onScreen, held, later, row } = claim
        const rank = [onScreen, false, held, later].indexOf(true)
        this.bind(cell, address, rank < 0 ? 1 : rank, this.distances[row]!)
      }
  }

  private view() {
    return { centre: 0, direction: 1 as const, centreOfRow: (row: number) => this.distances[row] ?? 0 }
  }

  private addressOf(asset: number): string {
    return this.table.hrefs[asset]!
  }

  /** Runs what is due until an instant, µs, each at its own. */
  private pass(until: number): void {
    for (;;) {
      const next = this.timers
        .filter(({ at }) => at <= until)
        .sort((one, other) => one.at - other.at || one.id - other.id)[0]
      if (!next) break
      this.timers = this.timers.filter((each) => each !== next)
      this.now = Math.max(this.now, next.at)
      next.run()
    }
    this.now = Math.max(this.now, until)
  }

  private world(): ConstructorParameters<typeof Loader>[0]['world'] {
    return {
      clock: {
        now: () => this.now,
        at: (at, run) => {
          this.timers.push({ id: ++this.timer, at: Math.max(at, this.now), run })
          return this.timer
        },
        cancel: (timer) => {
          this.timers = this.timers.filter(({ id }) => id !== timer)
        },
      },
      network: {
        listen: (events) => {
          this.network = events
        },
        start: ({ transfer, address }) => {
          this.transfers.set(transfer, { address, bytes: 0, responded: false })
          this.out.push({ start: address })
          this.network!.connected(transfer)
        },
        received: (transfer) => this.transfers.get(transfer)?.bytes ?? 0,
        lastByteAt: () => 0,
        abort: (transfer, onCut) => {
          const { address, bytes } = this.transfers.get(transfer)!
          this.transfers.delete(transfer)
          this.out.push({ cancel: address })
          onCut(bytes, 0)
        },
        renew: (_host, answered) => answered(false),
      },
      decoder: {
        start: ({ asset }, ended) => {
          this.decodes.push({ address: this.addressOf(asset), ended })
          this.out.push({ decode: this.addressOf(asset) })
        },
        prepareMain: (_order, ready) => ready(),
        onMain: () => decoded,
        drop: () => undefined,
        dropBody: () => undefined,
      },
      disk: {
        read: (_asset, _request, _bytes, done) => done(false),
        local: (_asset, _request, _bytes, done) => done(false),
        write: () => undefined,
        renew: () => undefined,
        remove: () => undefined,
      },
      heap: { churn: () => undefined, garbage: () => 0, collect: () => null },
    }
  }
}

/** A project whose loader has these rules; everything that the protocol does not mention is switched off. */
function projectOf(policy: VectorPolicy): Project {
  const { fetchSlots, order, agingMs, cancel, keepAbove, share, guard, whenLeft, retry } = policy
  const parsed = parseProject({
    format: projectFormat,
    version: projectVersion,
    name: 'vectors',
    screens: [{ id: 'main' }],
    loading: {
      fetchSlots,
      fetchSlotsPerHost: 64,
      order,
      agingMs,
      decodeWorkers: 16,
      guard,
      share,
      cancel: { when: cancel, keepAbove, whenLeft },
      diskMb: 0,
      ahead: { amount: 0 },
      retry: { ...retry, jitter: 0 },
      timeoutMs: 600_000,
    },
  })
  if (!parsed.ok) throw new Error(parsed.message)
  return parsed.project
}
