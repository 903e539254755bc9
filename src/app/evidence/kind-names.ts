import type { SourceKind } from '../../core/evidence/evidence.ts'

/** What the kinds of evidence are called. */
export const kindNames: Record<SourceKind, string> = {
  har: 'requests (HAR)',
  frames: 'frames',
  memory: 'memory',
  busy: 'busy threads',
  lines: 'log lines',
  events: 'app events',
  readings: 'typed in',
}
