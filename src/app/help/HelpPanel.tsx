import FormCheck from 'react-bootstrap/FormCheck'
import Button from 'react-bootstrap/Button'
import Offcanvas from 'react-bootstrap/Offcanvas'
import Table from 'react-bootstrap/Table'
import { prefer, usePreferences } from './preferences.ts'
import { shortcuts } from './shortcuts.ts'
import { words } from './words.ts'

/** Shortcuts, words, and the hints once more. */
export default function HelpPanel({ onClose }: { onClose: () => void }) {
  const { hint, singleKeys } = usePreferences()
  return (
    <Offcanvas show onHide={onClose} placement="end" aria-labelledby="help-title" className="tt-help">
      <Offcanvas.Header closeButton>
        <Offcanvas.Title as="h2" id="help-title">
          Help
        </Offcanvas.Title>
      </Offcanvas.Header>
      <Offcanvas.Body>
        <p>
          Choose a feed, shape its cell, set how pictures load, drive the list, and see in Profile what was late and
          what was wasted. Change a setting and drive again.
        </p>
        <Button
          size="sm"
          variant="outline-primary"
          onClick={() => {
            prefer({ hint: 'drive' })
            onClose()
          }}
        >
          {hint === 'away' ? 'Show the hints again' : 'Start the hints again'}
        </Button>
        <h3>Shortcuts</h3>
        <Table size="sm">
          <tbody>
            {shortcuts.map(({ where, keys, does, single }) => (
              <tr key={`${where} ${keys}`} className={single && !singleKeys ? 'tt-quiet' : ''}>
                <th scope="row">{keys}</th>
                <td>
                  {does}
                  {where !== 'Everywhere' && <small> ({where.toLowerCase()})</small>}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
        <FormCheck
          type="switch"
          id="single-keys"
          label="Single keys are shortcuts"
          checked={singleKeys}
          onChange={(event) => prefer({ singleKeys: event.target.checked })}
        />
        <h3>Words</h3>
        <dl>
          {words.map(([word, means]) => (
            <div key={word}>
              <dt>{word}</dt>
              <dd>{means}</dd>
            </div>
          ))}
        </dl>
      </Offcanvas.Body>
    </Offcanvas>
  )
}
