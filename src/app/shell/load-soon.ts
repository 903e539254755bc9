/**
 * Parts that the first paint does without, and that work with the server away: keeping a drive, simulating, opening a
 * project file, waiting for the server's return. They are loaded right behind the first paint, while it is there.
 */
const parts = [
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

export function loadSoon(): void {
  // One that cannot be loaded now is asked for again where it is needed, and if it fails then too, that is said.
  for (const load of parts) load().catch(() => undefined)
}
