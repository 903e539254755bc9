import type { JobHooks } from '../../src/workers/jobs/job.ts'

/** A clock on which each look takes 60 ms: a job looks around after each slice. Cancelled after so many turns. */
export function hooksFor<Answer = never>(
  turns: number,
): { hooks: JobHooks<Answer>; shares: number[]; parts: Answer[] } {
  let now = 0
  let rests = 0
  const shares: number[] = []
  const parts: Answer[] = []
  return {
    shares,
    parts,
    hooks: {
      cancelled: () => rests > turns,
      rest: () => Promise.resolve(void rests++),
      progress: (share) => shares.push(share),
      part: (answer) => parts.push(answer),
      now: () => (now += 60),
    },
  }
}
