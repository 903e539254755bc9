import type { ReactNode } from 'react'
import type { Span, ThreadsLens } from '../../../core/profile/views/lenses/threads-lens.ts'
import type { Metrics } from '../../../core/profile/figures/metric-definitions.ts'
import { useWidth } from '../../controls/use-width.ts'
import { FigureList } from './FigureList.tsx'

const laneHeight = 13
/** The most times that are listed, without the one at the beginning. */
const marks = 5
/** Aligns a moment with the same moment of the map: the card's own edge and padding are 13 px of the map's 47. */
const left = 34
const beyond = 2
const classNames = ['on screen', 'coming up', 'just left', 'not needed now']

/** As much of a lane's name as fits before it; its title has all of it. */
const short = (name: string) =>
  name.replace('main thread', 'main').replace('fetch slot', 'slot').replace('decoder', 'dec.')

/**
 * What each thread did when: the main thread, each fetch slot, each decoder, over the run; between the marks they were
 * idle.
 */
export function ThreadsView({
  part,
  lens,
  metrics,
  onRequest,
}: {
  part: ReactNode
  lens: ThreadsLens
  metrics: Metrics
  onRequest: (request: number) => void
}) {
  const [box, width] = useWidth<HTMLDivElement>(900)
  const x = (ms: number) =>
    left + ((ms - lens.fromMs) / Math.max(1, lens.endMs - lens.fromMs)) * (width + beyond - left)
  const height = lens.lanes.length * laneHeight + 16
  return (
    <section className="tt-card tt-lens-view" aria-label="Threads" tabIndex={0}>
      <FigureList
        metrics={metrics}
        figures={[
          ['threads.mainBusyShare', 'main thread busy', '%', 1],
          ['threads.fetchBusyShare', 'fetch slots busy', '%', 1],
          ['threads.decodeBusyShare', 'decoders busy', '%', 1],
          ['threads.decodePeak', 'decoders at once', ''],
          ['requests.peakActive', 'fetches at once', ''],
          ['requests.inversionMs', 'priority inversion', 'ms'],
        ]}
      />
      {part}
      <div ref={box}>
        <svg
          width={width}
          height={height}
          className="tt-threads"
          role="img"
          aria-label={`${lens.lanes.map(({ name, busyShare }) => `${name} ${busyShare === null ? 'unknown' : `${Math.round(100 * busyShare)} % busy`}`).join(', ')}; ${lens.inversions.length} priority inversions`}
        >
          {lens.inversions.map(({ fromMs, toMs }) => (
            <rect
              key={fromMs}
              className="tt-inversion"
              x={x(fromMs)}
              width={Math.max(1, x(toMs) - x(fromMs))}
              y={0}
              height={height - 16}
            >
              <title>{`On screen waited while a lower one had the slot: ${Math.round(toMs - fromMs)} ms`}</title>
            </rect>
          ))}
          {lens.lanes.map(({ name, busyShare, spans }, i) => (
            <g key={name}>
              <text x={0} y={i * laneHeight + 10}>
                {short(name)}
              </text>
              <line x1={left} x2={width} y1={i * laneHeight + 7} y2={i * laneHeight + 7} className="tt-idle" />
              <title>{`${name}: ${busyShare === null ? 'not known' : `${(100 * busyShare).toFixed(1)} % busy`}`}</title>
              {spans.map((span, n) => {
                const { fromMs, toMs, request } = span
                return (
                  <rect
                    key={n}
                    className="tt-busy"
                    data-class={span.class ?? undefined}
                    data-pick={request === null ? undefined : ''}
                    x={x(fromMs)}
                    width={Math.max(0.7, x(toMs) - x(fromMs))}
                    y={i * laneHeight + 2}
                    height={laneHeight - 4}
                    onClick={request === null ? undefined : () => onRequest(request)}
                  >
                    <title>{describeSpan(span)}</title>
                  </rect>
                )
              })}
            </g>
          ))}
          {Array.from({ length: marks + 1 }, (_, n) => (
            <text
              key={n}
              className="tt-axis-word"
              x={Math.min(width, x(lens.fromMs + (n / marks) * (lens.endMs - lens.fromMs)))}
              y={height - 3}
              textAnchor={anchorOf(n)}
            >
              {((lens.fromMs + (n * (lens.endMs - lens.fromMs)) / marks) / 1000).toFixed(1)} s
            </text>
          ))}
        </svg>
      </div>
    </section>
  )
}

/** The times at both ends stay within the drawing. */
function anchorOf(mark: number): 'start' | 'middle' | 'end' {
  if (mark === 0) return 'start'
  return mark === marks ? 'end' : 'middle'
}

function describeSpan({ fromMs, toMs, request, class: began }: Span): string {
  const word = began === null ? undefined : classNames[began]
  return [
    `${(fromMs / 1000).toFixed(3)} s`,
    `${(toMs - fromMs).toFixed(1)} ms`,
    ...(request === null ? [] : [`request ${request}`]),
    ...(word === undefined ? [] : [`${word} when it began`]),
  ].join(', ')
}
