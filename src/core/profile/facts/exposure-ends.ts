import type { RunLog } from '../../log/run-log.ts'
import type { ExposureFact, Facts } from './facts.ts'
import type { OnScreen } from './on-screen.ts'

/** What an exposure has shown, how large it was, and how it ended. */
export class ExposureEnds {
  private readonly log: RunLog
  private readonly facts: Facts
  private readonly onScreen: OnScreen
  /** Why assets have failed, which is remembered across claims. */
  readonly failedAssets = new Map<number, string>()
  /** Exposures whose picture arrived with the frame that is being read: their slot's frame is known at its end. */
  private justShown: ExposureFact[] = []

  constructor(log: RunLog, facts: Facts, onScreen: OnScreen) {
    this.log = log
    this.facts = facts
    this.onScreen = onScreen
  }

  shown(exposure: ExposureFact): void {
    this.justShown.push(exposure)
  }

  /** A picture is judged by the frame that its slot has at the end of the frame that shows it. */
  measureShown(): void {
    for (const exposure of this.justShown) this.measure(exposure)
    this.justShown = []
  }

  close(exposure: ExposureFact, t: number): void {
    if (exposure.shownT !== null) this.measure(exposure)
    exposure.leaveT = t
    exposure.outcome = this.outcomeOf(exposure)
    this.onScreen.delete(exposure)
  }

  /** The area of a frame, px². */
  pxOf(geometry: number): number {
    const { widthPx, heightPx } = this.log.geometries[geometry]!
    return widthPx * heightPx
  }

  private measure(exposure: ExposureFact): void {
    if (exposure.shownGeometry !== null) return
    exposure.shownGeometry = exposure.geometry
    exposure.largestPx = this.pxOf(exposure.geometry)
  }

  private outcomeOf(exposure: ExposureFact): ExposureFact['outcome'] {
    if (exposure.claim === null) return 'absent'
    if (exposure.shownT !== null) return 'shown'
    const claim = this.facts.claims[exposure.claim]!
    const { asset } = this.log.renditions[claim.rendition]!
    if (this.failedAssets.get(asset) === 'bad-address') return 'absent'
    return claim.failT !== null ? 'failed' : 'unseen'
  }
}
