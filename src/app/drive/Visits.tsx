import FormControl from 'react-bootstrap/FormControl'
import FormSelect from 'react-bootstrap/FormSelect'
import { useEffect } from 'react'
import Button from 'react-bootstrap/Button'
import { beginFrom, chooseVisits, useDevice, type VisitChoice } from '../device/device-store.ts'
import { clearTier, lookAtTiers, useLeft } from '../device/left-behind.ts'
import { useRuns } from '../store/run-store.ts'
import { set, useProject } from '../store/project-store.ts'
import { Chip } from '../controls/Chip.tsx'

const choices: readonly { is: VisitChoice; name: string; explain: string }[] = [
  { is: 'first', name: 'first', explain: 'As first installed: nothing is kept' },
  { is: 'restarted', name: 'restarted', explain: 'The app was started again: the disk tier is kept, memory is empty' },
  { is: 'again', name: 'again', explain: 'The screen is visited again: both tiers are kept' },
  { is: 'all', name: 'all in a row', explain: 'First, restarted and again, one after the other' },
]
const mb = (bytes: number) => `${(bytes / 1e6).toFixed(1)} MB`

/** The state from which a drive begins, and what the tiers hold for it. */
export function Visits() {
  const visits = useDevice(({ visits }) => visits)
  const mode = useDevice(({ mode }) => mode)
  const from = useDevice(({ from }) => from)
  const { list } = useRuns()
  const left = useLeft()
  const { project, id } = useProject()!
  useEffect(() => void lookAtTiers(id), [id])
  const busy = mode === 'driving'
  return (
    <section className="tt-card" aria-label="Visits">
      <h2>Visits</h2>
      <div className="tt-swatches" role="group" aria-label="Which visit">
        {choices.map(({ is, name, explain }) => (
          <Chip key={is} aria-pressed={visits === is} data-explain={explain} onClick={() => chooseVisits(is)}>
            {name}
          </Chip>
        ))}
      </div>
      {(visits === 'restarted' || visits === 'again') && (
        <label
          className="tt-field"
          data-explain="Simulations begin from what this run left in the tiers; live drives from what the last drive left"
        >
          Begin from{' '}
          <FormSelect
            size="sm"
            value={list.some(({ id: run }) => run === from) ? from! : ''}
            onChange={(event) => beginFrom(event.target.value === '' ? null : Number(event.target.value))}
          >
            <option value="">the visits before</option>
            {list.toReversed().map((run) => (
              <option key={run.id} value={run.id}>
                what run {run.number} left
              </option>
            ))}
          </FormSelect>
        </label>
      )}
      <p role="status">
        Left by drives: memory <strong>{mb(left.memory)}</strong>, disk <strong>{mb(left.disk)}</strong>
      </p>
      <Button
        size="sm"
        variant="outline-primary"
        disabled={busy || left.memory === 0}
        onClick={() => void clearTier(id, 'memory')}
      >
        Clear memory
      </Button>{' '}
      <Button
        size="sm"
        variant="outline-primary"
        disabled={busy || left.disk === 0}
        onClick={() => void clearTier(id, 'disk')}
      >
        Clear disk
      </Button>
      <label className="tt-field" data-explain="Every draw of chance comes from it: the same seed, the same run">
        Seed{' '}
        <FormControl
          size="sm"
          type="number"
          className="tt-small-number"
          min={0}
          value={project.seed}
          onChange={(event) => event.target.value !== '' && set('/seed', Number(event.target.value))}
        />
      </label>
    </section>
  )
}
