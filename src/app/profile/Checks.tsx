import type { Check } from '../../core/profile/checks.ts'

/** The invariants of a run, held against its own log; evidence leads to its first moment. */
export function Checks({ checks, onMoment }: { checks: readonly Check[]; onMoment: (ms: number) => void }) {
  const broken = checks.filter((check) => !check.ok)
  return (
    <section className="tt-card tt-checks" aria-label="Checks" tabIndex={0}>
      <h2>
        {broken.length === 0
          ? `All ${checks.length} checks hold`
          : `${broken.length} of ${checks.length} checks are broken`}
      </h2>
      <ul>
        {[...broken, ...checks.filter((check) => check.ok)].map(({ id, ok, evidence, atMs }) => (
          <li key={id} className={ok ? '' : 'is-broken'}>
            <span aria-hidden>{ok ? '✓' : '!'}</span> <strong>{id}</strong> {evidence}{' '}
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
