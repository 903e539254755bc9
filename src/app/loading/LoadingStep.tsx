import { dequal } from 'dequal'
import { policyPresets } from '../../core/project/presets.ts'
import { Amount } from '../controls/Amount.tsx'
import { Choice } from '../controls/Choice.tsx'
import { Fold } from '../controls/Fold.tsx'
import { Presets } from '../controls/Presets.tsx'
import { useDevice } from '../device/device-store.ts'
import { warmUp } from '../simulate/follow-hand.ts'
import { edit, useProject } from '../store/project-store.ts'
import { Ahead } from './Ahead.tsx'
import { FetchSlots } from './FetchSlots.tsx'
import { Freshness } from './Freshness.tsx'
import { InLine } from './InLine.tsx'
import { Mistakes } from './Mistakes.tsx'
import { Restraint } from './Restraint.tsx'
import { Zones } from './Zones.tsx'

const suspendNames = { 'carry-on': 'carry on', 'finish-running': 'finish', 'let-go': 'let go' }
/** What starts, waits, and is let go: zones by dragging, the other settings beside them. */
export default function LoadingStep() {
  const { project } = useProject()!
  const chosen = useDevice(({ screen }) => screen)
  const { loading } = project
  const number = Math.min(chosen, project.screens.length - 1)
  const screen = project.screens[number]!
  const { widthDp, heightDp, density } = project.device
  const tilePx = (widthDp / screen.layout.columns) * density
  const tileMb = (4 * tilePx * tilePx) / 1e6
  const screenMb = ((heightDp * density) / tilePx) * screen.layout.columns * tileMb
  const slots = project.screens.flatMap(({ cells }, s) =>
    cells.flatMap((cell, c) =>
      cell.slots.map((slot, i) => ({
        path: `/screens/${s}/cells/${c}/slots/${i}`,
        high: slot.priority === 'high',
        whole: slot.decodeAt.type === 'original',
      })),
    ),
  )
  const presets = (
    <Presets
      of="policy"
      label="Policy"
      ready={policyPresets}
      now={loading}
      isChosen={({ values }) => Object.entries(values).every(([key, value]) => dequal(loading[key], value))}
      onTake={(name, values) =>
        edit(
          `policy ${name}`,
          Object.entries(values).map(([key, value]: [string, unknown]) => ({
            op: 'replace',
            path: `/loading/${key}`,
            value,
          })),
        )
      }
    />
  )
  return (
    <div className="tt-step">
      <div className="tt-step-head">
        <h1>Loading · for the whole app</h1>
        {presets}
      </div>
      <p className="tt-lead">
        Drag a zone’s edge to say what starts, what waits and what is let go. The map beneath follows your hand.
      </p>
      <div className="tt-loading" onPointerEnter={() => void warmUp()} onFocus={() => void warmUp()}>
        <div>
          <Zones
            loading={loading}
            columns={screen.layout.columns}
            heldCells={screen.layout.heldCells}
            heldPath={`/screens/${number}/layout/heldCells`}
            screenMb={screenMb}
          />
          <InLine />
        </div>
        <div className="tt-loading-side">
          <section className="tt-card" aria-label="Fetch slots">
            <h2>
              Fetch slots · {loading.fetchSlots} at once, {loading.fetchSlotsPerHost} to one host
            </h2>
            <FetchSlots
              slots={loading.fetchSlots}
              perHost={loading.fetchSlotsPerHost}
              keepAbove={loading.cancel.keepAbove}
            />
            <Choice
              path="/loading/order"
              value={loading.order}
              names={{ 'first-come': 'first come', 'last-come': 'last come', nearest: 'nearest first' }}
            />
            <Restraint dpPerS={loading.startBelowDpPerS} />
            <details>
              <summary>More</summary>
              <Amount path="/loading/fetchSlotsPerHost" value={loading.fetchSlotsPerHost} from={1} to={24} />
              <Amount path="/loading/decodeWorkers" value={loading.decodeWorkers} from={1} to={8} />
              <Amount path="/loading/agingMs" value={loading.agingMs} from={100} to={10_000} step={100} />
            </details>
          </section>
          <Ahead project={project} screen={screen} />
          <section className="tt-card" aria-label="Cancelling">
            <h2>Cancelling</h2>
            <Choice
              path="/loading/cancel/when"
              value={loading.cancel.when}
              names={{ recycle: 'on recycle', zone: 'beyond a zone', never: 'never' }}
            />
            <Amount
              path="/loading/cancel/keepAbove"
              value={loading.cancel.keepAbove}
              from={0}
              to={1}
              step={0.05}
              note={
                loading.cancel.keepAbove >= 1
                  ? 'always cut off'
                  : `finish from ${Math.round(loading.cancel.keepAbove * 100)} %`
              }
            />
            <details>
              <summary>More</summary>
              {loading.cancel.when === 'zone' && (
                <Amount path="/loading/cancel/zoneRows" value={loading.cancel.zoneRows} from={0} to={24} />
              )}
              <Choice path="/loading/cancel/whenPaused" value={loading.cancel.whenPaused} names={suspendNames} />
              <Choice path="/loading/cancel/whenLeft" value={loading.cancel.whenLeft} names={suspendNames} />
              <Amount path="/loading/timeoutMs" value={loading.timeoutMs} from={500} to={60_000} step={500} />
              <Amount path="/loading/retry/attempts" value={loading.retry.attempts} from={0} to={6} />
              <Amount path="/loading/retry/firstMs" value={loading.retry.firstMs} from={0} to={5000} step={100} />
              <Amount path="/loading/retry/factor" value={loading.retry.factor} from={1} to={5} step={0.1} />
              <Amount path="/loading/retry/jitter" value={loading.retry.jitter} from={0} to={1} step={0.05} />
            </details>
          </section>
          <div className="tt-folds">
            <Fold title="Caches">
              <Amount
                path="/loading/memoryMb"
                value={loading.memoryMb}
                from={0}
                to={128}
                note={`some ${Math.round(loading.memoryMb / tileMb)} pictures`}
              />
              <Amount path="/loading/diskMb" value={loading.diskMb} from={0} to={500} />
              <Freshness by={loading.diskFreshness} />
            </Fold>
            <Mistakes loading={loading} slots={slots} />
          </div>
        </div>
      </div>
    </div>
  )
}
