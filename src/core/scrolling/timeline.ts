import type { Device, Step } from '../project/types.ts'
import { glide } from './flick.ts'

/** Where a list can go, dp. */
export interface Extent {
  max: number
  topOfRow(row: number): number
}

/** One step of a script on the time axis. */
export interface Mark {
  step: number
  fromMs: number
  /** When the next step begins; a flick goes on through the waits after it. */
  toMs: number
  /** Position of the list at its start, dp. */
  top: number
}

export interface Timeline {
  marks: Mark[]
  /** When the list is at rest after the last step. */
  endMs: number
  /** The list's position at an instant, dp. */
  topAt(ms: number): number
  /** The greatest speed, dp/s. */
  fastest: number
}

interface Piece {
  fromMs: number
  from: number
  flick: number | null
  /** dp/s of a drag or a move at a speed, until `toMs`. */
  speed: number
  toMs: number
}

/**
 * A script laid out in time without running it: the curve that is drawn and dragged. It follows the same rules as the
 * script player, on a list of a known extent that neither grows nor is edited.
 */
export function timelineOf(steps: readonly Step[], flick: Device['flick'], extent: Extent): Timeline {
  const clamp = (dp: number) => Math.max(0, Math.min(extent.max, dp))
  const pieces: Piece[] = [{ fromMs: 0, from: 0, flick: null, speed: 0, toMs: 0 }]
  const targetOf = (where: number | 'start' | 'end') => {
    if (where === 'start') return 0
    return where === 'end' ? extent.max : clamp(extent.topOfRow(where))
  }
  const at = (piece: Piece, ms: number) => {
    const since = Math.max(0, ms - piece.fromMs)
    if (piece.flick !== null) return clamp(piece.from + glide(piece.flick, since, flick).moved)
    return clamp(piece.from + (piece.speed * Math.min(since, piece.toMs - piece.fromMs)) / 1000)
  }
  const marks: Mark[] = []
  let ms = 0
  let fastest = 0
  for (const [step, each] of steps.entries()) {
    const top = at(pieces.at(-1)!, ms)
    const begin = ms
    const add = (piece: Partial<Piece>) =>
      pieces.push({ fromMs: begin, from: top, flick: null, speed: 0, toMs: begin, ...piece })
    switch (each.do) {
      case 'wait':
        ms += each.ms
        break
      case 'flick':
        add({ flick: each.dpPerS })
        fastest = Math.max(fastest, Math.abs(each.dpPerS))
        break
      case 'drag':
        ms += each.ms
        if (each.ms > 0) add({ speed: (each.dp / each.ms) * 1000, toMs: ms })
        else add({ from: clamp(top + each.dp) })
        if (each.ms > 0) fastest = Math.max(fastest, Math.abs(each.dp / each.ms) * 1000)
        break
      case 'to': {
        const target = targetOf(each.where)
        ms += (Math.abs(target - top) / each.dpPerS) * 1000
        add({ speed: Math.sign(target - top) * each.dpPerS, toMs: ms })
        fastest = Math.max(fastest, target === top ? 0 : each.dpPerS)
        break
      }
      case 'jump':
        add({ from: clamp(extent.topOfRow(each.row)) })
        break
      default:
        add({})
    }
    marks.push({ step, fromMs: begin, toMs: ms, top })
  }
  const last = pieces.at(-1)!
  let endMs = ms
  if (last.flick !== null)
    while (!glide(last.flick, endMs - last.fromMs, flick).atRest && at(last, endMs) !== at(last, endMs + 50))
      endMs += 50
  return {
    marks,
    endMs,
    fastest,
    topAt: (instant) =>
      at(
        pieces.findLast((piece) => piece.fromMs <= instant)!,
        instant,
      ),
  }
}
