import { decodedSize, type Target } from '../core/loading/rendition.ts'
import { treat } from '../workers/treat.ts'

/** A video that has shown no frame for so long is given up, ms. */
const longestMs = 10_000

/** The frame of a video at the moment that the target names, at the px that it wants; throws when it has none. */
export async function cutPoster(body: Blob, target: Target): Promise<{ bitmap: ImageBitmap; width: number; height: number }> {
  const url = URL.createObjectURL(body)
  const video = document.createElement('video')
  try {
    video.muted = true
    video.preload = 'auto'
    video.src = url
    await once(video, 'loadeddata')
    const wanted = typeof target.moments === 'object' ? target.moments.ms / 1000 : 0
    const last = Number.isFinite(video.duration) ? Math.max(0, video.duration - 0.001) : wanted
    if (wanted > 0) {
      const seeked = once(video, 'seeked')
      video.currentTime = Math.min(wanted, last)
      await seeked
    }
    const source = { width: video.videoWidth, height: video.videoHeight }
    const made = decodedSize(source, target)
    const treated = treat(await createImageBitmap(video, { resizeWidth: made.width, resizeHeight: made.height }), target)
    return { bitmap: treated instanceof OffscreenCanvas ? treated.transferToImageBitmap() : treated, ...source }
  } finally {
    video.removeAttribute('src')
    URL.revokeObjectURL(url)
  }
}

function once(video: HTMLVideoElement, name: 'loadeddata' | 'seeked'): Promise<void> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(() => reject(new Error('the video shows no frame')), longestMs)
    video.addEventListener(name, () => { clearTimeout(timer); resolve() }, { once: true })
    video.addEventListener('error', () => { clearTimeout(timer); reject(new Error('no video that this browser can show')) }, { once: true })
  })
}
