import type { LoadTrack as Track } from '../../../workers/jobs/track-job.ts'
import { Handle } from '../../controls/Handle.tsx'
import { useWidth } from '../../controls/use-width.ts'

interface LoadTrackProps {
  track: Track
  refreshHz: number
  /** The moment at which the load is stopped, ms. */
  at: number
  onAt: (ms: number) => void
  /** Drags the end of the arrival. */
  onArrival: ((ms: number) => void) | null
}

const height = 58
const colours: Record<Track['parts'][number]['what'], string> = {
  'in line': 'var(--cut-fill, var(--cut))',
  'on the way': 'var(--again)',
  receiving: 'var(--early)',
  decoding: 'var(--shown)',
  'waiting for a frame': 'var(--line)',
  arriving: 'var(--hole)',
  settled: 'var(--channel-deep)',
}
/** The least distance between ticks, px. */
const tickPx = 5
/** Width that a label needs, px, without and with its figures. */
const labelPx = 62
const nameFitsPx = 130

/** The load to scale, with a tick a frame; the tug on it stops it at any moment. */
export function LoadTrack(props: LoadTrackProps) {
  if (props.track.end === 'absent')
    return <p className="tt-card tt-quiet">The sample item has no address here: nothing is loaded.</p>
  return <DrawnTrack {...props} />
}

function DrawnTrack({ track, refreshHz, at, onAt, onArrival }: LoadTrackProps) {
  const [area, width] = useWidth<HTMLDivElement>(924)
  const end = track.parts.at(-1)?.toMs ?? 1
  const scale = width / end
  const frameMs = 1000 / refreshHz
  const frames = Math.floor(end / frameMs)
  const ticksEach = Math.max(1, Math.ceil((frames * tickPx) / width))
  const arriving = track.parts.find(({ what }) => what === 'arriving')
  const follow = (clientX: number) => {
    const box = area.current!.getBoundingClientRect()
    onAt(Math.max(0, Math.min(end, ((clientX - box.left) / box.width) * end)))
  }
  return (
    <div className="tt-card tt-track" aria-label="The load" role="group">
      <div
        ref={area}
        className="tt-track-area"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId)
          follow(event.clientX)
        }}
        onPointerMove={(event) => event.buttons > 0 && follow(event.clientX)}
      >
        <svg width={width} height={height} aria-hidden>
          {Array.from({ length: Math.floor(frames / ticksEach) + 1 }, (_, i) => (
            <line
              key={i}
              x1={i * ticksEach * frameMs * scale}
              x2={i * ticksEach * frameMs * scale}
              y1={22}
              y2={27}
              stroke="var(--quiet)"
            />
          ))}
          {track.parts.map(({ what, fromMs, toMs }) => {
            const name = partName(track, what, toMs - fromMs, frameMs)
            const wide = (toMs - fromMs) * scale
            return (
              <g key={what}>
                <rect x={fromMs * scale} y={28} width={Math.max(1, wide)} height={9} fill={colours[what]}>
                  <title>{name}</title>
                </rect>
                {wide > labelPx && (
                  <text x={(fromMs + toMs) * 0.5 * scale} y={52} textAnchor="middle" className="tt-track-label">
                    {partLabel(track, what, wide > nameFitsPx ? name : what)}
                  </text>
                )}
              </g>
            )
          })}
        </svg>
        <div
          className="tt-tug"
          role="slider"
          tabIndex={0}
          style={{ left: `${(at / end) * 100}%` }}
          aria-label="Moment of the load"
          aria-valuemin={0}
          aria-valuemax={Math.round(end)}
          aria-valuenow={Math.round(at)}
          aria-valuetext={`${Math.round(at)} ms`}
          data-explain="Drag me; the arrow keys go frame by frame"
          onKeyDown={(event) => {
            const step = {
              ArrowRight: frameMs,
              ArrowLeft: -frameMs,
              PageDown: 10 * frameMs,
              PageUp: -10 * frameMs,
              Home: -end,
              End: end,
            }[event.key]
            if (step === undefined) return
            event.preventDefault()
            onAt(Math.max(0, Math.min(end, at + step)))
          }}
        >
          <span>{Math.round(at)} ms</span>
          <svg width="26" height="20" viewBox="0 0 30 23" aria-hidden>
            <path className="tug-deck" d="M6 3h7v8H6z" />
            <path className="tug-hull" d="M1 12h28l-4 8H5z" />
          </svg>
        </div>
        {arriving && onArrival && (
          <Handle
            label="End of the arrival"
            axis="x"
            value={Math.round(arriving.toMs - arriving.fromMs)}
            min={0}
            max={5000}
            text={`${Math.round(arriving.toMs - arriving.fromMs)} ms`}
            pxPerUnit={scale}
            onChange={onArrival}
            style={{ left: `${(arriving.toMs / end) * 100}%`, top: 26 }}
          />
        )}
      </div>
    </div>
  )
}

type Part = Track['parts'][number]['what']

/** A part with its figures. */
function partName(track: Track, what: Part, ms: number, frameMs: number): string {
  const name = `${what} ${Math.round(ms)}`
  if (what === 'receiving') return `${name} ms, ${Math.round(track.bytes / 1000)} kB`
  return what === 'arriving' ? `${name} ms, ${Math.round(ms / frameMs)} frames` : name
}

/** The text under a part; under the last one the reason, where there is no picture. */
function partLabel(track: Track, what: Part, name: string): string {
  if (what !== 'settled') return name
  return track.end === 'failed' ? track.reason : what
}
