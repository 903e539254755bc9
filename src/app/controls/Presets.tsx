import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import type { Preset } from '../../core/project/presets.ts'
import type { OwnPreset } from '../store/database.ts'
import { dropPreset, keepPreset, useOwnPresets } from '../store/own-presets.ts'
import { VaryButton } from './VaryButton.tsx'
import { Chip } from '../controls/Chip.tsx'

interface PresetsProps {
  of: OwnPreset['of']
  label: string
  ready: readonly Preset<object>[]
  /** The present values, of which those with the keys of the built-in presets are saved. */
  now: Readonly<Record<string, unknown>>
  isChosen: (preset: { name: string; values: object }) => boolean
  onTake: (name: string, values: object) => void
}

/** Built-in presets with their reasons, and your own: kept in this browser, for every project. */
export function Presets({ of, label, ready, now, isChosen, onTake }: PresetsProps) {
  const own = useOwnPresets(of)
  const [name, setName] = useState<string | null>(null)
  const [dropped, setDropped] = useState<OwnPreset | null>(null)
  const taken = ready.some((each) => each.name === name?.trim())
  const keep = () => {
    const said = name?.trim() ?? ''
    if (said === '' || taken) return
    const keys = Object.keys(ready[0]!.values)
    void keepPreset(of, said, Object.fromEntries(keys.map((key) => [key, now[key]])))
    setName(null)
  }
  return (
    <div className="tt-swatches tt-scripts" role="group" aria-label={label}>
      {of !== 'mapping' && <VaryButton path={of} label={label} />}
      {ready.map((preset) => (
        <Chip
          key={preset.name}
          data-explain={preset.why}
          aria-pressed={isChosen(preset)}
          onClick={() => onTake(preset.name, preset.values)}
        >
          {preset.name}
        </Chip>
      ))}
      {own?.map((preset) => (
        <span key={preset.id} className="tt-own-preset">
          <Chip
            data-explain="One of your own, kept in this browser"
            aria-pressed={isChosen(preset)}
            onClick={() => onTake(preset.name, preset.values)}
          >
            {preset.name}
          </Chip>
          <Chip
            aria-label={`Forget ${preset.name}`}
            onClick={() => {
              void dropPreset(preset)
              setDropped(preset)
            }}
          >
            ×
          </Chip>
        </span>
      ))}
      {dropped && (
        <Chip
          onClick={() => {
            void keepPreset(dropped.of, dropped.name, dropped.values)
            setDropped(null)
          }}
        >
          bring back “{dropped.name}”
        </Chip>
      )}
      {name === null ? (
        <Chip data-explain="Keeps the values as they are now under a name of your own" onClick={() => setName('')}>
          + keep as own
        </Chip>
      ) : (
        <form
          className="tt-own-preset"
          onSubmit={(event) => {
            event.preventDefault()
            keep()
          }}
        >
          <FormControl
            size="sm"
            autoFocus
            aria-label={`A name for this ${of}`}
            placeholder="its name"
            value={name}
            maxLength={60}
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => event.key === 'Escape' && setName(null)}
          />
          <Chip
            type="submit"
            disabled={name.trim() === '' || taken}
            data-explain={taken ? 'A ready-made one has this name: choose another' : undefined}
          >
            keep
          </Chip>
        </form>
      )}
    </div>
  )
}
