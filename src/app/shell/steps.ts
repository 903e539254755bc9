export interface StepText {
  path: string
  name: string
  decides: string
  /** Its settings are part of what a run depends on. */
  changes: boolean
}

/** The seven steps in their order. */
export const steps: readonly StepText[] = [
  { path: 'feed', name: 'Feed', decides: 'Which pictures the list shows.', changes: true },
  { path: 'cell', name: 'Cell', decides: 'How one picture sits and arrives.', changes: true },
  { path: 'loading', name: 'Loading', decides: 'What starts, what waits and what is let go.', changes: true },
  { path: 'drive', name: 'Drive', decides: 'The gesture that every run repeats.', changes: false },
  { path: 'profile', name: 'Profile', decides: 'What happened in a run, and why.', changes: false },
  { path: 'compare', name: 'Compare', decides: 'Whether a change was better, worse or noise.', changes: false },
  { path: 'hand-off', name: 'Hand-off', decides: 'What the real app takes back.', changes: false },
]
