import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import FormControl from 'react-bootstrap/FormControl'
import { Chip } from '../controls/Chip.tsx'

interface LinesProps {
  lines: readonly { name: string; text: string; onRemove?: () => void }[]
  /** The two fields of a line that is added. */
  fields: readonly [Field, Field]
  onAdd: (values: [string, string]) => void
}

interface Field {
  label: string
  placeholder?: string
  required?: boolean
  pattern?: string
}

const empty: [string, string] = ['', '']

/** Lines of two values each, which can be removed and added. */
export function Lines({ lines, fields, onAdd }: LinesProps) {
  const [typed, setTyped] = useState(empty)
  return (
    <>
      {lines.map(({ name, text, onRemove }, i) => (
        <div key={i} className="tt-source-line">
          <span>{text}</span>
          {onRemove && (
            <Chip aria-label={`Remove ${name}`} onClick={onRemove}>
              ×
            </Chip>
          )}
        </div>
      ))}
      <form
        className="tt-source-line"
        onSubmit={(event) => {
          event.preventDefault()
          onAdd(typed)
          setTyped(empty)
        }}
      >
        {fields.map(({ label, ...rest }, i) => (
          <FormControl
            key={label}
            size="sm"
            aria-label={label}
            value={typed[i]}
            onChange={(event) => setTyped(typed.with(i, event.target.value) as [string, string])}
            {...rest}
          />
        ))}
        <Button size="sm" type="submit" variant="outline-primary">
          Add
        </Button>
      </form>
    </>
  )
}
