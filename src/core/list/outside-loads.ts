import { classify, sameAs } from '../feed/address.ts'
import type { Claim, Tier } from '../loading/request.ts'
import type { Us } from '../worlds/ports.ts'
import type { ListState } from './list-state.ts'
import { baseOf } from './pictures.ts'

/** State of a load outside the list. px of the picture, bytes of its body, ms since it was requested. */
export type OutsideUpdate =
  | { is: 'waiting' }
  | { is: 'arriving'; received: number; total: number | null }
  | { is: 'used'; tier: Tier; address: string; width: number; height: number; bytes: number; ms: number }
  | { is: 'failed'; reason: string; status: number | null; address: string; ms: number }
  | { is: 'interrupted'; ms: number }

interface Waiting {
  since: Us
  report: (update: OutsideUpdate) => void
}

/** Pictures that are loaded for another use than the list: at a fixed size, without being shown. */
export class OutsideLoads {
  private readonly list: ListState
  private readonly waiting = new Map<number, Waiting>()
  /** The load whose claim is being made: memory answers before the claim has an id. */
  private asking: Waiting | null = null

  constructor(list: ListState) {
    this.list = list
  }

  /** Requests a picture whose longer side has at most so many px. */
  load(text: string, px: number, report: (update: OutsideUpdate) => void = () => undefined): void {
    const { loader, layout, top, height, parts, world } = this.list
    const { screen, table } = parts
    const address = classify(text, baseOf(screen))
    const asset = table.asset(sameAs(address.href, screen.feed.sameIgnoring), address.href, address.host, {
      bytes: null,
      widthPx: null,
      heightPx: null,
    })
    const rendition = table.rendition(asset, {
      width: px,
      height: px,
      fit: 'contain',
      decodeAt: { type: 'fixed', px },
      making: [],
    })
    const refused = address.class === 'good' || address.class === 'cleartext' ? null : 'bad-address'
    const row = layout.rowAt(top + height / 2) ?? 0
    this.asking = { since: world.clock.now(), report }
    report({ is: 'waiting' })
    const claim = loader.claim(
      { rendition, cell: null, slot: null, index: null, row, priority: 1, refused, scope: 'app' },
      false,
    )
    if (claim.state === 'open') this.waiting.set(claim.id, this.asking)
    this.asking = null
  }

  /** The picture is there: it is used, and nothing in the list holds it. */
  delivered(claim: Claim, tier: Tier): void {
    const { log, world, loader, parts } = this.list
    log.events.use(world.clock.now(), { claim: claim.id, rendition: claim.rendition })
    loader.release(claim, 'used')
    const { width, height } = parts.table.renditions[claim.rendition]!
    const { address, bytes } = parts.table.assets[claim.asset]!
    this.finish(claim, (ms) => ({ is: 'used', tier, address, width, height, bytes, ms }))
  }

  failed(claim: Claim, reason: string): void {
    const { loader, parts } = this.list
    const { address } = parts.table.assets[claim.asset]!
    const status = reason === 'status' ? (claim.request?.status ?? loader.statusOf(claim.asset) ?? null) : null
    this.finish(claim, (ms) => ({ is: 'failed', reason, status, address, ms }))
  }

  arriving(claim: Claim, received: number, total: number | null): void {
    this.waiting.get(claim.id)?.report({ is: 'arriving', received, total })
  }

  /** The run ends: loads that still wait are interrupted. */
  interrupt(): void {
    const now = this.list.world.clock.now()
    for (const { since, report } of this.waiting.values()) report({ is: 'interrupted', ms: (now - since) / 1000 })
    this.waiting.clear()
  }

  private finish(claim: Claim, update: (ms: number) => OutsideUpdate): void {
    const waiting = this.waiting.get(claim.id) ?? this.asking
    this.waiting.delete(claim.id)
    waiting?.report(update((this.list.world.clock.now() - waiting.since) / 1000))
  }
}
