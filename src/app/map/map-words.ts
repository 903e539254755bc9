import type { RequestClass } from '../../core/profile/figures/ledger.ts'

export type Mark = 'diamond' | 'cross' | 'tick' | 'triangle' | 'square' | 'ring' | 'loop'

/** How strongly the marks of the run behind are drawn: paler than the present ones, and still 3 : 1 on any ground. */
export const ghostStrength = 0.75

/** Names of the classes, and how they are drawn: hue by class, shape by outcome. */
export const classWords: Record<
  RequestClass,
  { name: string; explain: string; hue: string; mark: Mark; glyph: string }
> = {
  shown: { name: 'shown', explain: 'Seen on screen.', hue: '--shown', mark: 'diamond', glyph: '◆' },
  shownEarly: {
    name: 'early, shown',
    explain: 'Started before it was on screen, and then seen.',
    hue: '--early',
    mark: 'diamond',
    glyph: '◆',
  },
  cutOff: {
    name: 'cut off',
    explain: 'Cancelled after some of it had arrived.',
    hue: '--cut',
    mark: 'cross',
    glyph: '✕',
  },
  neverSeen: {
    name: 'never seen',
    explain: 'Complete, and never seen.',
    hue: '--never',
    mark: 'triangle',
    glyph: '▲',
  },
  again: {
    name: 'again',
    explain: 'Arrived before in this visit, and was loaded again.',
    hue: '--again',
    mark: 'loop',
    glyph: '↺',
  },
  failed: { name: 'failed', explain: 'Ended with an error.', hue: '--failed', mark: 'square', glyph: '■' },
  revalidated: {
    name: 'revalidated',
    explain: 'A new copy that answered a question about an old one.',
    hue: '--early',
    mark: 'loop',
    glyph: '↺',
  },
  open: { name: 'open', explain: 'Still under way when the run ended.', hue: '--quiet', mark: 'ring', glyph: '○' },
  unknown: {
    name: 'seen or not?',
    explain: 'Arrived whole; the recording does not say whether anybody saw it.',
    hue: '--quiet',
    mark: 'diamond',
    glyph: '◇',
  },
  cancelledFree: {
    name: 'let go',
    explain: 'Cancelled before a byte had arrived.',
    hue: '--cut',
    mark: 'tick',
    glyph: '╵',
  },
  fromDisk: {
    name: 'from disk',
    explain: 'Read from the disk tier; no byte was fetched.',
    hue: '--deep',
    mark: 'diamond',
    glyph: '◆',
  },
}
