import type { Device } from '../project/types.ts'
import { decay } from '../numbers/decay.ts'

export interface Glide {
  /** dp from the start of the flick. */
  moved: number
  /** dp/s, with its sign. */
  speed: number
  atRest: boolean
}

type Curve = Pick<Device['flick'], 'curve' | 'timeMs' | 'stopDpPerS'>

/**
 * The position of a flick of v dp/s after t ms. Exponential: the speed falls by e every `timeMs`, and it rests when it
 * is slower than the stop speed, having gone v × τ × (1 − stop ÷ |v|). Steady: the speed falls evenly to zero within 2
 * τ, having gone v × τ.
 */
export function glide(v: number, t: number, curve: Curve): Glide {
  const speed = v < 0 ? -v : v
  const sign = v < 0 ? -1 : 1
  const tau = curve.timeMs
  if (curve.curve === 'steady') {
    if (t >= 2 * tau || speed === 0) return { moved: (v * tau) / 1000, speed: 0, atRest: true }
    return { moved: (v * (t - (t * t) / (4 * tau))) / 1000, speed: v * (1 - t / (2 * tau)), atRest: false }
  }
  if (speed <= curve.stopDpPerS) return { moved: 0, speed: 0, atRest: true }
  const left = decay(t / tau)
  if (speed * left <= curve.stopDpPerS)
    return { moved: (sign * (speed - curve.stopDpPerS) * tau) / 1000, speed: 0, atRest: true }
  return { moved: (v * tau * (1 - left)) / 1000, speed: v * left, atRest: false }
}
