import type { Slot } from '../core/project/types.ts'

/** A slot in which a picture arrives over its placeholder. */
export interface Arriving {
  placeholder: HTMLElement
  canvas: HTMLCanvasElement
  arrival: Animation | null
  /** The placeholder that fades out below the arrival. */
  leaving: Animation | null
}

/**
 * Plays the transition of a picture that has been drawn.
 *
 * @param pace how fast it plays; 1: as it is set
 * @param uncovered called when the placeholder below is not to be shown any more
 */
export function arrive(
  slot: Arriving,
  { type, ms, fromScale, easing, beneath, on }: Slot['transition'],
  pace: number,
  uncovered: () => void,
): void {
  const from: Keyframe = type === 'fade-grow' ? { opacity: 0, transform: `scale(${fromScale})` } : { opacity: 0 }
  slot.arrival = slot.canvas.animate([from, { opacity: 1, transform: 'none' }], {
    duration: ms,
    easing,
    fill: 'backwards',
  })
  slot.arrival.playbackRate = pace
  if (on === 'main') stepOnMain(slot.arrival)
  if (beneath === 'goes') {
    uncovered()
    return
  }
  if (beneath === 'fades')
    slot.leaving = slot.placeholder.animate([{ opacity: 1 }, { opacity: 0 }], { duration: ms, fill: 'forwards' })
  slot.arrival.onfinish = () => {
    uncovered()
    slot.leaving?.cancel()
    slot.leaving = null
  }
}

/** An arrival is over before its end: what fades out below it stops too, or it would stay away. */
export function endArrival(slot: Arriving): void {
  slot.arrival?.cancel()
  slot.arrival = null
  slot.leaving?.cancel()
  slot.leaving = null
}

/** Runs an animation step by step on the main thread, once a frame, as an app does without a compositor for it. */
function stepOnMain(animation: Animation): void {
  animation.pause()
  const begun = performance.now()
  const step = () => {
    if (animation.playState !== 'paused') return
    const ms = (performance.now() - begun) * animation.playbackRate
    const end = Number(animation.effect?.getComputedTiming().endTime ?? 0)
    if (ms >= end) animation.finish()
    else {
      animation.currentTime = ms
      requestAnimationFrame(step)
    }
  }
  requestAnimationFrame(step)
}
