import { Bar, BarChart, Tooltip, XAxis, YAxis } from 'recharts'
import { useWidth } from '../../controls/use-width.ts'

interface Row {
  name: string
  /** The label after the bar. */
  text: string
}

interface BarsProps<R extends Row> {
  /** Description of the bars for screen readers. */
  label: string
  rows: readonly R[]
  /** The parts of each bar, from the left; `of` is a length, in the unit of the axis. */
  series: readonly { label: string; colour: string; of: (row: R) => number; value: (row: R) => string }[]
  /** The length of a bar that takes the whole width. */
  most: number
  nameWidth: number
}

const rowHeight = 20
/** Room after the longest bar for its label, px. */
const textRoom = 118

/** Horizontal bars, one a row, each of one part or several. */
export function Bars<R extends Row>({ label, rows, series, most, nameWidth }: BarsProps<R>) {
  const [box, wide] = useWidth<HTMLDivElement>(400)
  return (
    <div
      className="tt-bars"
      ref={box}
      role="img"
      aria-label={`${label}: ${rows.map(({ name, text }) => `${name} ${text}`).join('; ')}`}
    >
      <BarChart
        layout="vertical"
        width={Math.max(200, wide)}
        height={rowHeight * rows.length + 4}
        data={rows as R[]}
        margin={{ left: 0, right: 0, top: 0, bottom: 0 }}
        barCategoryGap={4}
        accessibilityLayer={false}
      >
        <XAxis type="number" domain={[0, most]} hide />
        <YAxis
          type="category"
          dataKey="name"
          width={nameWidth}
          interval={0}
          tick={{ fill: 'var(--ink)', fontSize: 12 }}
          tickLine={false}
          axisLine={false}
        />
        <YAxis
          yAxisId="text"
          orientation="right"
          type="category"
          dataKey={({ name, text }: R) => `${name} ${text}`}
          tickFormatter={(_each: string, i: number) => rows[i]?.text ?? ''}
          width={textRoom}
          interval={0}
          tick={{ fill: 'var(--ink)', fontSize: 12 }}
          tickLine={false}
          axisLine={false}
        />
        <Tooltip
          isAnimationActive={false}
          cursor={false}
          contentStyle={{ background: 'var(--panel)', border: '1px solid var(--line)', fontSize: 12 }}
          formatter={(_length, seriesLabel, { payload }) =>
            series.find((each) => each.label === seriesLabel)?.value(payload as R) ?? ''
          }
        />
        {series.map(({ label, colour, of }) => (
          <Bar key={label} dataKey={of} name={label} stackId="all" fill={colour} isAnimationActive={false} />
        ))}
      </BarChart>
    </div>
  )
}
