import type { RequestClass } from '../../core/profile/figures/ledger.ts'
import { classWords } from './map-words.ts'

interface LegendProps {
  classes: readonly RequestClass[]
  hidden: ReadonlySet<string>
  onToggle: (name: RequestClass) => void
}

/** The legend is the filter: a class that is pressed off is not drawn. */
export function Legend({ classes, hidden, onToggle }: LegendProps) {
  return (
    <div className="tt-legend" role="group" aria-label="What the map shows">
      {classes.map((name) => {
        const { glyph, hue, name: word, explain } = classWords[name]
        return (
          <button
            key={name}
            type="button"
            className="tt-chip"
            aria-pressed={!hidden.has(name)}
            title={explain}
            onClick={() => onToggle(name)}
          >
            <span aria-hidden style={{ color: `var(${hue})` }}>
              {glyph}
            </span>{' '}
            {word}
          </button>
        )
      })}
    </div>
  )
}
