/**
 * Parts that the first paint does without: the live list, and what works with the server away, such as keeping a drive,
 * simulating, opening a project file, waiting for the server's return. They are loaded right behind the first paint.
 */
const parts = [
  () => import('../../live/live-run.ts'),
  () => import('../../live/live-frames.ts'),
  () => import('../../core/log/log-encoding.ts'),
  () => import('../../core/feed/known-items.ts'),
  () => import('../../core/project/differences.ts'),
  () => import('../store/variants.ts'),
  () => import('../device/keep-drive.ts'),
  () => import('../device/simulate-runs.ts'),
  () => import('./open-any-file.ts'),
  () => import('../../core/project/parse-text.ts'),
  () => import('../../live/own-server.ts'),
]

/** `step`: the one that is shown first. */
export function loadSoon(step: () => Promise<unknown>): void {
  // One that cannot be loaded now is asked for again where it is needed, and if it fails then too, that is said.
  for (const load of [step, ...parts]) load().catch(() => undefined)
}
