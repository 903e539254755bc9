/**
 * Loads the step that is shown first and, beside it, what the first paint does without: right behind the first paint.
 */
export function loadSoon(step: () => Promise<unknown>): void {
  // One that cannot be loaded now is asked for again where it is needed, and if it fails then too, that is said.
  for (const load of [step, () => import('./soon.ts')]) load().catch(() => undefined)
}
