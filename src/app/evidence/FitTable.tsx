import Table from 'react-bootstrap/Table'
import { settingAt } from '../../core/project/settings-index.ts'
import type { EvidenceAnswer } from '../../workers/jobs/evidence-job.ts'

/** A setting by its label; the script is none. */
const describePath = (path: string) => (path === '/script' ? 'The gesture' : settingAt(path).label)
const tell = (value: number | string) => (typeof value === 'number' ? String(Math.round(value * 100) / 100) : value)

/** What world the evidence fits: each value with its spread and samples, and what stays as it was. */
export function FitTable({ fit }: { fit: NonNullable<EvidenceAnswer['fit']> }) {
  const bytes = fit.fidelity?.['fidelity.bytes'] ?? null
  const requests = fit.fidelity?.['fidelity.requests'] ?? null
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
            <th scope="col">Middle half</th>
            <th scope="col">Samples</th>
          </tr>
        </thead>
        <tbody>
          {fit.fitted.map(({ path, value, low, high, samples, confidence }) => (
            <tr key={path}>
              <th scope="row">{describePath(path)}</th>
              <td>{tell(value)}</td>
              <td>{low === null ? '' : `${tell(low)} to ${tell(high!)}`}</td>
              <td>
                {samples}, {confidence}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      {fit.gesture && (
        <p>
          The gesture is recovered from {fit.gesture.from}, within {tell(fit.gesture.uncertaintyDp)} dp.
        </p>
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
