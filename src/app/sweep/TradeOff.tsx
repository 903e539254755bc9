import { memo, useMemo, useState } from 'react'
import { CartesianGrid, ComposedChart, DefaultZIndexes, ReferenceArea, XAxis, YAxis, ZIndexLayer } from 'recharts'
import type { Budget } from '../../core/compare/budgets.ts'
import type { MetricId } from '../../core/profile/figures/metric-definitions.ts'
import { niceTicks } from '../map/nice-ticks.ts'
import { useWidth } from '../controls/use-width.ts'
import { saveBlob } from '../store/save-file.ts'
import { Chip } from '../controls/Chip.tsx'
import { figureOf, formatFigure, type Figure } from '../runs/figures.ts'
import { PlotDrawing, PlotMarks, type Drawing, type Mark, type Rank } from './PlotMarks.tsx'
import type { DrawnRow, RowName } from './sweep-store.ts'
import { settingsWord } from './words.ts'

interface TradeOffProps {
  rows: readonly DrawnRow[]
  /** Rows that no other beats in the two metrics that are drawn. */
  front: readonly RowName[]
  x: MetricId
  y: MetricId
  /** The metric that the size of a mark shows. */
  size: MetricId
  /** Budgets that are about what was simulated. */
  budgets: readonly Budget[]
  picked: number | null
  /** The row under the pointer, here or among the maps. */
  hovered: RowName | null
  onHover: (row: RowName | null) => void
  onPick: (row: RowName) => void
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

/** The value at a tick as plain text: Recharts would measure its own and break it into lines, on the page's thread. */
const tickOf =
  (form: (value: number) => string, textAnchor: 'middle' | 'end', down: number) =>
  ({ x, y, payload }: { x?: number | string; y?: number | string; payload?: { value: number } }) => (
    <text x={Number(x)} y={Number(y) + down} textAnchor={textAnchor} fill="var(--quiet)" fontSize={11}>
      {payload && form(payload.value)}
    </text>
  )

/** So many fit. */
const aboutTicks = 5

/** An axis with ticks of our own, which are its ends as well: Recharts measures nothing for them, and needs no data. */
const scaleOf = (ticks: number[]) =>
  ({ ticks, domain: [ticks[0]!, ticks.at(-1)!], allowDataOverflow: true, interval: 0, niceTicks: 'none' }) as const

interface FrameProps {
  wide: number
  x: MetricId
  y: MetricId
  /** Range of what is drawn. */
  xFrom: number
  xTo: number
  yFrom: number
  yTo: number
  /** The limits of budgets of the two metrics. */
  mostX: number | undefined
  mostY: number | undefined
}

/** Axes, grid and the budgets' corner: drawn again when they change, not with each row. */
const Frame = memo(({ wide, x, y, xFrom, xTo, yFrom, yTo, mostX, mostY }: FrameProps) => {
  const [across, up] = [figureOf(x), figureOf(y)]
  const [xTicks, yTicks] = [niceTicks([xFrom, xTo], aboutTicks), niceTicks([yFrom, yTo], aboutTicks)]
  return (
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
        {...scaleOf(xTicks)}
        tick={tickOf((value) => formatFigure(across, value), 'middle', 12)}
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
        {...scaleOf(yTicks)}
        tick={tickOf((value) => formatFigure(up, value), 'end', 4)}
        stroke="var(--line)"
      />
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
      {/* Over the grid and the budgets' corner. */}
      <ZIndexLayer zIndex={DefaultZIndexes.scatter}>
        <PlotMarks />
      </ZIndexLayer>
    </ComposedChart>
  )
})

/** Rows by two of their figures, the size by a third: the trade-off. */
export const TradeOff = memo((props: TradeOffProps) => {
  const { rows, front, x, y, size, budgets, picked, hovered, onHover, onPick } = props
  const [box, wide] = useWidth<HTMLDivElement>(400)
  const [room, setRoom] = useState<HTMLDivElement | null>(null)
  const rankOf = (row: RowName): Rank => {
    if (row === 'now') return 'now'
    if (row === picked) return 'picked'
    return front.includes(row) ? 'front' : 'plain'
  }
  const marks = rows.flatMap(({ row, settings, metrics }): Mark[] => {
    const [a, b] = [metrics[x], metrics[y]]
    if (!a || !b) return []
    return [
      {
        row,
        x: a,
        y: b,
        size: metrics[size],
        text: row === 'now' ? 'as it is now' : settingsWord(settings),
        isFront: front.includes(row),
        rank: rankOf(row),
      },
    ]
  })
  const ends = (of: 'x' | 'y'): [number, number] =>
    marks.length === 0
      ? [0, 1]
      : [Math.min(...marks.map((mark) => mark[of].low)), Math.max(...marks.map((mark) => mark[of].high))]
  const [[xFrom, xTo], [yFrom, yTo]] = [ends('x'), ends('y')]
  const [across, up] = [figureOf(x), figureOf(y)]
  const limit = (metric: MetricId) =>
    budgets.find((each) => each.metric === metric && each.max !== undefined && each.relativeTo === undefined)?.max
  // The same function while the figures are the same: a mark’s tooltip is not rebuilt with each row.
  const Details = useMemo(() => detailsBy([figureOf(x), figureOf(y), figureOf(size)]), [x, y, size])
  const drawing: Drawing = { marks, hovered, onHover, onPick, Details, room }
  return (
    <div className="tt-trade-off" ref={box}>
      <Chip className="tt-save-plot" data-explain="The plot as a file" onClick={() => savePlot(box.current)}>
        SVG
      </Chip>
      <div
        role="img"
        aria-label={`${up.name} against ${across.name}: ${marks.map((mark) => `${mark.text}: ${formatFigure(across, mark.x.median)}, ${formatFigure(up, mark.y.median)}`).join('; ')}`}
      >
        <p className="tt-quiet" aria-hidden>
          ↑ {up.name}
          {marks.length === 0 && ' · nothing is simulated yet'}
        </p>
        <div className="tt-trade-room" ref={setRoom}>
          <PlotDrawing value={drawing}>
            <Frame {...{ wide, x, y, xFrom, xTo, yFrom, yTo }} mostX={limit(x)} mostY={limit(y)} />
          </PlotDrawing>
        </div>
      </div>
    </div>
  )
})

/** A mark's settings and the three figures that place it, each with its interval. */
const detailsBy = ([x, y, size]: readonly [Figure, Figure, Figure]) =>
  function MarkText({ mark }: { mark: Mark }) {
    return (
      <>
        <strong>{mark.text}</strong>
        {(
          [
            [x, mark.x],
            [y, mark.y],
            [size, mark.size],
          ] as const
        ).map(([figure, interval], i) => (
          <div key={i}>
            {figure.name} {interval ? formatFigure(figure, interval.median) : '–'}{' '}
            {interval && (
              <span className="tt-quiet">
                {figure.form(interval.low).text}–{figure.form(interval.high).text}
              </span>
            )}
          </div>
        ))}
      </>
    )
  }
