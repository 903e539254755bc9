import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import FormControl from 'react-bootstrap/FormControl'
import FormSelect from 'react-bootstrap/FormSelect'
import { z } from 'zod'
import { sourceKinds, type SourceKind } from '../../core/evidence/evidence.ts'
import type { EvidenceFile, UnreadFile } from '../../workers/jobs/evidence-job.ts'
import { Chip } from '../controls/Chip.tsx'
import { dropPreset, keepPreset, useOwnPresets } from '../store/own-presets.ts'
import { changeFile } from './evidence-store.ts'
import { kindNames } from './kind-names.ts'
import { SampleMapper } from './SampleMapper.tsx'

/** A file that was not recognised: the user can say what it holds and how its lines are to be read. */
export function Unread({ unread, file }: { unread: UnreadFile; file: EvidenceFile }) {
  const [mapping, setMapping] = useState(file.mapping)
  const [kind, setKind] = useState(file.kind ?? 'lines')
  const [name, setName] = useState('')
  const own = useOwnPresets('mapping') ?? []
  const read = (next: { kind: SourceKind; mapping: string }) => void changeFile(unread.name, next)
  const keep = () => {
    if (name.trim() === '') return
    void keepPreset('mapping', name.trim(), { kind, mapping })
    setName('')
  }
  return (
    <div className="tt-unread" role="group" aria-label={`${unread.name} could not be read`}>
      <p role="alert">
        <strong>{unread.name}</strong>: {unread.message}
      </p>
      {kind === 'lines' && unread.sample.length > 0 ? (
        <SampleMapper
          lines={unread.sample}
          onPattern={(pattern) =>
            setMapping((before) => [before.trim(), pattern].filter((each) => each !== '').join('\n'))
          }
        />
      ) : (
        <pre className="tt-sample">{unread.sample.join('\n')}</pre>
      )}
      <div className="tt-source-line">
        <label className="tt-field">
          It holds
          <FormSelect size="sm" value={kind} onChange={(event) => setKind(event.target.value as typeof kind)}>
            {sourceKinds
              .filter((each) => each !== 'readings')
              .map((each) => (
                <option key={each} value={each}>
                  {kindNames[each]}
                </option>
              ))}
          </FormSelect>
        </label>
        <FormControl
          as="textarea"
          size="sm"
          rows={2}
          aria-label={`How ${unread.name} is read`}
          placeholder={
            kind === 'frames'
              ? 'start=2,end=14,unit=ns'
              : 'one event per line: bind=^(?<t>\\S+) bind c(?<cell>\\d+) row (?<row>\\d+) (?<address>\\S+)'
          }
          value={mapping}
          onChange={(event) => setMapping(event.target.value)}
        />
        <Button size="sm" onClick={() => read({ mapping, kind })}>
          Read it so
        </Button>
        <Button size="sm" variant="outline-secondary" onClick={() => void changeFile(unread.name, null)}>
          Remove it
        </Button>
      </div>
      <div className="tt-source-line" role="group" aria-label="Mappings of your own">
        <FormControl
          size="sm"
          className="tt-name-field"
          aria-label="A name for this mapping"
          placeholder="keep it as …"
          maxLength={60}
          value={name}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => event.key === 'Enter' && keep()}
        />
        <Button
          size="sm"
          variant="outline-primary"
          disabled={name.trim() === '' || mapping.trim() === ''}
          data-explain="Kept in this browser, for files of the same kind"
          onClick={keep}
        >
          Keep the mapping
        </Button>
        {own.map((preset) => (
          <span key={preset.id} className="tt-own-preset">
            <Chip
              data-explain={`Reads it as “${preset.name}”: ${String(preset.values.mapping).slice(0, 200)}`}
              onClick={() => read(mappingOf(preset.values))}
            >
              {preset.name}
            </Chip>
            <Chip aria-label={`Forget ${preset.name}`} onClick={() => void dropPreset(preset)}>
              ×
            </Chip>
          </span>
        ))}
      </div>
    </div>
  )
}

const keptMapping = z.object({ kind: z.enum(sourceKinds), mapping: z.string() })
const mappingOf = (values: unknown) => keptMapping.parse(values)
