import FormControl from 'react-bootstrap/FormControl'
import { useState } from 'react'
import { notify } from '../store/project-store.ts'

interface NameFieldProps {
  /** What is named, for its label: "Name of set 1". */
  label: string
  name: string
  /** Names that others have. */
  taken: readonly string[]
  onName: (name: string) => void
}

const longest = 200

/**
 * A name that can be changed: it counts when Enter is pressed or the field is left, and must be one that nothing else
 * has.
 */
export function NameField({ label, name, taken, onName }: NameFieldProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const commit = () => {
    const next = typed?.trim() ?? name
    setTyped(null)
    if (next === '' || next === name) return
    if (taken.includes(next)) notify(`“${name}” keeps its name: there is a “${next}” already.`)
    else onName(next)
  }
  return (
    <FormControl
      size="sm"
      className="tt-name-field"
      aria-label={label}
      maxLength={longest}
      value={typed ?? name}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Enter') commit()
        else if (event.key === 'Escape') setTyped(null)
      }}
    />
  )
}
