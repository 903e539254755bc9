import { useWidth } from '../../controls/use-width.ts'
import type { FramesLens } from '../../../core/profile/views/lenses/frames-lens.ts'

const height = 88
const top = 14
const bottom = 16
const left = 46
/** Work of more refreshes than this is shown as a number. */
const deepest = 2
/** Room for numbers side by side, px. */
const numberRoom = 34

/** Each frame as a plumb line let down by its work: within the channel it met its refresh, below it ran aground. */
export function Plumb({ lens, onMoment }: { lens: FramesLens; onMoment: (ms: number) => void }) {
  const [box, wide] = useWidth<HTMLDivElement>(800)
  const width = Math.max(240, wide)
  const { works, refreshMs, fromMs, endMs } = lens
  const x = (ms: number) => left + ((ms - fromMs) / Math.max(1, endMs - fromMs)) * (width - left - 8)
  const deep = height - top - bottom
  const y = (workMs: number) => top + (Math.min(deepest, workMs / refreshMs) / deepest) * deep
  const over = works.filter(({ workMs }) => workMs > refreshMs)
  return (
    <div className="tt-plumb" ref={box}>
      <svg
        width={width}
        height={height}
        role="img"
        data-explain="Work of each frame, down from the top; the channel is as deep as one refresh. A click moves the cursor there"
        aria-label={`Work of ${works.length} frames against ${refreshMs.toFixed(1)} ms: ${over.length} took longer`}
        onClick={(event) => {
          const { left: edge } = event.currentTarget.getBoundingClientRect()
          const share = (event.clientX - edge - left) / (width - left - 8)
          if (share >= 0 && share <= 1) onMoment(fromMs + share * (endMs - fromMs))
        }}
      >
        <rect x={left} y={top} width={width - left - 8} height={deep / deepest} className="tt-plumb-channel" />
        <text x={0} y={top + 4}>
          0 ms
        </text>
        <text x={0} y={top + deep / deepest + 4}>
          {refreshMs.toFixed(1)}
        </text>
        <text x={0} y={top + deep + 4}>
          {(deepest * refreshMs).toFixed(0)}
        </text>
        {works.map(({ ms, workMs }) => (
          <g key={ms} data-over={workMs > refreshMs ? '' : undefined}>
            <line x1={x(ms)} x2={x(ms)} y1={top} y2={y(workMs)} />
            <circle cx={x(ms)} cy={y(workMs)} r={workMs > refreshMs ? 2.4 : 1.2} />
          </g>
        ))}
        {spacedApart(
          over.filter(({ workMs }) => workMs > deepest * refreshMs).map((each) => ({ ...each, x: x(each.ms) })),
        ).map((each) => (
          <text key={each.ms} x={each.x} y={height - 2} textAnchor="middle" className="tt-plumb-off">
            {each.workMs.toFixed(0)} ms
          </text>
        ))}
      </svg>
    </div>
  )
}

/** The longest of those that are off the scale, as many as fit side by side. */
function spacedApart<F extends { x: number; workMs: number }>(frames: readonly F[]): F[] {
  const spaced: F[] = []
  for (const frame of frames.toSorted((one, other) => other.workMs - one.workMs))
    if (spaced.every((each) => Math.abs(each.x - frame.x) >= numberRoom)) spaced.push(frame)
  return spaced
}
