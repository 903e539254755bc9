import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import { notify } from '../store/project-store.ts'

interface TypedNumberProps {
  /** Its name in messages; also for assistive technology where it has no label. */
  label: string
  value: number
  unit?: string
  id?: string
  path?: string
  explain?: string
  onChange: (value: number) => void
}

/**
 * A number that is typed: it counts when Enter is pressed or the field is left. What is not a number is reported, and
 * nothing changes.
 */
export function TypedNumber({ label, value, unit = '', id, path, explain, onChange }: TypedNumberProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const commit = (text: string) => {
    const next = Number(text)
    setTyped(null)
    if (text.trim() === '') return
    if (Number.isFinite(next)) onChange(next)
    else notify(`${label} stays ${value}${unit ? ` ${unit}` : ''}: “${text.trim().slice(0, 40)}” is not a number.`)
  }
  return (
    <FormControl
      size="sm"
      id={id}
      type="text"
      inputMode="decimal"
      htmlSize={5}
      aria-label={id === undefined ? label : undefined}
      value={typed ?? String(value)}
      data-path={path}
      data-explain={explain}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={(event) => typed !== null && commit(event.target.value)}
      onKeyDown={(event) => event.key === 'Enter' && commit(event.currentTarget.value)}
    />
  )
}
