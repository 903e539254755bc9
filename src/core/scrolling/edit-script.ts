import type { Step } from '../project/types.ts'

/**
 * Moves a step later (or earlier) by so many ms: the wait before it grows and the one after it shrinks, so that what
 * follows stays.
 */
export function moveStep(steps: readonly Step[], at: number, ms: number): Step[] {
  const before = steps[at - 1]
  const room = before?.do === 'wait' ? before.ms : 0
  const moved = Math.max(-room, Math.round(ms))
  if (moved === 0) return [...steps]
  const next = [...steps]
  const behind = next[at + 1]
  if (behind?.do === 'wait') next[at + 1] = { ...behind, ms: Math.max(0, behind.ms - moved) }
  if (before?.do === 'wait') next[at - 1] = { ...before, ms: before.ms + moved }
  else next.splice(at, 0, { do: 'wait', ms: moved })
  return next
}

/** Inserts steps after one, with a wait before them so that they do not coincide. */
export function insertSteps(steps: readonly Step[], behind: number, added: readonly Step[]): Step[] {
  const at = Math.max(0, Math.min(steps.length, behind + 1))
  return [...steps.slice(0, at), ...added, ...steps.slice(at)]
}

/** Removes a step; its time stays as a wait, and adjacent waits become one. */
export function removeStep(steps: readonly Step[], at: number): Step[] {
  const removed = steps[at]
  if (!removed) return [...steps]
  const ms = removed.do === 'drag' ? removed.ms : 0
  const left = [...steps.slice(0, at), ...(ms > 0 ? [{ do: 'wait' as const, ms }] : []), ...steps.slice(at + 1)]
  return left.reduce<Step[]>((merged, step) => {
    const last = merged.at(-1)
    if (step.do === 'wait' && last?.do === 'wait') merged[merged.length - 1] = { ...last, ms: last.ms + step.ms }
    else merged.push(step)
    return merged
  }, [])
}
