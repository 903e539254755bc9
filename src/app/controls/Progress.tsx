/**
 * How far long work is, 0–1; null: not known. The bar itself has the name, which Bootstrap's own leaves on its frame.
 */
export function Progress({ name, share }: { name: string; share: number | null }) {
  const now = Math.round(100 * (share ?? 0.25))
  return (
    <div className="progress tt-progress">
      <div
        className={`progress-bar ${share === null ? 'progress-bar-striped progress-bar-animated' : ''}`}
        role="progressbar"
        aria-label={name}
        style={{ width: `${now}%` }}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={share === null ? undefined : now}
      />
    </div>
  )
}
