import type { MapRange } from '../map/map-view.ts'

/** Says that a view is limited to the selected part; `figures`: it is beside figures of the whole run. */
export function PartNote({ figures }: { figures: boolean }) {
  return (
    <p className="tt-quiet">
      Only the selected part is shown below{figures ? '; the figures are the whole run’s' : ''}.
    </p>
  )
}

/** Distinguishes answers for one part of a run from those for another. */
export const partKey = (range: MapRange | null) =>
  range ? [range.fromMs, range.toMs, range.fromDp, range.toDp].join(' ') : ''
