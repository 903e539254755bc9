import type { Check } from '../../core/profile/checks.ts'

/** The invariants of a run, held against its own log. */
export function Checks({ checks }: { checks: readonly Check[] }) {
  const broken = checks.filter((check) => !check.ok)
  return (
    <section className="tt-card tt-checks" aria-label="Checks" tabIndex={0}>
      <h2>{broken.length === 0 ? `All ${checks.length} checks hold` : `${broken.length} of ${checks.length} checks are broken`}</h2>
      <ul>
        {[...broken, ...checks.filter((check) => check.ok)].map((check) => (
          <li key={check.id} className={check.ok ? '' : 'is-broken'}>
            <span aria-hidden>{check.ok ? '✓' : '!'}</span> <strong>{check.id}</strong> {check.evidence}
          </li>
        ))}
      </ul>
    </section>
  )
}
