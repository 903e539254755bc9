import { TypedNumber } from './TypedNumber.tsx'

interface NumbersProps {
  label: string
  explain: string
  unit?: string
  numbers: readonly { name: string; value: number; onChange: (value: number) => void }[]
}

/** A few numbers that belong together, typed: the exact values of what can be dragged on the picture. */
export function Numbers({ label, explain, unit, numbers }: NumbersProps) {
  return (
    <div className="tt-field" data-explain={explain}>
      <span>{label}</span>
      <div className="tt-numbers" role="group" aria-label={label}>
        {numbers.map(({ name, value, onChange }) => (
          <label key={name}>
            {name}
            <TypedNumber label={`${label}, ${name}`} unit={unit} value={value} onChange={onChange} />
          </label>
        ))}
        {unit && <span className="tt-unit">{unit}</span>}
      </div>
    </div>
  )
}
