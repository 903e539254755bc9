import { Amount } from '../controls/Amount.tsx'
import { Choice } from '../controls/Choice.tsx'
import { useDevice } from '../shell/device-store.ts'
import { set, useProject } from '../store/project-store.ts'
import { FetchSlots } from './FetchSlots.tsx'
import { Zones } from './Zones.tsx'

/** What starts, waits, and is let go: zones by dragging, the rest beside them. */
export default function LoadingStep() {
  const { project } = useProject()!
  const device = useDevice()
  const { loading } = project
  const screen = project.screens[Math.min(device.screen, project.screens.length - 1)]!
  const { widthDp, density } = project.device
  const tilePx = (widthDp / screen.layout.columns) * density
  const screensHeld = (loading.memoryMb * 1e6) / (4 * tilePx * tilePx)
  return (
    <div className="tt-step">
      <h1>Loading · for the whole app</h1>
      <p className="tt-lead">Drag a zone’s edge to say what starts, what waits and what is let go. The map beneath follows your hand.</p>
      <div className="tt-loading">
        <Zones loading={loading} columns={screen.layout.columns} heldCells={screen.layout.heldCells} heldPath={`/screens/${Math.min(device.screen, project.screens.length - 1)}/layout/heldCells`} />
        <div className="tt-loading-side">
          <section className="tt-card" aria-label="Fetch slots">
            <h2>Fetch slots · {loading.fetchSlots} at once, {loading.fetchSlotsPerHost} to one host</h2>
            <FetchSlots slots={loading.fetchSlots} onChange={(slots) => set('/loading/fetchSlots', slots)} />
            <Amount schema="loading/fetchSlotsPerHost" path="/loading/fetchSlotsPerHost" value={loading.fetchSlotsPerHost} from={1} to={24} />
            <Choice schema="loading/order" path="/loading/order" value={loading.order} names={{ 'first-come': 'first come', 'last-come': 'last come', nearest: 'nearest first' }} />
          </section>
          <section className="tt-card" aria-label="What is let go">
            <h2>What is let go</h2>
            <Choice schema="loading/cancel/when" path="/loading/cancel/when" value={loading.cancel.when} names={{ recycle: 'on recycle', zone: 'beyond a zone', never: 'never' }} />
            <Amount schema="loading/cancel/keepAbove" path="/loading/cancel/keepAbove" value={loading.cancel.keepAbove} from={0} to={1} step={0.05} note={loading.cancel.keepAbove >= 1 ? 'always cut off' : `finish from ${Math.round(loading.cancel.keepAbove * 100)} %`} />
          </section>
          <section className="tt-card" aria-label="What is kept">
            <h2>What is kept</h2>
            <Amount schema="loading/memoryMb" path="/loading/memoryMb" value={loading.memoryMb} from={0} to={128} note={`some ${Math.round(screensHeld)} pictures`} />
          </section>
        </div>
      </div>
    </div>
  )
}
