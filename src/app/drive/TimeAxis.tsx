import { useMemo, useRef, type KeyboardEvent, type PointerEvent } from 'react'
import type { Fault, NetworkSettings, Step } from '../../core/project/types.ts'
import type { Timeline } from '../../core/scrolling/timeline.ts'
import { useWidth } from '../controls/use-width.ts'
import { bands, flagOf } from './happenings.ts'
import { Spans, type AxisSpan } from './Spans.tsx'

interface TimeAxisProps {
  steps: readonly Step[]
  timeline: Timeline
  /** Height of a row with its gap, and of the screen, dp. */
  pitchDp: number
  screenDp: number
  network: NetworkSettings
  selected: number | null
  onSelect: (step: number) => void
  /** A point was dragged: so many ms later, so many dp further down. */
  onMove: (step: number, ms: number, dp: number) => void
  onDelete: (step: number) => void
}

const room = { left: 46, right: 12, top: 14, bottom: 40 }
const height = 168

/** The gesture as a curve of position over time; events of the script as bands and flags on the same axis. */
export function TimeAxis({
  steps,
  timeline,
  pitchDp,
  screenDp,
  network,
  selected,
  onSelect,
  onMove,
  onDelete,
}: TimeAxisProps) {
  const [box, width] = useWidth<HTMLDivElement>(900)
  const endMs = Math.max(1000, timeline.endMs)
  const curve = useMemo(
    () => Array.from({ length: 401 }, (_, i) => ({ ms: (i / 400) * endMs, top: timeline.topAt((i / 400) * endMs) })),
    [timeline, endMs],
  )
  const deepest = Math.max(...curve.map(({ top }) => top), screenDp) + screenDp
  const x = (ms: number) => room.left + (ms / endMs) * (width - room.left - room.right)
  const y = (dp: number) => room.top + (dp / deepest) * (height - room.top - room.bottom)
  const path = curve.map(({ ms, top }, i) => `${i === 0 ? 'M' : 'L'}${x(ms).toFixed(1)} ${y(top).toFixed(1)}`).join('')
  const under = curve
    .toReversed()
    .map(({ ms, top }) => `L${x(ms).toFixed(1)} ${y(top + screenDp).toFixed(1)}`)
    .join('')
  const drag = useRef<{ step: number; x: number; y: number; perPx: { ms: number; dp: number } } | null>(null)
  const perPx = { ms: endMs / (width - room.left - room.right), dp: deepest / (height - room.top - room.bottom) }
  const onPointerMove = (event: PointerEvent) => {
    const from = drag.current
    if (!from) return
    const ms = (event.clientX - from.x) * from.perPx.ms
    const dp = (event.clientY - from.y) * from.perPx.dp
    if (Math.abs(event.clientX - from.x) + Math.abs(event.clientY - from.y) < 2) return
    onMove(from.step, ms, dp)
    drag.current = { ...from, x: event.clientX, y: event.clientY }
  }
  const onKey = (step: number) => (event: KeyboardEvent) => {
    const by = event.shiftKey ? 5 : 1
    const moves: Record<string, [number, number]> = {
      ArrowRight: [50, 0],
      ArrowLeft: [-50, 0],
      ArrowDown: [0, pitchDp],
      ArrowUp: [0, -pitchDp],
    }
    const move = moves[event.key]
    if (move) onMove(step, move[0] * by, move[1] * by)
    else if (event.key === 'Delete' || event.key === 'Backspace') onDelete(step)
    else if (event.key === 'Enter' || event.key === ' ') onSelect(step)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  const everyS = secondsBetweenMarks(endMs)
  return (
    <div className="tt-axis" ref={box}>
      <svg
        width={width}
        height={height}
        onPointerMove={onPointerMove}
        onPointerUp={() => (drag.current = null)}
        onPointerCancel={() => (drag.current = null)}
      >
        <title>{`The gesture over ${(endMs / 1000).toFixed(1)} seconds`}</title>
        {spans(steps, timeline, network, endMs).map(({ from, to, name, look }, i) => (
          <g key={i} className={`tt-band is-${look}`}>
            <rect
              x={x(from)}
              y={room.top}
              width={Math.max(2, x(to) - x(from))}
              height={height - room.top - room.bottom}
            />
            <text x={x(from) + 4} y={room.top + 12}>
              {name}
            </text>
          </g>
        ))}
        <path d={`${path}${under}Z`} className="tt-axis-channel" />
        <path d={path} className="tt-axis-curve" />
        {[0, 0.5, 1].map((share) => {
          const dp = share * (deepest - screenDp)
          return (
            <text key={share} x={4} y={y(dp) + 4} className="tt-axis-word">
              row {Math.round(dp / pitchDp)}
            </text>
          )
        })}
        {Array.from({ length: Math.floor(endMs / 1000 / everyS) + 1 }, (_, i) => (
          <text key={i} x={x(i * everyS * 1000)} y={height - 6} className="tt-axis-word" textAnchor="middle">
            {i * everyS} s
          </text>
        ))}
        {timeline.marks.map(({ step, fromMs, top }) => {
          const flag = flagOf(steps[step]!)
          if (flag === null || isBandEnd(steps[step]!)) return null
          const at = height - room.bottom + 12 * (step % 2) + 4
          return (
            <g key={step} className="tt-flag">
              <line x1={x(fromMs)} x2={x(fromMs)} y1={y(top)} y2={at + 4} />
              <text x={x(fromMs) + 4} y={at + 4}>
                {flag}
              </text>
            </g>
          )
        })}
      </svg>
      <Spans spans={draggable(network)} endMs={endMs} x={x} top={room.top} height={height - room.top - room.bottom} />
      {timeline.marks.map(({ step, fromMs, top }) => {
        const each = steps[step]!
        if (each.do === 'wait') return null
        return (
          <button
            key={step}
            type="button"
            className="tt-axis-point"
            data-kind={flagOf(each) === null ? 'gesture' : 'flag'}
            aria-pressed={selected === step}
            style={{ left: x(fromMs), top: flagOf(each) === null ? y(top) : height - room.bottom + 2 }}
            aria-label={`${describeStep(each)}, at ${(fromMs / 1000).toFixed(2)} s`}
            data-explain={`${describeStep(each)}, at ${(fromMs / 1000).toFixed(2)} s. Drag it, or use the arrow keys; Delete removes it.`}
            onKeyDown={onKey(step)}
            onClick={() => onSelect(step)}
            onPointerDown={(event) => {
              onSelect(step)
              drag.current = { step, x: event.clientX, y: event.clientY, perPx }
              event.currentTarget.setPointerCapture(event.pointerId)
            }}
            onPointerMove={onPointerMove}
            onPointerUp={() => (drag.current = null)}
          />
        )
      })}
    </div>
  )
}

const isBandEnd = (step: Step) => bands.some(({ to, from }) => to === step.do || from === step.do)

/** A step in a few words. */
export function describeStep(step: Step): string {
  switch (step.do) {
    case 'wait':
      return `wait ${step.ms} ms`
    case 'drag':
      return `drag ${Math.round(step.dp)} dp in ${Math.round(step.ms)} ms`
    case 'flick':
      return `flick at ${Math.round(step.dpPerS)} dp/s`
    case 'to':
      return `to ${step.where === 'start' || step.where === 'end' ? `the ${step.where}` : `row ${step.where}`} at ${Math.round(step.dpPerS)} dp/s`
    case 'jump':
      return `jump to row ${step.row}`
    default:
      return flagOf(step)!
  }
}

interface Span {
  from: number
  to: number
  name: string
  look: string
}

/** Everything that has a duration: pairs of steps, times without network, faults that may strike throughout. */
function spans(steps: readonly Step[], timeline: Timeline, network: NetworkSettings, endMs: number): Span[] {
  const paired = timeline.marks.flatMap(({ step, fromMs }): Span[] => {
    const band = bands.find(({ from }) => from === steps[step]!.do)
    if (!band) return []
    const end = timeline.marks.find((mark) => mark.step > step && steps[mark.step]!.do === band.to)
    return [{ from: fromMs, to: end?.fromMs ?? endMs, name: band.name, look: band.look }]
  })
  const outages = network.offline.map(({ fromMs, toMs }): Span => ({
    from: Math.min(endMs, fromMs),
    to: Math.min(endMs, toMs),
    name: 'no network',
    look: 'offline',
  }))
  const faults = network.faults.map((fault): Span => ({
    from: Math.min(endMs, fault.fromMs),
    to: Math.min(endMs, fault.toMs ?? endMs),
    name: faultName(fault),
    look: 'fault',
  }))
  return [...faults, ...paired, ...outages]
}

const faultName = ({ kind, status, match, rate }: Fault) =>
  `${kind === 'status' ? status : kind} from ${match}${rate < 1 ? `, ${Math.round(rate * 100)} %` : ''}`

/** Times set in the network itself: their edges are dragged. */
function draggable({ offline, faults }: NetworkSettings): AxisSpan[] {
  return [
    ...offline.map(({ fromMs, toMs }, i) => ({
      name: `No network ${i + 1}`,
      path: `/network/offline/${i}`,
      fromMs,
      toMs,
    })),
    ...faults.map((fault, i) => ({
      name: `Fault ${i + 1}, ${faultName(fault)}`,
      path: `/network/faults/${i}`,
      fromMs: fault.fromMs,
      toMs: fault.toMs,
    })),
  ]
}

function secondsBetweenMarks(endMs: number): number {
  if (endMs > 40_000) return 10
  return endMs > 12_000 ? 5 : 1
}
