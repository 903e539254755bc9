import { memo } from 'react'
import { ComposedChart, CartesianGrid, ReferenceArea, Scatter, Tooltip, XAxis, YAxis, ZAxis } from 'recharts'
import type { Budget } from '../../core/compare/budgets.ts'
import type { MetricId } from '../../core/profile/figures/metric-definitions.ts'
import { niceTicks } from '../map/nice-ticks.ts'
import { useWidth } from '../controls/use-width.ts'
import { saveBlob } from '../store/save-file.ts'
import { Chip } from '../controls/Chip.tsx'
import { figureOf } from '../runs/figures.ts'
import { nowRow, type DrawnRow } from './sweep-store.ts'
import { settingsWord } from './words.ts'

interface TradeOffProps {
  rows: readonly DrawnRow[]
  /** Rows that no other beats in the two metrics that are drawn. */
  front: readonly number[]
  x: MetricId
  y: MetricId
  /** What the size of a mark says. */
  size: MetricId
  budgets: readonly Budget[]
  picked: number | null
  onPick: (row: number) => void
}

interface Mark {
  row: number
  x: number
  y: number
  size: number
  told: string
}

const height = 250

/** Saves a plot as it is drawn, in the colours of the page now: the file refers to nothing outside. */
function savePlot(room: HTMLElement | null): void {
  const plot = room?.querySelector('svg')
  if (!plot) return
  const style = getComputedStyle(document.documentElement)
  const text = new XMLSerializer()
    .serializeToString(plot)
    .replace(/var\((--[a-z-]+)\)/g, (_, token: string) => style.getPropertyValue(token).trim())
  saveBlob('trade-off.svg', new Blob([text], { type: 'image/svg+xml' }))
}

/** The value at a tick as plain text: what Recharts makes of one is measured and broken into lines, in the page's own time. */
const tickOf =
  (form: (value: number) => string, textAnchor: 'middle' | 'end', down: number) =>
  ({ x, y, payload }: { x?: number | string; y?: number | string; payload?: { value: number } }) => (
    <text x={Number(x)} y={Number(y) + down} textAnchor={textAnchor} fill="var(--quiet)" fontSize={11}>
      {payload && form(payload.value)}
    </text>
  )

/** So many fit. */
const aboutTicks = 5

/** An axis with ticks of our own: nothing is measured for them, nor worked out. */
const scaleOf = (ticks: number[]) =>
  ({ ticks, domain: [ticks[0]!, ticks.at(-1)!], interval: 0, niceTicks: 'none' }) as const

const nothing = () => <g />

interface PlotMarkProps {
  cx?: number | undefined
  cy?: number | undefined
  /** Its area, px². */
  size?: number | undefined
  fill: string
  isNow: boolean
}

/** A mark that stays where it was is not drawn again when others come. */
const PlotMark = memo(({ cx = 0, cy = 0, size = 0, fill, isNow }: PlotMarkProps) => {
  const look = { className: 'tt-plot-mark', fill, stroke: 'var(--ink)' }
  if (!isNow) return <circle {...look} cx={cx} cy={cy} r={Math.sqrt(size / Math.PI)} />
  const half = Math.sqrt(size / 2) * 1.2
  return <path {...look} d={`M${cx} ${cy - half}l${half} ${half}l${-half} ${half}l${-half} ${-half}z`} />
})

/** Rows by two of their figures, the size by a third: what is bought with what. */
export const TradeOff = memo(({ rows, front, x, y, size, budgets, picked, onPick }: TradeOffProps) => {
  const [box, wide] = useWidth<HTMLDivElement>(400)
  const [across, up, area] = [figureOf(x), figureOf(y), figureOf(size)]
  const marks = rows.flatMap((row): Mark[] => {
    const [a, b] = [row.metrics[x]?.median, row.metrics[y]?.median]
    if (a === undefined || b === undefined) return []
    const told = row.row === nowRow ? 'as it is now' : settingsWord(row.settings)
    return [{ row: row.row, x: a, y: b, size: row.metrics[size]?.median ?? 0, told }]
  })
  const form = (figure: typeof across) => (value: number) => {
    const { text, unit } = figure.form(value)
    return `${text} ${unit}`
  }
  const line = marks.filter(({ row }) => front.includes(row)).sort((one, other) => one.x - other.x)
  const limit = (metric: MetricId) => budgets.find((each) => each.metric === metric && each.max !== undefined)?.max
  const [mostX, mostY] = [limit(x), limit(y)]
  const lookOf = (row: number) => {
    if (row === nowRow) return { rank: 2, fill: 'var(--tug)' }
    if (row === picked) return { rank: 3, fill: 'var(--ink)' }
    return front.includes(row) ? { rank: 1, fill: 'var(--shown)' } : { rank: 0, fill: 'var(--line)' }
  }
  const ticks = {
    x: niceTicks(
      marks.map((mark) => mark.x),
      aboutTicks,
    ),
    y: niceTicks(
      marks.map((mark) => mark.y),
      aboutTicks,
    ),
  }
  // What matters more is drawn over what matters less.
  const drawn = marks.toSorted((one, other) => lookOf(one.row).rank - lookOf(other.row).rank)
  return (
    <div className="tt-trade-off" ref={box}>
      <Chip className="tt-save-plot" data-explain="The plot as a file" onClick={() => savePlot(box.current)}>
        SVG
      </Chip>
      <div
        role="img"
        aria-label={`${up.name} against ${across.name}: ${marks.map(({ told, x: a, y: b }) => `${told}: ${form(across)(a)}, ${form(up)(b)}`).join('; ')}`}
      >
        <p className="tt-quiet" aria-hidden>
          ↑ {up.name}
          {marks.length === 0 && ' · nothing is simulated yet'}
        </p>
        <ComposedChart
          width={Math.max(240, wide)}
          height={height}
          margin={{ left: 4, right: 28, top: 6, bottom: 20 }}
          accessibilityLayer={false}
        >
          <CartesianGrid stroke="var(--line)" />
          <XAxis
            type="number"
            dataKey="x"
            {...scaleOf(ticks.x)}
            tick={tickOf(form(across), 'middle', 12)}
            stroke="var(--line)"
            label={(at: { viewBox?: { x?: number; y?: number; width?: number; height?: number } }) => (
              <text
                x={(at.viewBox?.x ?? 0) + (at.viewBox?.width ?? 0) / 2}
                y={(at.viewBox?.y ?? 0) + (at.viewBox?.height ?? 0) + 14}
                textAnchor="middle"
                fill="var(--quiet)"
                fontSize={12}
              >
                {across.name} →
              </text>
            )}
          />
          <YAxis
            type="number"
            dataKey="y"
            width={64}
            {...scaleOf(ticks.y)}
            tick={tickOf(form(up), 'end', 4)}
            stroke="var(--line)"
          />
          <ZAxis type="number" dataKey="size" range={[40, 200]} name={area.name} />
          {(mostX !== undefined || mostY !== undefined) && (
            <ReferenceArea
              {...(mostX !== undefined && { x2: mostX })}
              {...(mostY !== undefined && { y2: mostY })}
              fill="var(--channel)"
              fillOpacity={0.6}
              ifOverflow="hidden"
              label={{ value: 'within budget', position: 'insideBottomLeft', fill: 'var(--deep)', fontSize: 12 }}
            />
          )}
          <Scatter
            // The front. A line of its own kind would be measured for an animation that it has not.
            data={line}
            dataKey="y"
            line={{ stroke: 'var(--deep)', strokeDasharray: '4 3' }}
            shape={nothing}
            tooltipType="none"
            isAnimationActive={false}
          />
          <Tooltip
            isAnimationActive={false}
            cursor={false}
            content={({ payload }) => {
              const mark = payload?.[0]?.payload as Mark | undefined
              return mark ? (
                <div className="tt-card tt-trade-told">
                  <strong>{mark.told}</strong>
                  <br />
                  {across.name} {form(across)(mark.x)}
                  <br />
                  {up.name} {form(up)(mark.y)}
                  <br />
                  {area.name} {form(area)(mark.size)}
                </div>
              ) : null
            }}
          />
          <Scatter
            data={drawn}
            dataKey="y"
            stroke="var(--ink)"
            shape={(props: Omit<PlotMarkProps, 'fill' | 'isNow'> & { payload?: Mark }) => {
              const row = props.payload?.row ?? nowRow
              const { cx, cy, size } = props
              return <PlotMark {...{ cx, cy, size, fill: lookOf(row).fill }} isNow={row === nowRow} />
            }}
            isAnimationActive={false}
            onClick={(point) => onPick((point as unknown as { payload: Mark }).payload.row)}
          />
        </ComposedChart>
      </div>
    </div>
  )
})
