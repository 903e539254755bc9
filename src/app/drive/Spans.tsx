import { Handle } from '../controls/Handle.tsx'
import { edit } from '../store/project-store.ts'

/** A time that begins and ends on the axis; `toMs` null: it goes on to the end. */
export interface AxisSpan {
  name: string
  /** Where the project has it. */
  path: string
  fromMs: number
  toMs: number | null
}

interface SpansProps {
  spans: readonly AxisSpan[]
  endMs: number
  /** px of the axis for an instant. */
  x: (ms: number) => number
  top: number
  height: number
}

/** Step of the handles, ms. */
const stepMs = 50

/** The edges of spans on the axis, dragged: times without network, and times in which faults strike. */
export function Spans({ spans, endMs, x, top, height }: SpansProps) {
  const pxPerStep = (x(endMs) - x(0)) / (endMs / stepMs)
  const steps = (ms: number) => Math.round(ms / stepMs)
  const put = (span: AxisSpan, which: 'fromMs' | 'toMs', step: number) =>
    edit(`${span.name} ${which}`, [{ op: 'replace', path: `${span.path}/${which}`, value: step * stepMs }])
  return spans.map((span, i) => {
    const toMs = span.toMs ?? endMs
    // Edges of several spans at one instant would hide each other.
    const place = { top: top + 4 + ((14 * i) % Math.max(14, height - 24)), height: 12 }
    return (
      <div key={span.path} className="tt-spans">
        <Handle
          label={`${span.name}, from`}
          axis="x"
          value={steps(span.fromMs)}
          min={0}
          max={steps(toMs)}
          text={`${span.fromMs} ms`}
          pxPerUnit={pxPerStep}
          style={{ ...place, left: x(Math.min(endMs, span.fromMs)) }}
          onChange={(step) => put(span, 'fromMs', step)}
        />
        <Handle
          label={`${span.name}, until`}
          axis="x"
          value={steps(toMs)}
          min={steps(span.fromMs)}
          max={steps(3_600_000)}
          text={span.toMs === null ? 'the end' : `${span.toMs} ms`}
          pxPerUnit={pxPerStep}
          style={{ ...place, left: x(Math.min(endMs, toMs)) }}
          onChange={(step) => put(span, 'toMs', step)}
        />
      </div>
    )
  })
}
