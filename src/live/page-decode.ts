import { decodedSize, type Size, type Target } from '../core/loading/rendition.ts'
import { treat } from '../workers/treat.ts'

/** A video that has shown no frame for this long is given up, ms. */
const longestMs = 10_000
/** A frame after a seek is drawn after this long at most, ms. */
const mostFrameMs = 500
/** When a frame that cannot be drawn yet is tried again, ms. */
const frameMs = 16
/** The size of a vector picture that names none, px. */
const vectorPx = 512

interface PageDecoded extends Size {
  bitmap: ImageBitmap
}

/** Whether only the page can decode such a body: workers have neither videos nor vector pictures. */
export const needsPage = (type: string) => type.startsWith('video/') || type.startsWith('image/svg')

/**
 * Decodes what only the page can, at the wanted px; width and height are the source's. Throws when it is no such
 * picture.
 */
export function pageDecode(body: Blob, target: Target): Promise<PageDecoded> {
  return body.type.startsWith('video/') ? cutPoster(body, target) : drawVector(body, target)
}

/** The frame of a video at the moment that the target names. */
async function cutPoster(body: Blob, target: Target): Promise<PageDecoded> {
  const url = URL.createObjectURL(body)
  const video = document.createElement('video')
  try {
    video.muted = true
    video.preload = 'auto'
    const first = nextFrame(video)
    video.src = url
    await nextEvent(video, 'loadeddata')
    const wanted = typeof target.moments === 'object' ? target.moments.ms / 1000 : 0
    const last = Number.isFinite(video.duration) ? Math.max(0, video.duration - 0.001) : wanted
    if (wanted > 0) {
      // The drawn picture lags behind the event: right after the seek it may still be the frame before it.
      await orLate(first)
      const [seeked, frame] = [nextEvent(video, 'seeked'), nextFrame(video)]
      video.currentTime = Math.min(wanted, last)
      await seeked
      await orLate(frame)
    }
    return await asTarget(video, { width: video.videoWidth, height: video.videoHeight }, target)
  } finally {
    video.removeAttribute('src')
    URL.revokeObjectURL(url)
  }
}

async function drawVector(body: Blob, target: Target): Promise<PageDecoded> {
  const url = URL.createObjectURL(body)
  try {
    const image = new Image()
    image.src = url
    await image.decode()
    return await asTarget(
      image,
      { width: image.naturalWidth || vectorPx, height: image.naturalHeight || vectorPx },
      target,
    )
  } finally {
    URL.revokeObjectURL(url)
  }
}

async function asTarget(
  drawn: HTMLVideoElement | HTMLImageElement,
  source: Size,
  target: Target,
): Promise<PageDecoded> {
  const made = decodedSize(source, target)
  const treated = treat(await bitmapOf(drawn, { resizeWidth: made.width, resizeHeight: made.height }), target)
  return { bitmap: treated instanceof OffscreenCanvas ? treated.transferToImageBitmap() : treated, ...source }
}

/** Resolves when the browser has another frame to draw than before. */
const nextFrame = (video: HTMLVideoElement) =>
  new Promise<void>((resolve) => video.requestVideoFrameCallback(() => resolve()))

/** A page that is not shown gets no frame callbacks, and a seek within one frame may bring none: the wait is short. */
const orLate = (frame: Promise<void>) =>
  Promise.race([frame, new Promise<void>((resolve) => setTimeout(resolve, mostFrameMs))])

/**
 * The bitmap of the present frame. A browser may report that a video's frame is there a moment before it can be drawn:
 * it is tried again.
 */
async function bitmapOf(drawn: HTMLVideoElement | HTMLImageElement, size: ImageBitmapOptions): Promise<ImageBitmap> {
  const until = performance.now() + longestMs
  for (;;)
    try {
      return await createImageBitmap(drawn, size)
    } catch (error) {
      const isEarly = drawn instanceof HTMLVideoElement && (error as Error).name === 'InvalidStateError'
      if (!isEarly || performance.now() > until) throw error
      await new Promise((again) => setTimeout(again, frameMs))
    }
}

function nextEvent(video: HTMLVideoElement, name: 'loadeddata' | 'seeked'): Promise<void> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(() => reject(new Error('the video shows no frame')), longestMs)
    video.addEventListener(
      name,
      () => {
        clearTimeout(timer)
        resolve()
      },
      { once: true },
    )
    video.addEventListener(
      'error',
      () => {
        clearTimeout(timer)
        reject(new Error('no video that this browser can show'))
      },
      { once: true },
    )
  })
}
