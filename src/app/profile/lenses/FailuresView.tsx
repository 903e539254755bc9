import Table from 'react-bootstrap/Table'
import type { ReactNode } from 'react'
import type { FailureGroup } from '../../../core/profile/views/lenses/failures.ts'
import { failWords } from '../../../core/loading/fail-words.ts'
import { TextButton } from '../../controls/TextButton.tsx'

const mostNamed = 12

/** Failed requests by their reason; each selects on the map. */
export function FailuresView({
  part,
  groups,
  onRequest,
}: {
  part: ReactNode
  groups: readonly FailureGroup[]
  onRequest: (request: number) => void
}) {
  if (groups.length === 0) return <p className="tt-card">No request failed in this {part ? 'part of the ' : ''}run.</p>
  return (
    <section className="tt-card tt-lens-view" aria-label="Failures" tabIndex={0}>
      {part}
      <Table size="sm">
        <thead>
          <tr>
            <th scope="col">reason</th>
            <th scope="col">requests</th>
            <th scope="col">bytes</th>
            <th scope="col">hosts</th>
            <th scope="col">which</th>
          </tr>
        </thead>
        <tbody>
          {groups.map(({ reason, requests, hosts, bytes }) => (
            <tr key={reason}>
              <th scope="row">
                {reason}
                <br />
                <small>{failWords[reason] ?? ''}</small>
              </th>
              <td>{requests.length}</td>
              <td>{bytes.toLocaleString('en')}</td>
              <td>{hosts.join(', ') || 'none'}</td>
              <td>
                {requests.slice(0, mostNamed).map((request) => (
                  <TextButton key={request} onClick={() => onRequest(request)}>
                    {request}
                  </TextButton>
                ))}
                {requests.length > mostNamed ? ` and ${requests.length - mostNamed} more` : ''}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </section>
  )
}
