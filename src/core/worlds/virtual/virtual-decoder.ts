import type { AssetTable } from '../../loading/asset-table.ts'
import { decodedSize, isVideo, maxPixels, type Making } from '../../loading/rendition.ts'
import type { Device } from '../../project/types.ts'
import { tileFrameMs } from '../../feed/tiles.ts'
import type { Clock, DecodeOrder, DecodeResult, Decoder } from '../ports.ts'
import type { Reply } from '../../network/reply.ts'

/** Decoders that take the time of the device's costs; their result is a size, without pixels. */
export class VirtualDecoder implements Decoder {
  private readonly clock: Clock
  private readonly device: Device
  private readonly table: AssetTable
  private readonly replyFor: (asset: number) => Reply

  constructor(clock: Clock, device: Device, table: AssetTable, replyFor: (asset: number) => Reply) {
    this.clock = clock
    this.device = device
    this.table = table
    this.replyFor = replyFor
  }

  start(order: DecodeOrder, ended: (result: DecodeResult) => void): void {
    const result = this.decode(order)
    this.clock.at(this.clock.now() + result.us, () => ended(result))
  }

  prepareMain(_order: DecodeOrder, ready: () => void): void {
    ready()
  }

  onMain(order: DecodeOrder): DecodeResult {
    return this.decode(order)
  }

  drop(): void {}

  dropBody(): void {}

  /**
   * decodeMs + source px × ns (× reducedFactor when the target is half or less each way), + treatments; once for each
   * frame of a picture that plays, and after seeking where the frame is cut from a video.
   */
  private decode(order: DecodeOrder): DecodeResult {
    const { costs, speed } = this.device
    const reply = this.replyFor(order.asset)
    const source = { width: reply.width, height: reply.height }
    if (reply.fault?.kind === 'broken' || (reply.bytes === 0 && reply.status !== 304) || source.width === 0)
      return { ok: false, us: Math.round((costs.decodeMs * 1000) / speed), reason: 'undecodable' }
    if (source.width * source.height > maxPixels) return { ok: false, us: 0, reason: 'too-large' }
    const target = this.table.targets[order.rendition]!
    const made = decodedSize(source, target)
    const reduced = made.width * 2 <= source.width && made.height * 2 <= source.height
    let ms = (source.width * source.height * costs.decodeNsPerPx[reply.codec]) / 1e6
    if (reduced) ms *= costs.reducedFactor
    ms += costs.decodeMs + treatmentMs(target.making, made.width * made.height, costs)
    const frames = target.moments === 'all' ? (reply.frames ?? 1) : 1
    ms *= frames
    if (typeof target.moments === 'object' && isVideo(this.table.hrefs[order.asset]!)) ms += costs.seekMs
    const us = Math.round((ms * 1000) / speed)
    const { width, height } = made
    const still = { ok: true as const, us, sourceWidth: source.width, sourceHeight: source.height, width, height }
    return frames > 1 ? { ...still, frames, frameMs: reply.frameMs ?? tileFrameMs } : still
  }
}

function treatmentMs(making: readonly Making[], px: number, costs: Device['costs']): number {
  const rates = costs.treatNsPerPx
  return making.reduce((ms, { type }) => ms + (px * rates[type === 'shape' ? 'corners' : type]) / 1e6, 0)
}
