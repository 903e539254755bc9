import type { MapData } from '../../core/profile/views/map-data.ts'
import type { Gesture } from '../../core/evidence/recover-gesture.ts'

const size = { width: 900, height: 120 }
const edge = 4

/** The position of the list under a script of waits and drags, as corners of a line: ms of the script, dp. */
function cornersOf({ script }: Gesture): { ms: number; top: number }[] {
  let [ms, top] = [0, 0]
  const corners = [{ ms, top }]
  for (const step of script.steps) {
    if (step.do !== 'wait' && step.do !== 'drag') continue
    ms += step.ms
    if (step.do === 'drag') top += step.dp
    corners.push({ ms, top })
  }
  return corners
}

/** The gesture as it was recovered, with its uncertainty, over the positions in the evidence. */
export function GestureChart({ gesture, map }: { gesture: Gesture; map: MapData }) {
  const recovered = cornersOf(gesture).map(({ ms, top }) => ({ ms: ms - gesture.shiftMs, top }))
  const recorded = [...map.channel.t].map((ms, i) => ({ ms, top: map.channel.top[i]! }))
  const all = [...recovered, ...recorded]
  const endMs = Math.max(1, ...all.map(({ ms }) => ms))
  const deepest = Math.max(1, ...all.map(({ top }) => top + gesture.uncertaintyDp))
  const x = (ms: number) => edge + (Math.max(0, ms) / endMs) * (size.width - 2 * edge)
  const y = (top: number) => edge + (Math.max(0, top) / deepest) * (size.height - 2 * edge)
  const points = (line: readonly { ms: number; top: number }[], by = 0) =>
    line.map(({ ms, top }) => `${x(ms).toFixed(1)},${y(top + by).toFixed(1)}`)
  const band = [...points(recovered, gesture.uncertaintyDp), ...points(recovered, -gesture.uncertaintyDp).toReversed()]
  return (
    <figure className="tt-gesture-chart">
      <svg
        viewBox={`0 0 ${size.width} ${size.height}`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`The gesture recovered from ${gesture.from}: ${recovered.length} corners, within ${Math.round(gesture.uncertaintyDp)} dp, over ${recorded.length} recorded places`}
      >
        <polygon points={band.join(' ')} className="tt-gesture-band" />
        <polyline points={points(recorded).join(' ')} className="tt-gesture-recorded" />
        <polyline points={points(recovered).join(' ')} className="tt-gesture-recovered" />
      </svg>
      <figcaption className="tt-quiet">
        The gesture (dashed, with how far off it may be) over where the evidence has the list
      </figcaption>
    </figure>
  )
}
