import type { RequestClass } from '../../core/profile/figures/ledger.ts'
import { classWords } from './map-words.ts'
import { Chip } from '../controls/Chip.tsx'

interface LegendProps {
  classes: readonly RequestClass[]
  hidden: ReadonlySet<string>
  onToggle: (name: RequestClass) => void
}

/** The legend is the filter: a class that is switched off is not drawn. */
export function Legend({ classes, hidden, onToggle }: LegendProps) {
  return (
    <div className="tt-legend" role="group" aria-label="What the map shows">
      {classes.map((name) => {
        const { glyph, hue, name: word, explain } = classWords[name]
        return (
          <Chip key={name} aria-pressed={!hidden.has(name)} data-explain={explain} onClick={() => onToggle(name)}>
            <span aria-hidden style={{ color: `var(${hue})` }}>
              {glyph}
            </span>{' '}
            {word}
          </Chip>
        )
      })}
    </div>
  )
}
