import FormControl from 'react-bootstrap/FormControl'
import FormSelect from 'react-bootstrap/FormSelect'
import type { Fault, NetworkSettings } from '../../core/project/types.ts'
import { edit, set } from '../store/project-store.ts'
import { Fold } from '../controls/Fold.tsx'
import { Chip } from '../controls/Chip.tsx'

const kinds: Record<Fault['kind'], string> = {
  status: 'an error status',
  timeout: 'no answer',
  stall: 'stalls midway',
  truncate: 'breaks off',
  'wrong-type': 'another type',
  broken: 'no picture in it',
  huge: 'far too large',
  empty: 'empty',
  'redirect-loop': 'redirects in a circle',
  drip: 'drips',
}
const most = 100

/** Faults by address pattern and rate; the origin applies them for real, simulations by the same plan. */
export function Faults({ network: { faults, offline } }: { network: NetworkSettings }) {
  return (
    <Fold title="Faults" open={faults.length + offline.length > 0}>
      {faults.map((fault, i) => (
        <div key={i} className="tt-fault">
          <FormSelect
            size="sm"
            aria-label={`Fault ${i + 1}`}
            value={fault.kind}
            onChange={(event) => set(`/network/faults/${i}/kind`, event.target.value)}
          >
            {Object.entries(kinds).map(([kind, name]) => (
              <option key={kind} value={kind}>
                {name}
              </option>
            ))}
          </FormSelect>
          {fault.kind === 'status' && (
            <FormControl
              size="sm"
              type="number"
              className="tt-small-number"
              aria-label="Status"
              min={100}
              max={599}
              value={fault.status}
              onChange={(event) =>
                event.target.value !== '' && set(`/network/faults/${i}/status`, Number(event.target.value))
              }
            />
          )}
          <FormControl
            size="sm"
            aria-label="For addresses that match"
            data-explain="* is any run of characters, ? any one"
            value={fault.match}
            onChange={(event) => event.target.value !== '' && set(`/network/faults/${i}/match`, event.target.value)}
          />
          <FormControl
            size="sm"
            type="number"
            className="tt-small-number"
            aria-label="Rate, %"
            min={0}
            max={100}
            value={Math.round(fault.rate * 100)}
            onChange={(event) =>
              event.target.value !== '' && set(`/network/faults/${i}/rate`, Number(event.target.value) / 100)
            }
          />
          %
          <Chip
            aria-label={`Remove fault ${i + 1}`}
            onClick={() => edit('fault', [{ op: 'remove', path: `/network/faults/${i}` }])}
          >
            ×
          </Chip>
        </div>
      ))}
      {offline.map(({ fromMs, toMs }, i) => (
        <div key={i} className="tt-fault">
          no network from{' '}
          <FormControl
            size="sm"
            type="number"
            className="tt-small-number"
            aria-label={`No network ${i + 1} from, ms`}
            min={0}
            max={toMs}
            step={50}
            value={fromMs}
            onChange={(event) =>
              event.target.value !== '' && set(`/network/offline/${i}/fromMs`, Number(event.target.value))
            }
          />{' '}
          to{' '}
          <FormControl
            size="sm"
            type="number"
            className="tt-small-number"
            aria-label={`No network ${i + 1} until, ms`}
            min={fromMs}
            step={50}
            value={toMs}
            onChange={(event) =>
              event.target.value !== '' && set(`/network/offline/${i}/toMs`, Number(event.target.value))
            }
          />{' '}
          ms
          <Chip
            aria-label={`Remove “no network” ${i + 1}`}
            onClick={() => edit('offline', [{ op: 'remove', path: `/network/offline/${i}` }])}
          >
            ×
          </Chip>
        </div>
      ))}
      {faults.length === 0 && offline.length === 0 && <p className="tt-quiet">Nothing goes wrong on the way.</p>}
      {faults.length < most && (
        <Chip
          onClick={() =>
            edit('fault', [
              {
                op: 'replace',
                path: '/network/faults',
                value: [...faults, { match: '*/tiles/*', kind: 'status', status: 503, rate: 0.2 }],
              },
            ])
          }
        >
          + fault
        </Chip>
      )}
      {offline.length < most && (
        <Chip
          data-explain="A time without network that belongs to the network, not to the gesture; its edges are dragged on the axis"
          onClick={() =>
            edit('offline', [
              { op: 'replace', path: '/network/offline', value: [...offline, { fromMs: 1000, toMs: 2000 }] },
            ])
          }
        >
          + time without network
        </Chip>
      )}
    </Fold>
  )
}
