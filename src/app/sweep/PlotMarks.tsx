import { createContext, memo, useCallback, useContext, useState } from 'react'
import { createPortal } from 'react-dom'
import { useXAxisScale, useYAxisScale } from 'recharts'
import type { Interval } from '../../core/compare/intervals.ts'
import type { RowName } from './sweep-store.ts'

/** A row of a sweep where its figures put it. */
export interface Mark {
  row: RowName
  x: Interval
  y: Interval
  /** Null: nothing of the kind happened. */
  size: Interval | null
  /** Its settings in words. */
  text: string
  /** No other row beats it in the metrics that are drawn. */
  isFront: boolean
  rank: Rank
}

/** How a mark is emphasised: later ones are drawn over the others. */
export type Rank = 'plain' | 'front' | 'now' | 'picked'

const fills: Record<Rank, string> = {
  plain: 'var(--line)',
  front: 'var(--shown)',
  now: 'var(--tug)',
  picked: 'var(--ink)',
}
const ranks = Object.keys(fills) as Rank[]

export interface Drawing {
  marks: readonly Mark[]
  hovered: RowName | null
  onHover: (row: RowName | null) => void
  onPick: (row: RowName) => void
  /** The label beside a mark. */
  Details: (props: { mark: Mark }) => React.ReactNode
  /** Where that is put; null before it is on the page. */
  room: HTMLElement | null
}

/** Marks get what is drawn past the chart, which stays as it is while rows arrive. */
export const PlotDrawing = createContext<Drawing | null>(null)

/** Room for a mark’s label, below it, px. */
const detailsWidth = 260
/** The least and the most radius of a mark, px. */
const radii = [3.6, 8] as const

/** The marks of a trade-off with their intervals and the line of the front, in the scales of the chart around them. */
export function PlotMarks() {
  const { marks, hovered, onHover, onPick, Details, room } = useContext(PlotDrawing)!
  // The row under the pointer among the maps is described there.
  const [over, setOver] = useState<RowName | null>(null)
  const enter = useCallback(
    (row: RowName | null) => {
      setOver(row)
      onHover(row)
    },
    [onHover],
  )
  const across = useXAxisScale()
  const up = useYAxisScale()
  if (!across || !up) return null
  const at = (value: number, scale: typeof across) => scale(value) ?? 0
  const sizes = marks.map(({ size }) => size?.median ?? 0)
  const [least, most] = [Math.min(...sizes), Math.max(...sizes)]
  // The area represents the value, not the width.
  const radiusOf = (size: number) =>
    Math.sqrt(radii[0] ** 2 + (radii[1] ** 2 - radii[0] ** 2) * (most > least ? (size - least) / (most - least) : 0.5))
  const placed = marks.map((mark) => ({
    ...mark,
    cx: at(mark.x.median, across),
    cy: at(mark.y.median, up),
    radius: radiusOf(mark.size?.median ?? 0),
  }))
  const front = placed.filter(({ isFront }) => isFront).sort((one, other) => one.cx - other.cx)
  const hoveredMark = placed.find(({ row }) => row === hovered)
  return (
    <g>
      {front.length > 1 && (
        <polyline
          points={front.map(({ cx, cy }) => `${cx},${cy}`).join(' ')}
          fill="none"
          stroke="var(--deep)"
          strokeDasharray="4 3"
        />
      )}
      {placed
        .toSorted((one, other) => ranks.indexOf(one.rank) - ranks.indexOf(other.rank))
        .map(({ row, x, y, rank, cx, cy, radius }) => (
          <PlotMark
            key={row}
            {...{ row, rank, cx, cy, radius, onPick }}
            onHover={enter}
            left={at(x.low, across)}
            right={at(x.high, across)}
            bottom={at(y.low, up)}
            top={at(y.high, up)}
          />
        ))}
      {hoveredMark && (
        <>
          <circle
            className="tt-plot-ring"
            cx={hoveredMark.cx}
            cy={hoveredMark.cy}
            r={hoveredMark.radius + 4}
            fill="none"
            stroke="var(--ink)"
            strokeWidth={2}
          />
          {room &&
            over === hovered &&
            createPortal(
              <div
                className="tt-card tt-trade-details"
                style={{
                  top: hoveredMark.cy + 14,
                  left: Math.max(0, Math.min(hoveredMark.cx + 14, room.clientWidth - detailsWidth)),
                }}
              >
                <Details mark={hoveredMark} />
              </div>,
              room,
            )}
        </>
      )}
    </g>
  )
}

interface PlotMarkProps {
  row: RowName
  rank: Rank
  /** Where it is, px; the ends of its intervals likewise. */
  cx: number
  cy: number
  radius: number
  left: number
  right: number
  top: number
  bottom: number
  onHover: (row: RowName | null) => void
  onPick: (row: RowName) => void
}

/** A mark that stays where it was is not drawn again when others come. */
const PlotMark = memo(({ row, rank, cx, cy, radius, left, right, top, bottom, onHover, onPick }: PlotMarkProps) => {
  const half = radius * 1.3
  return (
    <g
      className="tt-plot-mark"
      data-rank={rank}
      data-row={row}
      onPointerEnter={() => onHover(row)}
      onPointerLeave={() => onHover(null)}
      onClick={() => onPick(row)}
    >
      <path d={`M${left} ${cy}H${right}M${cx} ${top}V${bottom}`} stroke="var(--quiet)" />
      {rank === 'now' ? (
        <path
          d={`M${cx} ${cy - half}l${half} ${half}l${-half} ${half}l${-half} ${-half}z`}
          fill={fills.now}
          stroke="var(--ink)"
        />
      ) : (
        <circle cx={cx} cy={cy} r={radius} fill={fills[rank]} stroke="var(--ink)" />
      )}
    </g>
  )
})
