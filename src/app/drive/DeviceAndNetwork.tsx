import { devicePresets, networkPresets } from '../../core/project/presets.ts'
import type { Project } from '../../core/project/types.ts'
import { Amount } from '../controls/Amount.tsx'
import { Choice } from '../controls/Choice.tsx'
import { Presets } from '../controls/Presets.tsx'
import { edit, set } from '../store/project-store.ts'

/** The device and the network of runs; illustrative, and every value can be changed. */
export function DeviceAndNetwork({ project }: { project: Project }) {
  const { device, network } = project
  const take = (what: 'device' | 'network', name: string, values: object) =>
    edit(what, [
      { op: 'replace', path: `/${what}/name`, value: name },
      ...Object.entries(values).map(([key, value]) => ({
        op: 'replace' as const,
        path: `/${what}/${key}`,
        value: value as unknown,
      })),
    ])
  return (
    <section className="tt-card" aria-label="Device and network">
      <h2>
        Device and network <small className="tt-quiet">illustrative</small>
      </h2>
      <div className="tt-halves">
        <div>
          <Presets
            of="device"
            label="Device"
            ready={devicePresets}
            now={device}
            isChosen={({ name }) => device.name === name}
            onTake={(name, values) => take('device', name, values)}
          />
          <Amount path="/device/speed" value={device.speed} from={0.2} to={4} step={0.05} />
          <Amount path="/device/refreshHz" value={device.refreshHz} from={30} to={144} />
        </div>
        <div>
          <Presets
            of="network"
            label="Network"
            ready={networkPresets}
            now={network}
            isChosen={({ name }) => network.name === name}
            onTake={(name, values) => take('network', name, values)}
          />
          <Amount path="/network/downKbps" value={network.downKbps} from={100} to={60_000} step={100} />
          <Amount path="/network/rttMs" value={network.rttMs} from={0} to={600} step={5} />
        </div>
      </div>
      <details>
        <summary>More</summary>
        <Amount path="/network/jitterMs" value={network.jitterMs} from={0} to={300} />
        <Choice
          path="/network/metered"
          value={String(network.metered)}
          names={{ false: 'no', true: 'yes' }}
          onChange={(value) => set('/network/metered', value === 'true')}
        />
        <Amount path="/network/thinkMs" value={network.thinkMs} from={0} to={300} />
        <Amount path="/device/heapMb" value={device.heapMb} from={32} to={1024} />
        <Amount path="/device/flick/timeMs" value={device.flick.timeMs} from={100} to={900} />
      </details>
    </section>
  )
}
