import { dequal } from 'dequal'
import { memo } from 'react'
import ToggleButton from 'react-bootstrap/ToggleButton'
import ToggleButtonGroup from 'react-bootstrap/ToggleButtonGroup'
import { settingAt } from '../../core/project/settings-index.ts'
import { set } from '../store/project-store.ts'
import { VaryButton } from './VaryButton.tsx'

interface ChoiceProps {
  /** Where the setting is in the project: its label, limits and explanation are those of the schema there. */
  path: string
  value: string
  /** Names of the options, in the order in which they are shown; options without a name are not offered. */
  names: Readonly<Record<string, string>>
  onChange?: (value: string) => void
}

/** One of a few, side by side; label and explanation come from the setting. */
export const Choice = memo(({ path, value, names, onChange }: ChoiceProps) => {
  const { label, explain } = settingAt(path)
  return (
    <div className="tt-field" data-explain={explain}>
      <div className="tt-field-label">
        <span id={`label ${path}`}>{label}</span>
        <VaryButton path={path} label={label} />
      </div>
      <ToggleButtonGroup
        type="radio"
        name={path}
        value={value}
        onChange={(next: string) => (onChange ? onChange(next) : set(path, next))}
        aria-labelledby={`label ${path}`}
        size="sm"
      >
        {Object.entries(names).map(([option, name]) => (
          <ToggleButton key={option} id={`${path} ${option}`} value={option} variant="outline-primary">
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
    </div>
  )
}, dequal)
