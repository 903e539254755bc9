import { zipSync } from 'fflate'
import { listPixels } from '../../live/cell-pixels.ts'
import type { StoredLog, StoredRun } from '../store/database.ts'
import { openPlayed } from './played-run.ts'

interface ClipOrder {
  run: StoredRun
  kept: StoredLog
  as: 'png' | 'webm'
  fromMs: number
  signal: AbortSignal
  progress: (share: number) => void
}

/** The longest clip, ms, and its pictures a second. */
const longestMs = 10_000
const perSecond = 10
/** px of the clip for one dp. */
const scale = 1

/** Takes the pictures of a clip one after the other, and makes a file of them. */
interface Film {
  add(picture: ImageData): Promise<void>
  finish(): Promise<Blob>
  /** Releases what the film holds when it is not finished. */
  cancel(): Promise<void>
}

/** Draws the run's screen moment by moment: a film that plays at the run's own pace, or its pictures in a zip file. */
export async function recordClip({ run, kept, as, fromMs, signal, progress }: ClipOrder): Promise<Blob> {
  const film = as === 'png' ? zipFilm() : await webmFilm()
  const played = await openPlayed(run, kept, () => scale)
  const stage = document.createElement('div')
  // Canvases are only drawn while they are in the page.
  stage.style.cssText = 'position: fixed; left: -10000px; top: 0; contain: strict; overflow: hidden;'
  stage.style.width = `${played.widthDp}px`
  stage.style.height = `${played.heightDp}px`
  stage.append(played.list.element)
  document.body.append(stage)
  let isFinished = false
  try {
    const toMs = Math.min(kept.map.endMs, fromMs + longestMs)
    const count = Math.max(1, Math.ceil(((toMs - fromMs) / 1000) * perSecond))
    for (let n = 0; n < count; n++) {
      signal.throwIfAborted()
      await played.list.show(await played.screenAt(fromMs + (n * 1000) / perSecond))
      await film.add(await listPixels(stage, { widthDp: played.widthDp, heightDp: played.heightDp, scale }))
      progress((n + 1) / count)
    }
    const blob = await film.finish()
    isFinished = true
    return blob
  } finally {
    if (!isFinished) await film.cancel()
    stage.remove()
    await played.list.close()
  }
}

function zipFilm(): Film {
  const files: Record<string, [Uint8Array, { level: 0 }]> = {}
  let count = 0
  return {
    async add(picture) {
      const blob = await canvasOf(picture).convertToBlob()
      // PNG is compressed already.
      files[`${String(count++).padStart(3, '0')}.png`] = [new Uint8Array(await blob.arrayBuffer()), { level: 0 }]
    },
    finish: () => Promise.resolve(new Blob([zipSync(files) as Uint8Array<ArrayBuffer>], { type: 'application/zip' })),
    cancel: () => Promise.resolve(),
  }
}

/** Pictures are encoded as they are drawn, however long that takes: each stands for its tenth of a second. */
async function webmFilm(): Promise<Film> {
  const { BufferTarget, Output, QUALITY_HIGH, VideoSample, VideoSampleSource, WebMOutputFormat } =
    await import('mediabunny')
  const target = new BufferTarget()
  const output = new Output({ format: new WebMOutputFormat(), target })
  const source = new VideoSampleSource({ codec: 'vp8', bitrate: QUALITY_HIGH })
  output.addVideoTrack(source, { frameRate: perSecond })
  await output.start()
  let count = 0
  return {
    async add(picture) {
      const sample = new VideoSample(canvasOf(picture), { timestamp: count++ / perSecond, duration: 1 / perSecond })
      await source.add(sample)
      sample.close()
    },
    async finish() {
      await output.finalize()
      return new Blob([target.buffer!], { type: 'video/webm' })
    },
    cancel: () => output.cancel(),
  }
}

function canvasOf(picture: ImageData): OffscreenCanvas {
  const canvas = new OffscreenCanvas(picture.width, picture.height)
  canvas.getContext('2d')!.putImageData(picture, 0, 0)
  return canvas
}
