import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import FormSelect from 'react-bootstrap/FormSelect'
import { appEventNames, type AppEventName } from '../../core/evidence/app-event.ts'
import { patternFrom, piecesOf, valueRoles, type ValueRole } from '../../core/evidence/pattern-from-line.ts'

const roleNames: Record<ValueRole, string> = {
  t: 'a time',
  cell: 'a cell',
  row: 'a row',
  key: 'an item’s key',
  address: 'an address',
  ms: 'a duration',
  bytes: 'bytes',
  tier: 'a tier',
  text: 'a text',
}
/** Events that a line can stand for; the responses of a recording are not an app's. */
const events = appEventNames.filter((name) => name !== 'response')

/** A sample line whose values are named by clicking them; from the names a pattern is made. */
export function SampleMapper({ lines, onPattern }: { lines: readonly string[]; onPattern: (pattern: string) => void }) {
  const [line, setLine] = useState(0)
  const [event, setEvent] = useState<AppEventName>('bind')
  const [roles, setRoles] = useState<ReadonlyMap<number, ValueRole>>(new Map())
  const pieces = piecesOf(lines[line] ?? '')
  const name = (at: number, role: string) => {
    const next = new Map([...roles].filter(([place, known]) => place !== at && known !== role))
    if (role !== '') next.set(at, role as ValueRole)
    setRoles(next)
  }
  return (
    <div className="tt-mapper" role="group" aria-label="A sample line">
      <div className="tt-source-line">
        <label className="tt-field">
          The line
          <FormSelect
            size="sm"
            value={line}
            onChange={(change) => {
              setLine(Number(change.target.value))
              setRoles(new Map())
            }}
          >
            {lines.map((text, i) => (
              <option key={i} value={i}>
                {text.slice(0, 60)}
              </option>
            ))}
          </FormSelect>
        </label>
        <label className="tt-field">
          event
          <FormSelect size="sm" value={event} onChange={(change) => setEvent(change.target.value as AppEventName)}>
            {events.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </FormSelect>
        </label>
        <Button
          size="sm"
          variant="outline-primary"
          disabled={![...roles.values()].includes('t')}
          data-explain="A time has to be named"
          onClick={() => onPattern(patternFrom(event, pieces, roles))}
        >
          Add the pattern
        </Button>
      </div>
      <p className="tt-sample-line">
        {pieces.map((piece, i) =>
          piece.isValue ? (
            <span key={i} className="tt-sample-value" data-named={roles.has(i) ? '' : undefined}>
              <code>{piece.text}</code>
              <FormSelect
                size="sm"
                aria-label={`${piece.text} is`}
                value={roles.get(i) ?? ''}
                onChange={(change) => name(i, change.target.value)}
              >
                <option value="">—</option>
                {valueRoles.map((role) => (
                  <option key={role} value={role}>
                    {roleNames[role]}
                  </option>
                ))}
              </FormSelect>
            </span>
          ) : (
            <span key={i}>{piece.text}</span>
          ),
        )}
      </p>
    </div>
  )
}
