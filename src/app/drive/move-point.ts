import type { Step } from '../../core/project/types.ts'
import { moveStep } from '../../core/scrolling/edit-script.ts'

/** What one dp further down means for a flick's speed, dp/s: it goes speed × time constant. */
const flickPerDp = (timeMs: number) => 1000 / timeMs

/** Moves a point of the gesture: later by ms, its distance longer by dp. */
export function movePoint(
  steps: readonly Step[],
  at: number,
  ms: number,
  dp: number,
  list: { flickMs: number; pitchDp: number },
): Step[] {
  const step = steps[at]
  if (!step) return [...steps]
  const next = [...steps]
  next[at] = further(step, dp, list)
  return Math.round(ms) === 0 ? next : moveStep(next, at, ms)
}

function further(step: Step, dp: number, { flickMs, pitchDp }: { flickMs: number; pitchDp: number }): Step {
  switch (step.do) {
    case 'flick':
      return {
        ...step,
        dpPerS: Math.max(-100_000, Math.min(100_000, Math.round(step.dpPerS + dp * flickPerDp(flickMs)))),
      }
    case 'drag':
      return { ...step, dp: Math.round(step.dp + dp) }
    case 'jump':
      return { ...step, row: Math.max(0, Math.round(step.row + dp / pitchDp)) }
    case 'to':
      return typeof step.where === 'number'
        ? { ...step, where: Math.max(0, Math.round(step.where + dp / pitchDp)) }
        : step
    default:
      return step
  }
}
