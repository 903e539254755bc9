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

/** A clip is at most so long, ms, and has so many pictures a second. */
const longestMs = 10_000
const perSecond = 10
/** px of the clip for one dp. */
const scale = 1

/** Draws the run's screen moment by moment: a film that plays at the run's own pace, or its pictures in a zip file. */
export async function recordClip({ run, kept, as, fromMs, signal, progress }: ClipOrder): Promise<Blob> {
  const played = await openPlayed(run, kept, () => scale)
  const stage = document.createElement('div')
  // Canvases are only drawn while they are in the page.
  stage.style.cssText = 'position: fixed; left: -10000px; top: 0; contain: strict; overflow: hidden;'
  stage.style.width = `${played.widthDp}px`
  stage.style.height = `${played.heightDp}px`
  stage.append(played.list.element)
  document.body.append(stage)
  try {
    const toMs = Math.min(kept.map.endMs, fromMs + longestMs)
    const count = Math.max(1, Math.ceil(((toMs - fromMs) / 1000) * perSecond))
    const pictures: ImageData[] = []
    for (let n = 0; n < count; n++) {
      signal.throwIfAborted()
      await played.list.show(await played.screenAt(fromMs + (n * 1000) / perSecond))
      pictures.push(await listPixels(stage, { widthDp: played.widthDp, heightDp: played.heightDp, scale }))
      progress(((n + 1) / count) * (as === 'png' ? 1 : 0.6))
    }
    return as === 'png'
      ? await zipped(pictures)
      : await filmed(pictures, signal, (share) => progress(0.6 + 0.4 * share))
  } finally {
    stage.remove()
    await played.list.close()
  }
}

async function zipped(pictures: readonly ImageData[]): Promise<Blob> {
  const files: Record<string, [Uint8Array, { level: 0 }]> = {}
  for (const [n, picture] of pictures.entries()) {
    const canvas = canvasOf(picture)
    const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve))
    // PNG is compressed already.
    if (blob) files[`${String(n).padStart(3, '0')}.png`] = [new Uint8Array(await blob.arrayBuffer()), { level: 0 }]
  }
  return new Blob([zipSync(files) as Uint8Array<ArrayBuffer>], { type: 'application/zip' })
}

/** The browser's recorder takes what a canvas shows while time passes: the film is made at its own pace. */
async function filmed(
  pictures: readonly ImageData[],
  signal: AbortSignal,
  progress: (share: number) => void,
): Promise<Blob> {
  const canvas = canvasOf(pictures[0]!)
  const context = canvas.getContext('2d')!
  const recorder = new MediaRecorder(canvas.captureStream(perSecond), { mimeType: 'video/webm' })
  const parts: Blob[] = []
  recorder.ondataavailable = ({ data }) => parts.push(data)
  const over = new Promise<void>((resolve) => (recorder.onstop = () => resolve()))
  recorder.start()
  for (const [n, picture] of pictures.entries()) {
    if (signal.aborted) break
    context.putImageData(picture, 0, 0)
    await new Promise((resolve) => setTimeout(resolve, 1000 / perSecond))
    progress((n + 1) / pictures.length)
  }
  recorder.stop()
  await over
  signal.throwIfAborted()
  return new Blob(parts, { type: 'video/webm' })
}

function canvasOf(picture: ImageData): HTMLCanvasElement {
  const canvas = document.createElement('canvas')
  canvas.width = picture.width
  canvas.height = picture.height
  canvas.getContext('2d')!.putImageData(picture, 0, 0)
  return canvas
}
