import type { AssetTable } from '../core/loading/asset-table.ts'
import { decodedSize } from '../core/loading/rendition.ts'
import type { DecodeOrder, DecodeResult, Decoder } from '../core/worlds/ports.ts'
import { blobOf, type Body } from '../workers/body.ts'
import type { DecodeAnswer, DecodeJob } from '../workers/messages.ts'
import { treat } from '../workers/treat.ts'
import { IdleWorkers } from './idle-workers.ts'
import { needsPage, pageDecode } from './page-decode.ts'

export type Picture = ImageBitmap | OffscreenCanvas

/** A decoded picture that is passed from one run to the next. */
export interface HandedOver {
  picture: Picture
  frames?: ImageBitmap[]
}

const idleDecoders = new IdleWorkers(
  () => new Worker(new URL('../workers/decode-worker.ts', import.meta.url), { type: 'module' }),
  4,
)

/** Real decodes in workers; the pictures are kept here until the loader no longer needs them. */
export class LiveDecoder implements Decoder {
  readonly pictures = new Map<number, Picture>()
  /** The frames of pictures that play, first one included. */
  readonly frames = new Map<number, ImageBitmap[]>()
  private readonly bodies: Map<number, Body>
  private readonly table: AssetTable
  private readonly workers: Worker[]
  private readonly free: Worker[]
  private readonly jobs = new Map<number, { order: DecodeOrder; ended: (result: DecodeResult) => void }>()
  private readonly elements = new Map<number, HTMLImageElement>()
  private last = 0

  constructor(bodies: Map<number, Body>, table: AssetTable, workers: number) {
    this.bodies = bodies
    this.table = table
    this.workers = Array.from({ length: workers }, () => {
      const worker = idleDecoders.take()
      worker.onmessage = (event: MessageEvent<DecodeAnswer>) => this.answer(worker, event.data)
      return worker
    })
    this.free = [...this.workers]
  }

  start(order: DecodeOrder, ended: (result: DecodeResult) => void): void {
    const body = this.bodies.get(order.request)
    const worker = this.free.pop()
    if (!worker) throw new Error('more decodes were started than there are workers')
    const id = ++this.last
    this.jobs.set(id, { order, ended })
    const job: DecodeJob = { id, body: body ?? new Blob(), target: this.table.targets[order.rendition]! }
    if (!needsPage(job.body.type)) {
      worker.postMessage(job)
      return
    }
    // It counts as a busy worker all the same.
    const begun = performance.now()
    const us = () => Math.round((performance.now() - begun) * 1000)
    pageDecode(blobOf(job.body), job.target).then(
      ({ bitmap, width, height }) =>
        this.answer(worker, {
          id,
          ok: true,
          us: us(),
          bitmaps: [bitmap],
          frameMs: 0,
          sourceWidth: width,
          sourceHeight: height,
        }),
      () => this.answer(worker, { id, ok: false, us: us(), reason: 'undecodable' }),
    )
  }

  prepareMain(order: DecodeOrder, ready: () => void): void {
    const image = new Image()
    image.decoding = 'sync'
    const url = URL.createObjectURL(blobOf(this.bodies.get(order.request) ?? new Blob()))
    const over = () => {
      URL.revokeObjectURL(url)
      ready()
    }
    image.onload = over
    image.onerror = over
    image.src = url
    this.elements.set(order.request, image)
  }

  /** Drawing an image that was not decoded yet decodes it here and now. */
  onMain(order: DecodeOrder): DecodeResult {
    const start = performance.now()
    const image = this.elements.get(order.request)
    if (!image || image.naturalWidth === 0) return { ok: false, us: 0, reason: 'undecodable' }
    const source = { width: image.naturalWidth, height: image.naturalHeight }
    const target = this.table.targets[order.rendition]!
    const made = decodedSize(source, target)
    const plain = new OffscreenCanvas(made.width, made.height)
    plain.getContext('2d', { willReadFrequently: true })!.drawImage(image, 0, 0, made.width, made.height)
    const canvas = treat(plain, target) as OffscreenCanvas
    // Reading a pixel makes the browser decode and draw now, and not later.
    canvas.getContext('2d')!.getImageData(0, 0, 1, 1)
    this.keep(order.rendition, canvas)
    const us = Math.round((performance.now() - start) * 1000)
    return {
      ok: true,
      us,
      sourceWidth: source.width,
      sourceHeight: source.height,
      width: canvas.width,
      height: canvas.height,
    }
  }

  drop(rendition: number): void {
    const picture = this.pictures.get(rendition)
    this.pictures.delete(rendition)
    if (picture instanceof ImageBitmap) picture.close()
    for (const frame of this.frames.get(rendition) ?? []) frame.close()
    this.frames.delete(rendition)
  }

  /** Takes over a picture that an earlier run has decoded. */
  take(rendition: number, { picture, frames }: HandedOver): void {
    this.keep(rendition, picture)
    if (frames) this.frames.set(rendition, frames)
  }

  /** Hands a picture over: this decoder no longer closes it. */
  give(rendition: number): HandedOver | null {
    const picture = this.pictures.get(rendition)
    if (!picture) return null
    const frames = this.frames.get(rendition)
    this.pictures.delete(rendition)
    this.frames.delete(rendition)
    return frames ? { picture, frames } : { picture }
  }

  dropBody(request: number): void {
    this.bodies.delete(request)
    this.elements.delete(request)
  }

  stop(): void {
    for (const worker of this.workers) {
      if (this.free.includes(worker)) idleDecoders.give(worker)
      else worker.terminate()
    }
    for (const rendition of [...this.pictures.keys()]) this.drop(rendition)
    this.jobs.clear()
  }

  private answer(worker: Worker, answer: DecodeAnswer): void {
    this.free.push(worker)
    const job = this.jobs.get(answer.id)
    this.jobs.delete(answer.id)
    if (!job) return
    if (!answer.ok) {
      job.ended({ ok: false, us: answer.us, reason: answer.reason })
      return
    }
    const { us, bitmaps, frameMs, sourceWidth, sourceHeight } = answer
    const first = bitmaps[0]!
    this.keep(job.order.rendition, first)
    if (bitmaps.length > 1) this.frames.set(job.order.rendition, bitmaps)
    job.ended({
      ok: true,
      us,
      sourceWidth,
      sourceHeight,
      width: first.width,
      height: first.height,
      frames: bitmaps.length,
      frameMs,
    })
  }

  private keep(rendition: number, picture: Picture): void {
    this.drop(rendition)
    this.pictures.set(rendition, picture)
  }
}
