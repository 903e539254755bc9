import type { ExposureFact, Facts } from './facts.ts'

/** State of one slot of one cell while the log is read; null where there is none. */
export interface Place {
  claim: number | null
  /** The claim of the small picture that is shown until that of `claim` comes. */
  smallClaim: number | null
  /** The asset of its own address, and that of the fallback that took its place. */
  ownAsset: number | null
  fallbackAsset: number | null
  exposure: ExposureFact | null
  /** The claim and key whose picture it shows. */
  shownClaim: number | null
  shownKey: number | null
  shownRendition: number | null
  /** Whether the slot shows its own picture, or a stand-in. */
  covered: boolean
  wrong: Facts['wrongs'][number] | null
  /** When it left the screen last. */
  leftT: number | null
}

export const newPlace = (): Place => ({
  claim: null,
  smallClaim: null,
  ownAsset: null,
  fallbackAsset: null,
  exposure: null,
  shownClaim: null,
  shownKey: null,
  shownRendition: null,
  covered: false,
  wrong: null,
  leftT: null,
})
