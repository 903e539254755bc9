import { useMemo, useState } from 'react'
import { useSearchParams } from 'react-router'
import { ListLayout } from '../../core/layout/list-layout.ts'
import { FeedList } from '../../core/feed/feed-list.ts'
import { unitsPerDp } from '../../core/numbers/units.ts'
import { scriptFor, scriptPresets } from '../../core/project/presets.ts'
import type { Step } from '../../core/project/types.ts'
import { insertSteps, removeStep } from '../../core/scrolling/edit-script.ts'
import { timelineOf } from '../../core/scrolling/timeline.ts'
import { useItems } from '../feed/use-items.ts'
import { useDevice } from '../device/device-store.ts'
import { startRecording, stopRecording, useRecording } from '../device/recording.ts'
import { edit, notify, useProject } from '../store/project-store.ts'
import { Faults } from './Faults.tsx'
import { additions } from './happenings.ts'
import { movePoint } from './move-point.ts'
import { PointDetails } from './PointDetails.tsx'
import { Repeat } from './Repeat.tsx'
import { StepMode } from './StepMode.tsx'
import { TimeAxis } from './TimeAxis.tsx'
import { Visits } from './Visits.tsx'
import { DeviceAndNetwork } from './DeviceAndNetwork.tsx'
import { Chip } from '../controls/Chip.tsx'
import { LazyPart } from '../shell/LazyPart.tsx'

const recordedView = () => import('../evidence/RecordedView.tsx')

/** A run of the bench, which repeats a gesture, or one that was recorded from the real app. */
export default function DriveStep() {
  const [params, setParams] = useSearchParams()
  const isRecorded = params.get('run') === 'recorded'
  const show = (run: string | null) => setParams(run === null ? {} : { run })
  return (
    <div className="tt-step">
      <div className="tt-drive-head">
        <h1>{isRecorded ? 'Drive · the real app, recorded' : 'Drive · the same gesture, again'}</h1>
        <div className="tt-swatches tt-drive-kinds" role="group" aria-label="Where the run comes from">
          <Chip aria-pressed={!isRecorded} data-explain="Live on the device, or simulated" onClick={() => show(null)}>
            live and simulated
          </Chip>
          <Chip
            aria-pressed={isRecorded}
            data-explain="The run of a real app: through the bench, or from its files"
            onClick={() => show('recorded')}
          >
            recorded
          </Chip>
        </div>
      </div>
      <p className="tt-lead is-spare">
        {isRecorded
          ? 'Point the app at the bench and scroll it, or bring what it left behind. The map grows as it loads.'
          : 'Draw how the screen moves; put what happens to it on the same axis. Live and simulated runs follow it to the dp.'}
      </p>
      {isRecorded ? (
        <LazyPart name="Recorded runs" load={recordedView} fallback={<p className="tt-quiet">Opening…</p>} />
      ) : (
        <Gesture />
      )}
    </div>
  )
}

/** The gesture that every run repeats, and what happens to the app meanwhile, on one time axis. */
function Gesture() {
  const { project } = useProject()!
  const chosen = useDevice(({ screen }) => screen)
  const mode = useDevice(({ mode }) => mode)
  const recording = useRecording()
  const [selected, setSelected] = useState<number | null>(null)
  const number = Math.min(chosen, project.screens.length - 1)
  const screen = project.screens[number]!
  const { items } = useItems(screen)
  const at = project.scripts.findIndex(({ name }) => name === project.script)
  const script = project.scripts[Math.max(0, at)]
  const steps = useMemo(() => script?.steps ?? [], [script])
  const { widthDp, heightDp, flick } = project.device
  const extent = useMemo(() => {
    const feed = new FeedList(screen.feed)
    feed.append(items)
    feed.complete()
    const layout = new ListLayout(screen, widthDp, feed)
    const max = Math.max(0, layout.total / unitsPerDp - heightDp)
    return {
      max,
      rows: layout.rowCount,
      pitchDp: Math.max(1, layout.total / unitsPerDp / Math.max(1, layout.rowCount)),
      topOfRow: (row: number) =>
        layout.rowCount === 0 ? 0 : layout.topOf(Math.min(row, layout.rowCount - 1)) / unitsPerDp,
    }
  }, [screen, items, widthDp, heightDp])
  const timeline = useMemo(() => timelineOf(steps, flick, extent), [steps, flick, extent])
  const otherScreen = project.screens.find((_, i) => i !== number)?.id ?? screen.id
  const save = (name: string, next: readonly Step[]) =>
    edit(name, [{ op: 'replace', path: `/scripts/${Math.max(0, at)}/steps`, value: next }])
  const pick = (name: string) => {
    const known = project.scripts.some((each) => each.name === name)
    const preset = scriptPresets.find((each) => each.name === name)
    const fitted = preset && scriptFor(preset, { rows: extent.rows, endDp: extent.max, otherScreen })
    edit('script', [
      ...(known || !fitted ? [] : [{ op: 'replace' as const, path: '/scripts', value: [...project.scripts, fitted] }]),
      { op: 'replace', path: '/script', value: name },
    ])
    setSelected(null)
  }
  const record = () => {
    if (!recording) return startRecording()
    const recorded = stopRecording()
    if (!recorded) return void notify('Nothing was recorded: drag or flick the device while it records.')
    const taken = new Set(project.scripts.map((each) => each.name))
    let name = 'My hand'
    for (let n = 2; taken.has(name); n++) name = `My hand ${n}`
    edit('record', [
      { op: 'replace', path: '/scripts', value: [...project.scripts, { name, steps: recorded }] },
      { op: 'replace', path: '/script', value: name },
    ])
  }
  const names = [...project.scripts.map(({ name }) => name), ...scriptPresets.map(({ name }) => name)].filter(
    (name, i, all) => all.indexOf(name) === i,
  )
  const farthest = Math.max(
    0,
    ...timeline.marks.map(({ toMs }) => timeline.topAt(toMs)),
    timeline.topAt(timeline.endMs),
  )
  return (
    <>
      <div className="tt-swatches tt-scripts" role="group" aria-label="Gesture">
        {names.map((name) => (
          <Chip key={name} aria-pressed={script?.name === name} onClick={() => pick(name)}>
            {name}
          </Chip>
        ))}
        <Chip data-recording={recording ? '' : undefined} disabled={mode !== 'hand'} onClick={record}>
          {recording ? '■ stop recording' : '● record my hand'}
        </Chip>
        {project.scripts.length > 1 && at >= 0 && (
          <Chip
            data-explain={`Removes the gesture “${script?.name}” from the project`}
            onClick={() =>
              edit('scripts', [
                { op: 'remove', path: `/scripts/${at}` },
                { op: 'replace', path: '/script', value: project.scripts[at === 0 ? 1 : 0]!.name },
              ])
            }
          >
            remove this gesture
          </Chip>
        )}
        <span className="tt-quiet">
          {(timeline.endMs / 1000).toFixed(1)} s · farthest row {Math.round(farthest / extent.pitchDp)} · fastest{' '}
          {Math.round(timeline.fastest).toLocaleString('en')} dp/s
        </span>
      </div>
      <div className="tt-card tt-axis-card">
        <TimeAxis
          steps={steps}
          timeline={timeline}
          pitchDp={extent.pitchDp}
          screenDp={heightDp}
          network={project.network}
          selected={selected}
          onSelect={setSelected}
          onMove={(step, ms, dp) => {
            const next = movePoint(steps, step, ms, dp, { flickMs: flick.timeMs, pitchDp: extent.pitchDp })
            save('gesture', next)
            setSelected(step + next.length - steps.length)
          }}
          onDelete={(step) => {
            save('gesture', removeStep(steps, step))
            setSelected(null)
          }}
        />
        <div className="tt-swatches" role="group" aria-label="Add to the gesture">
          {additions(otherScreen).map(({ name, explain, steps: added }) => (
            <Chip
              key={name}
              data-explain={`${explain}; behind the selected point, or at the end`}
              onClick={() =>
                save(
                  'gesture',
                  insertSteps(
                    steps,
                    selected === null ? steps.length - 1 : selected + (steps[selected + 1]?.do === 'wait' ? 1 : 0),
                    added,
                  ),
                )
              }
            >
              + {name}
            </Chip>
          ))}
        </div>
        {selected !== null && steps[selected] && (
          <PointDetails
            step={steps[selected]}
            path={`/scripts/${Math.max(0, at)}/steps/${selected}`}
            onDelete={() => {
              save('gesture', removeStep(steps, selected))
              setSelected(null)
            }}
          />
        )}
      </div>
      <div className="tt-cards tt-drive-cards">
        <DeviceAndNetwork project={project} />
        <Visits />
      </div>
      <div className="tt-folds tt-drive-folds">
        <Faults network={project.network} />
        <StepMode project={project} screen={screen} items={items} />
        <Repeat />
      </div>
    </>
  )
}
