import type { Project, Screen } from '../../core/project/types.ts'
import { Amount } from '../controls/Amount.tsx'
import { Choice } from '../controls/Choice.tsx'
import { Flag } from '../controls/Flag.tsx'
import { set } from '../store/project-store.ts'
import { Chip } from '../controls/Chip.tsx'

/** What is requested before it is on screen: how far, which way, when, and which lists before their screens open. */
export function Ahead({ project, screen }: { project: Project; screen: Screen }) {
  const { ahead, standIn } = project.loading
  const others = project.screens.filter((each) => each !== screen)
  return (
    <section className="tt-card" aria-label="Loading ahead">
      <h2>Loading ahead</h2>
      <Amount
        path="/loading/ahead/amount"
        value={ahead.amount}
        from={0}
        to={ahead.by === 'rows' ? 20 : 4}
        step={ahead.by === 'rows' ? 1 : 0.25}
        note={ahead.by === 'screens' ? 'counted in screens' : undefined}
      />
      <Choice
        path="/loading/ahead/direction"
        value={ahead.direction}
        names={{ travel: 'the way it goes', both: 'both ways' }}
      />
      <details>
        <summary>More</summary>
        <Choice path="/loading/ahead/by" value={ahead.by} names={{ rows: 'rows', screens: 'screens' }} />
        <Flag path="/loading/ahead/onlyWhenIdle" value={ahead.onlyWhenIdle} />
        <Flag path="/loading/standIn" value={standIn} />
        {others.length > 0 && (
          <div
            className="tt-field"
            data-explain="The first screenful of a list is requested before its screen opens, once nothing on this screen waits"
          >
            <span>Lists loaded early</span>
            <div className="tt-swatches">
              {others.map(({ id, name }) => {
                const on = ahead.lists.includes(id)
                return (
                  <Chip
                    key={id}
                    aria-pressed={on}
                    onClick={() =>
                      set('/loading/ahead/lists', on ? ahead.lists.filter((each) => each !== id) : [...ahead.lists, id])
                    }
                  >
                    {name || id}
                  </Chip>
                )
              })}
            </div>
          </div>
        )}
      </details>
    </section>
  )
}
