import { memo } from 'react'
import {
  ComposedChart,
  CartesianGrid,
  Line,
  ReferenceArea,
  Scatter,
  Symbols,
  type SymbolsProps,
  Tooltip,
  XAxis,
  YAxis,
  ZAxis,
} from 'recharts'
import type { Budget } from '../../core/compare/budgets.ts'
import type { MetricId } from '../../core/profile/figures/metric-definitions.ts'
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

/** A mark that stays where it was is not drawn again when others come. */
const PlotMark = memo(({ isNow, ...at }: Pick<SymbolsProps, 'cx' | 'cy' | 'size' | 'fill'> & { isNow: boolean }) => (
  <Symbols {...at} stroke="var(--ink)" type={isNow ? 'diamond' : 'circle'} />
))

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
  const domain: [number, number] | ['auto', 'auto'] = marks.length === 0 ? [0, 1] : ['auto', 'auto']
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
            domain={domain}
            // Five of them fit: nothing is measured for it.
            interval={0}
            tickFormatter={form(across)}
            tick={{ fill: 'var(--quiet)', fontSize: 11 }}
            stroke="var(--line)"
            label={{ value: `${across.name} →`, position: 'bottom', fill: 'var(--quiet)', fontSize: 12 }}
          />
          <YAxis
            type="number"
            dataKey="y"
            width={64}
            domain={domain}
            interval={0}
            tickFormatter={form(up)}
            tick={{ fill: 'var(--quiet)', fontSize: 11 }}
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
          <Line
            data={line}
            dataKey="y"
            stroke="var(--deep)"
            strokeDasharray="4 3"
            dot={false}
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
            shape={(props: SymbolsProps & { payload?: Mark }) => {
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
