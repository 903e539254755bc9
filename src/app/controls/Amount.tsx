import FormRange from 'react-bootstrap/FormRange'
import { memo, useId } from 'react'
import { settingAt } from '../../core/project/settings-index.ts'
import { set } from '../store/project-store.ts'
import { TypedNumber } from './TypedNumber.tsx'
import { VaryButton } from './VaryButton.tsx'

interface AmountProps {
  path: string
  value: number
  /** The everyday range of the slider; a typed number may use the whole range of the setting. */
  from: number
  to: number
  step?: number
  /** What the number amounts to, shown beside it. */
  note?: string
  onChange?: (value: number) => void
  label?: string
}

/** A number: dragged in its everyday range, or typed. While it is dragged everything follows. */
export const Amount = memo(({ path, value, from, to, step = 1, note, onChange, label }: AmountProps) => {
  const setting = settingAt(path)
  const id = useId()
  const change = (next: number) => (onChange ? onChange(next) : set(path, next))
  return (
    <div className="tt-field" data-explain={setting.explain}>
      <div className="tt-field-label">
        <label htmlFor={id}>{label ?? setting.label}</label>
        <VaryButton path={path} label={label ?? setting.label} />
      </div>
      <div className="tt-amount">
        <FormRange
          aria-label={label ?? setting.label}
          min={from}
          max={to}
          step={step}
          value={Math.min(to, Math.max(from, value))}
          onChange={(event) => change(Number(event.target.value))}
        />
        <TypedNumber
          label={label ?? setting.label}
          unit={setting.unit}
          id={id}
          path={path}
          value={value}
          onChange={change}
        />
        <span className="tt-unit">
          {setting.unit}
          {note && <small> · {note}</small>}
        </span>
      </div>
    </div>
  )
})
