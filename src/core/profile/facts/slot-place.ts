import type { ExposureFact, Facts } from './facts.ts'

/** What is known of one slot of one cell while the log is read. */
export interface Place {
  claim: number
  /** The claim of the small picture that is shown until that of `claim` comes, −1 for none. */
  smallClaim: number
  /** The asset of its own address, and those of the fallbacks that took its place, −1 for none. */
  ownAsset: number
  fallbackAsset: number
  exposure: ExposureFact | null
  /** The claim and key whose picture it shows, −1 for none. */
  shownClaim: number
  shownKey: number
  shownRendition: number
  /** Whether what is in the slot is its own picture, or one that stands in for it. */
  covered: boolean
  wrong: Facts['wrongs'][number] | null
  /** When it left the screen last. */
  leftT: number
}

export const newPlace = (): Place => ({
  claim: -1,
  smallClaim: -1,
  ownAsset: -1,
  fallbackAsset: -1,
  exposure: null,
  shownClaim: -1,
  shownKey: -1,
  shownRendition: -1,
  covered: false,
  wrong: null,
  leftT: -1,
})
