/** Loads the step that is shown first and, with it, what the first paint does without: right after the first paint. */
export function loadSoon(step: () => Promise<unknown>): void {
  // A part that cannot be loaded now is requested again where it is needed, and a failure is reported there.
  for (const load of [step, () => import('./soon.ts')]) load().catch(() => undefined)
}
