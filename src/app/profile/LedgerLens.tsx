import Table from 'react-bootstrap/Table'
import { requestsIn, type MapRange } from '../map/map-view.ts'
import { classWords } from '../map/map-words.ts'
import type { StoredLog } from '../store/database.ts'
import { partKey, PartNote } from './PartNote.tsx'
import { useAnswer } from './use-answer.ts'
import { TextButton } from '../controls/TextButton.tsx'

const bytes = (value: number) => value.toLocaleString('en')

/**
 * The ledger in full: every class with its requests, bytes and decoding, and its largest requests; each selects on the
 * map.
 */
export function LedgerLens({
  kept,
  hash,
  range,
  onRequest,
}: {
  kept: StoredLog
  hash: string
  range: MapRange | null
  onRequest: (request: number) => void
}) {
  const { answer, trouble } = useAnswer('ledger', hash, [partKey(range)], () => ({
    log: kept.log,
    hash,
    only: range && requestsIn(kept.map, range),
  }))
  if (trouble)
    return (
      <p className="tt-card" role="alert">
        The ledger could not be read: {trouble}
      </p>
    )
  if (!answer) return <p className="tt-card">Reading the ledger…</p>
  return (
    <section className="tt-card tt-ledger-lens" aria-label="The ledger" tabIndex={0}>
      {range && <PartNote figures={false} />}
      <Table size="sm">
        <thead>
          <tr>
            <th scope="col">class</th>
            <th scope="col">requests</th>
            <th scope="col">bytes</th>
            <th scope="col">share</th>
            <th scope="col">decoding</th>
            <th scope="col">largest</th>
          </tr>
        </thead>
        <tbody>
          {answer.rows.map((row) => (
            <tr key={row.class} tabIndex={0} data-explain={classWords[row.class].explain}>
              <th scope="row">
                <span aria-hidden style={{ color: `var(${classWords[row.class].hue})` }}>
                  {classWords[row.class].glyph}
                </span>{' '}
                {classWords[row.class].name}
              </th>
              <td>{row.requests}</td>
              <td data-class={row.class}>{bytes(row.bytes)}</td>
              <td>{row.share === null ? '–' : `${(100 * row.share).toFixed(1)} %`}</td>
              <td>{row.decodeMs.toFixed(0)} ms</td>
              <td>
                {row.largest.slice(0, 4).map(({ request, address, bytes: cost }) => (
                  <TextButton
                    key={request}
                    data-explain={`${address}: ${bytes(cost)} bytes`}
                    onClick={() => onRequest(request)}
                  >
                    {request}
                  </TextButton>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr>
            <th scope="row">received</th>
            <td />
            <td>{bytes(answer.received)}</td>
            <td colSpan={3} className="tt-quiet">
              the classes sum to it, to the byte
            </td>
          </tr>
          <tr>
            <th scope="row">oversize</th>
            <td />
            <td>{bytes(answer.oversize)}</td>
            <td colSpan={3} className="tt-quiet">
              carry px that no slot shows; across the classes
            </td>
          </tr>
          <tr>
            <th scope="row">in flight</th>
            <td />
            <td>{bytes(answer.inFlight)}</td>
            <td colSpan={3} className="tt-quiet">
              sent for cancelled transfers and never received; outside the sum
            </td>
          </tr>
        </tfoot>
      </Table>
    </section>
  )
}
