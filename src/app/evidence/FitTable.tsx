import Button from 'react-bootstrap/Button'
import Table from 'react-bootstrap/Table'
import { settingAt } from '../../core/project/settings-index.ts'
import type { MapData } from '../../core/profile/views/map-data.ts'
import { FitMark } from './FitMark.tsx'
import { GestureChart } from './GestureChart.tsx'
import { currentProject, edit, notify } from '../store/project-store.ts'
import type { EvidenceAnswer } from '../../workers/jobs/evidence-job.ts'

/** A setting by its label; the script is none. */
const describePath = (path: string) => (path === '/script' ? 'The gesture' : settingAt(path).label)
const format = (value: number | string) => (typeof value === 'number' ? String(Math.round(value * 100) / 100) : value)

/** From now on the project is driven in the recorded world, with its gesture; one undo reverts it. */
function takeOver({ raw, gesture }: NonNullable<EvidenceAnswer['fit']>): void {
  const open = currentProject()
  if (!open) return
  const { scripts } = open.project
  const others = gesture ? scripts.filter(({ name }) => name !== gesture.script.name) : scripts
  edit('recorded world', [
    { op: 'replace', path: '/network', value: raw.network },
    { op: 'replace', path: '/device', value: raw.device },
    ...(gesture
      ? [
          { op: 'replace' as const, path: '/scripts', value: [...others, gesture.script] },
          { op: 'replace' as const, path: '/script', value: gesture.script.name },
        ]
      : []),
  ])
  notify('The project is driven in the recorded world now; Drive shows its gesture.')
}

/** The world that fits the evidence: each value with its spread and samples, and what stays as it was. */
export function FitTable({ fit, map }: { fit: NonNullable<EvidenceAnswer['fit']>; map: MapData }) {
  const bytes = fit.simulated?.fidelity['fidelity.bytes'] ?? null
  const requests = fit.simulated?.fidelity['fidelity.requests'] ?? null
  return (
    <details className="tt-card tt-fitted">
      <summary>
        The bench fitted to it: {fit.fitted.length} values
        {bytes !== null &&
          requests !== null &&
          `; its simulation has ${requests.toFixed(2)} × the requests and ${bytes.toFixed(2)} × the bytes`}
      </summary>
      <Table size="sm">
        <thead>
          <tr>
            <th scope="col">Setting</th>
            <th scope="col">Fitted</th>
            <th scope="col">Recorded: the middle half</th>
            <th scope="col">Samples</th>
          </tr>
        </thead>
        <tbody>
          {fit.fitted.map(({ path, value, low, high, samples, confidence }) => (
            <tr key={path}>
              <th scope="row">{describePath(path)}</th>
              <td>
                {format(value)} {typeof value === 'number' && path !== '/script' ? settingAt(path).unit : ''}
              </td>
              <td>
                {low !== null && typeof value === 'number' && <FitMark value={value} low={low} high={high!} />}{' '}
                {low === null ? '' : `${format(low)} to ${format(high!)}`}
              </td>
              <td>
                {samples}, {confidence}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      <Button size="sm" variant="outline-primary" onClick={() => takeOver(fit)}>
        Take network, device and gesture into the project
      </Button>
      {fit.gesture && (
        <>
          <p>
            The gesture is recovered from {fit.gesture.from}, within {format(fit.gesture.uncertaintyDp)} dp.
          </p>
          <GestureChart gesture={fit.gesture} map={map} />
        </>
      )}
      {fit.kept.length > 0 && (
        <ul className="tt-quiet">
          {fit.kept.map(({ path, why }) => (
            <li key={path}>
              {describePath(path)} stays as it was: {why}.
            </li>
          ))}
        </ul>
      )}
    </details>
  )
}
