import { effectOf } from '../../core/profile/figures/metric-definitions.ts'
import type { Change } from '../../core/compare/prove.ts'

const halfPx = 58
const heightPx = 14
const middle = heightPx / 2

/**
 * A difference and its interval, left and right of none: each metric on the scale that findings weigh it by. What is
 * beyond ends at the edge.
 */
export function IntervalMark({ change: { metric, difference, is } }: { change: Change }) {
  const scale = effectOf(metric).scale
  const x = (value: number) => halfPx + 2 + Math.max(-1, Math.min(1, value / scale)) * halfPx
  const at = x(difference.median)
  return (
    <svg className={`tt-interval is-${is}`} width={2 * halfPx + 4} height={heightPx} aria-hidden>
      <line className="tt-interval-none" x1={halfPx + 2} x2={halfPx + 2} y1={0} y2={heightPx} />
      <line x1={x(difference.low)} x2={x(difference.high)} y1={middle} y2={middle} />
      <path d={`M${at} ${middle - 5}L${at + 5} ${middle}L${at} ${middle + 5}L${at - 5} ${middle}Z`} />
    </svg>
  )
}
