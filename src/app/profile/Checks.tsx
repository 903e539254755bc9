import type { Check } from '../../core/profile/figures/checks.ts'
import { checksWord } from '../runs/figures.ts'
import { TextButton } from '../controls/TextButton.tsx'

/** The invariants of a run, checked against its own log; evidence leads to its first moment. */
export function Checks({ checks, onMoment }: { checks: readonly Check[]; onMoment: (ms: number) => void }) {
  return (
    <section className="tt-card tt-checks" aria-label="Checks" tabIndex={0}>
      <h2>{checksWord(checks)}</h2>
      <ul>
        {checks
          .toSorted((one, other) => markOf(one).order - markOf(other).order)
          .map(({ id, ok, evidence, atMs }) => (
            <li key={id} className={ok === false ? 'is-broken' : ''}>
              <span aria-hidden>{markOf({ ok }).mark}</span> <strong>{id}</strong> {evidence}{' '}
              {atMs !== undefined && (
                <TextButton data-explain="Moves the cursor there" onClick={() => onMoment(atMs)}>
                  at {(atMs / 1000).toFixed(2)} s
                </TextButton>
              )}
            </li>
          ))}
      </ul>
    </section>
  )
}

/** Broken ones come first, then those that cannot be decided. */
function markOf({ ok }: Pick<Check, 'ok'>): { order: number; mark: string } {
  if (ok === null) return { order: 1, mark: '–' }
  return ok ? { order: 2, mark: '✓' } : { order: 0, mark: '!' }
}
