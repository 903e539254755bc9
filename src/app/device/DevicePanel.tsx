import { dequal } from 'dequal'
import { useEffect, useMemo, useRef, useState, type ComponentType } from 'react'
import Button from 'react-bootstrap/Button'
import type { Project } from '../../core/project/types.ts'
import { Progress } from '../controls/Progress.tsx'
import { usePlayed } from '../playback/playback-store.ts'
import { useItemsKept } from '../store/feed-store.ts'
import { useSecretChanges } from '../store/secrets.ts'
import { useProject } from '../store/project-store.ts'
import {
  cancelWork,
  markNow,
  currentDevice,
  driveLive,
  scaleDevice,
  simulate,
  startHand,
  useDevice,
} from './device-store.ts'
import { LazyPart } from '../shell/LazyPart.tsx'
import { Glass } from './Glass.tsx'
import { useDeviceScale } from './use-device-scale.ts'
import { Chip } from '../controls/Chip.tsx'

/** How long settings must be unchanged before they reach the live list, ms. */
const settleMs = 220

/** The live device: the list at its proportions, its chips, and what drives it. */
export function DevicePanel() {
  const state = useProject()
  const chosen = useDevice(({ screen }) => screen)
  const mode = useDevice(({ mode }) => mode)
  const simulating = useDevice(({ simulating }) => simulating)
  const trouble = useDevice(({ trouble }) => trouble)
  const pace = useDevice(({ pace }) => pace)
  const area = useRef<HTMLDivElement>(null)
  const started = useRef('')
  const [readout, setReadout] = useState(false)
  const playing = usePlayed() !== null
  const scale = useDeviceScale(area, state?.project.device ?? null)

  const listInput = useListInput(state?.project)
  const secretChanges = useSecretChanges()
  const itemsKept = useItemsKept()

  useEffect(() => scaleDevice(scale), [scale])
  useEffect(() => {
    if (!state) return
    const place = `${state.id} ${chosen}`
    const same = started.current === place
    const timer = setTimeout(
      () => {
        started.current = place
        // A drive that was started meanwhile has these settings already.
        if (currentDevice().mode !== 'driving') void startHand(state, same)
      },
      same ? settleMs : 0,
    )
    return () => clearTimeout(timer)
    // What the list is made of is its input; gestures, budgets, saving and notices are not.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [listInput, state?.id, chosen, secretChanges, itemsKept])

  if (!state) return <div className="tt-device-panel" />
  const { project } = state
  const screen = project.screens[Math.min(chosen, project.screens.length - 1)]!
  const { widthDp, heightDp } = project.device
  const busy = mode === 'driving' || simulating
  return (
    <section className="tt-device-panel" aria-label="Device">
      <div className="tt-chips">
        <LazyChip
          name="Screens"
          load={() => import('./ScreenChip.tsx')}
          given={{ name: screen.name || screen.id }}
          text={screen.name || screen.id}
        />
        <LazyChip name="Variants" load={() => import('./VariantChip.tsx')} text="" />
        <LazyChip
          name="Device settings"
          load={() => import('./DeviceChip.tsx')}
          text={`${project.device.refreshHz} Hz`}
        />
        <span
          className="tt-chip"
          tabIndex={0}
          data-explain={`The network that the origin paces its answers by: ${project.network.downKbps / 1000} Mbit/s, ${project.network.rttMs} ms; illustrative values`}
        >
          {project.network.name}
        </span>
      </div>
      <div className="tt-device-area" ref={area}>
        <div className="tt-device" style={{ width: widthDp * scale + 10, height: heightDp * scale + 10 }}>
          <Glass name={screen.name || screen.id} device={project.device} scale={scale} readout={readout} />
          {playing && (
            <LazyPart
              name="Playback"
              load={() => import('../playback/DeviceOverlay.tsx')}
              given={{ scale }}
              fallback={null}
            />
          )}
          <LazyPart name="Feed sign" load={() => import('./FeedSign.tsx')} fallback={null} without={null} />
          <LazyPart name="Readout" load={() => import('./DeviceReadout.tsx')} given={{ on: readout }} fallback={null} />
        </div>
      </div>
      {trouble && (
        <p className="tt-trouble" role="alert">
          {trouble}
        </p>
      )}
      <div className="tt-drive">
        <Button className="tt-main-action" data-hint="drive" onClick={() => void driveLive()} disabled={busy}>
          ▶ Drive live
        </Button>
        <Button variant="outline-primary" onClick={() => void simulate()} disabled={busy}>
          Simulate
        </Button>
        {!busy && (
          <LazyPart
            name="Pace"
            load={() => import('./PaceChip.tsx')}
            given={{ pace, onReplay: () => void startHand(state, true) }}
            fallback={null}
            without={null}
          />
        )}
        {busy && (
          <Button variant="outline-secondary" onClick={cancelWork}>
            Cancel
          </Button>
        )}
      </div>
      <div className="tt-under" aria-live="polite">
        {mode === 'driving' && `Driving: ${project.script}`}
        {simulating && <SimulationProgress />}
        {!busy && (
          <LazyPart name="Script" load={() => import('./ScriptPick.tsx')} fallback={<span className="tt-script" />} />
        )}
        <Chip
          aria-pressed={readout}
          data-explain="Created, bound, in flight and late while the finger moves; the tier of each picture on it: m memory, d disk, n network, l local"
          onClick={() => setReadout(!readout)}
        >
          readout
        </Chip>
        {mode === 'driving' && (
          <Chip data-explain="Pins this moment of the drive for later (key M)" onClick={markNow}>
            mark
          </Chip>
        )}
      </div>
    </section>
  )
}

/** Alone subscribes to the progress: a tick of it draws nothing else again. */
function SimulationProgress() {
  return <Progress name="Simulating" share={useDevice(({ progress }) => progress)} />
}

/** A chip that is loaded after the rest; until then, or when it cannot be loaded, its text. */
function LazyChip<P extends object>({
  name,
  load,
  given,
  text,
}: {
  name: string
  load: () => Promise<{ default: ComponentType<P> }>
  given?: P
  text: string
}) {
  const plain = text === '' ? null : <span className="tt-chip">{text}</span>
  return <LazyPart name={name} load={load} {...(given && { given })} fallback={plain} without={plain} />
}

/** What the list is made of: the same object until something of it changes. */
function useListInput(project: Project | undefined): object | undefined {
  const now = useMemo(
    () => project && { ...project, name: '', scripts: [], script: null, variants: [], budgets: [] },
    [project],
  )
  const [kept, setKept] = useState(now)
  if (kept === now || dequal(kept, now)) return kept
  setKept(now)
  return now
}
