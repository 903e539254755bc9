import Table from 'react-bootstrap/Table'
import type { ReactNode } from 'react'
import type { FramesLens } from '../../../core/profile/views/lenses/frames-lens.ts'
import type { Metrics } from '../../../core/profile/figures/metric-definitions.ts'
import { Bars } from './Bars.tsx'
import { Plumb } from './Plumb.tsx'
import { FigureList } from './FigureList.tsx'
import { TextButton } from '../../controls/TextButton.tsx'

const parts = { drag: 'dragged', flick: 'gliding on from a flick', app: 'moved by the app', rest: 'at rest' } as const
function lateWord(refreshes: number, last: number): string {
  if (refreshes === 0) return 'on time'
  if (refreshes === last) return `${refreshes} or more late`
  return refreshes === 1 ? '1 refresh late' : `${refreshes} late`
}

/** Every frame against its budget: how late they came, in which part of the gesture, and the work of the worst. */
export function FramesView({
  part,
  lens,
  metrics,
  onMoment,
}: {
  part: ReactNode
  lens: FramesLens
  metrics: Metrics
  onMoment: (ms: number) => void
}) {
  const most = Math.max(1, ...lens.late.map(({ frames }) => frames))
  return (
    <section className="tt-card tt-lens-view" aria-label="Frames" tabIndex={0}>
      <FigureList
        metrics={metrics}
        figures={[
          ['frames.count', 'frames', ''],
          ['frames.late', 'late', ''],
          ['frames.missed', 'refreshes missed', ''],
          ['frames.onTimeShare', 'on time while scrolling', '%', 1],
          ['frames.workP50', 'work, median', 'ms', 1],
          ['frames.workP95', '95th of 100', 'ms', 1],
          ['frames.workMax', 'longest', 'ms', 1],
          ['frames.stalled', 'stalled', ''],
        ]}
      />
      {part}
      <Plumb lens={lens} onMoment={onMoment} />
      <div className="tt-lens-columns">
        <div>
          <h2>How late, in refreshes of {lens.refreshMs.toFixed(1)} ms</h2>
          {/* Many frames on time would leave no room for the rest: lengths are by square root. */}
          <Bars
            label="Frames by how late they were"
            nameWidth={112}
            most={Math.sqrt(most)}
            rows={lens.late.map(({ refreshes, frames }) => ({
              name: lateWord(refreshes, lens.late.length - 1),
              text: String(frames),
              onTime: refreshes === 0 ? frames : 0,
              late: refreshes === 0 ? 0 : frames,
            }))}
            series={[
              {
                label: 'on time',
                colour: 'var(--shown)',
                of: (row) => Math.sqrt(row.onTime),
                value: (row) => `${row.onTime} frames`,
              },
              {
                label: 'late',
                colour: 'var(--ink)',
                of: (row) => Math.sqrt(row.late),
                value: (row) => `${row.late} frames`,
              },
            ]}
          />
          <Table size="sm">
            <thead>
              <tr>
                <th scope="col">the list is</th>
                <th scope="col">frames</th>
                <th scope="col">late</th>
                <th scope="col">late by</th>
                <th scope="col">work, 95th</th>
              </tr>
            </thead>
            <tbody>
              {lens.parts
                .filter(({ frames }) => frames > 0)
                .map((part) => (
                  <tr key={part.part}>
                    <th scope="row">{parts[part.part]}</th>
                    <td>{part.frames}</td>
                    <td>{part.late}</td>
                    <td>{part.lateMsPerS.toFixed(1)} ms/s</td>
                    <td>{part.workP95 === null ? '–' : `${part.workP95.toFixed(1)} ms`}</td>
                  </tr>
                ))}
            </tbody>
          </Table>
        </div>
        <div>
          <h2>The worst ten</h2>
          <ol className="tt-worst">
            {lens.worst.map((frame) => (
              <li key={frame.ms}>
                <TextButton data-explain="Moves the cursor there" onClick={() => onMoment(frame.ms + frame.lateMs)}>
                  {(frame.ms / 1000).toFixed(2)} s
                </TextButton>{' '}
                {frame.lateMs > 0 ? `${frame.lateMs.toFixed(1)} ms late` : 'on time'}, {frame.workMs.toFixed(1)} ms of
                work:{' '}
                {frame.causes
                  .slice(0, 4)
                  .map(({ cause, ms }) => `${cause} ${ms.toFixed(1)}`)
                  .join(', ') || 'nothing of ours'}
              </li>
            ))}
          </ol>
        </div>
      </div>
    </section>
  )
}
