import { Area, AreaChart, CartesianGrid, ReferenceLine, Tooltip, XAxis, YAxis } from 'recharts'
import { useWidth } from '../../controls/use-width.ts'

interface CurveProps {
  /** Points with `ms` and a number for each series. */
  points: readonly object[]
  series: readonly { name: string; label: string; colour: string }[]
  unit: string
  /** Stacked, or each from zero. */
  stacked: boolean
  /** Moments that are marked. */
  marks?: readonly { ms: number; word: string }[]
  onMoment: (ms: number) => void
}

const height = 122
const mostMarks = 60

/** Curves over the time of the run; a click sets the cursor there. */
export function Curve({ points, series, unit, stacked, marks = [], onMoment }: CurveProps) {
  const [box, wide] = useWidth<HTMLDivElement>(600)
  const width = Math.max(200, wide)
  return (
    <div
      className="tt-curve"
      ref={box}
      role="group"
      aria-label={`${series.map(({ label }) => label).join(', ')} over the time of the run`}
    >
      <AreaChart
        width={width}
        height={height}
        data={points as object[]}
        margin={{ left: 0, right: 8, top: 6, bottom: 0 }}
        accessibilityLayer={false}
        onClick={({ activeLabel }) => activeLabel !== undefined && onMoment(Number(activeLabel))}
      >
        <CartesianGrid vertical={false} stroke="var(--line)" />
        <XAxis
          dataKey="ms"
          type="number"
          domain={['dataMin', 'dataMax']}
          tickFormatter={(ms: number) => `${(ms / 1000).toFixed(1)} s`}
          tick={{ fill: 'var(--quiet)', fontSize: 11 }}
          stroke="var(--line)"
        />
        <YAxis
          width={44}
          tick={{ fill: 'var(--quiet)', fontSize: 11 }}
          stroke="var(--line)"
          tickFormatter={(value: number) => `${+value.toFixed(1)}`}
        />
        <Tooltip
          isAnimationActive={false}
          contentStyle={{ background: 'var(--panel)', border: '1px solid var(--line)', fontSize: 12 }}
          labelFormatter={(ms) => `${(Number(ms) / 1000).toFixed(2)} s`}
          formatter={(value) => `${+Number(value).toFixed(1)} ${unit}`}
        />
        {marks.slice(0, mostMarks).map(({ ms, word }) => (
          <ReferenceLine key={`${ms} ${word}`} x={ms} stroke="var(--hole)" strokeDasharray="2 3" />
        ))}
        {series.map(({ name, label, colour }) => (
          <Area
            key={name}
            dataKey={name}
            name={label}
            type="stepAfter"
            isAnimationActive={false}
            stroke={colour}
            fill={colour}
            fillOpacity={stacked ? 0.55 : 0.12}
            strokeWidth={1.5}
            {...(stacked ? { stackId: 'all' } : {})}
          />
        ))}
      </AreaChart>
      <p className="tt-curve-key">
        {series.map(({ name, label, colour }) => (
          <span key={name}>
            <i aria-hidden style={{ background: colour }} /> {label}
          </span>
        ))}
        {marks.length > 0 && (
          <span>
            ┊ {marks[0]!.word}
            {marks.length > 1 ? ` (${marks.length})` : ''}
          </span>
        )}
      </p>
    </div>
  )
}
