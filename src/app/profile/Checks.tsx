import type { Check } from '../../core/profile/figures/checks.ts'
import { checksWord } from '../runs/figures.ts'

/** The invariants of a run, held against its own log; evidence leads to its first moment. */
export function Checks({ checks, onMoment }: { checks: readonly Check[]; onMoment: (ms: number) => void }) {
  const order = (check: Check) => (check.ok === false ? 0 : check.ok === null ? 1 : 2)
  return (
    <section className="tt-card tt-checks" aria-label="Checks" tabIndex={0}>
      <h2>{checksWord(checks)}</h2>
      <ul>
        {checks
          .toSorted((one, other) => order(one) - order(other))
          .map(({ id, ok, evidence, atMs }) => (
            <li key={id} className={ok === false ? 'is-broken' : ''}>
              <span aria-hidden>{ok === null ? '–' : ok ? '✓' : '!'}</span> <strong>{id}</strong> {evidence}{' '}
              {atMs !== undefined && (
                <button type="button" className="tt-link" title="Puts the cursor there" onClick={() => onMoment(atMs)}>
                  at {(atMs / 1000).toFixed(2)} s
                </button>
              )}
            </li>
          ))}
      </ul>
    </section>
  )
}
