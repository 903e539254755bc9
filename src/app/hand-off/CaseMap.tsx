import type { VectorCase } from '../../core/vectors/protocol.ts'
import { lanesOf, describeLanes, type CaseTransfer } from '../../core/vectors/case-map.ts'

const width = 150
const laneHeight = 7
const mostLanes = 8

const colours: Record<CaseTransfer['end'], string> = {
  received: 'var(--shown)',
  'cut off': 'var(--cut)',
  failed: 'var(--failed)',
  open: 'var(--early)',
}

/** A case as small as a word: a lane for each picture, steps from left to right, with the marks of the scroll map. */
export function CaseMap({ of }: { of: VectorCase }) {
  const lanes = lanesOf(of)
  const drawn = lanes.slice(0, mostLanes)
  const x = (step: number) => 4 + (step * (width - 8)) / Math.max(1, of.steps.length)
  return (
    <svg
      className="tt-case-map"
      width={width}
      height={Math.max(1, drawn.length) * laneHeight + 2}
      role="img"
      aria-label={describeLanes(lanes)}
    >
      {drawn.map(({ address, wanted, transfers, shown, failed }, i) => {
        const y = 1 + laneHeight * (i + 0.5)
        return (
          <g key={address}>
            <line x1={x(wanted)} x2={width - 4} y1={y} y2={y} stroke="var(--line)" />
            {transfers.map(({ from, to, end }) => (
              <g key={from}>
                <line x1={x(from)} x2={x(to)} y1={y} y2={y} stroke={colours[end]} strokeWidth={2.5} />
                {end === 'cut off' && (
                  <path d={`M${x(to) - 2.5} ${y - 2.5}l5 5m0 -5l-5 5`} stroke="var(--ink)" strokeWidth={1.2} />
                )}
              </g>
            ))}
            {shown.map((step) => (
              <path key={step} d={`M${x(step)} ${y - 3}l3 3l-3 3l-3 -3z`} fill="var(--shown)" />
            ))}
            {failed.map((step) => (
              <rect key={step} x={x(step) - 2.5} y={y - 2.5} width={5} height={5} fill="var(--failed)" />
            ))}
          </g>
        )
      })}
    </svg>
  )
}
