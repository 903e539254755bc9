const size = { width: 120, height: 14 }

/** A fitted value against the recorded ones: a bar over their middle half, a mark at the fitted value. */
export function FitMark({ value, low, high }: { value: number; low: number; high: number }) {
  const most = Math.max(value, high, 1e-9) * 1.15
  const x = (each: number) => 3 + (Math.max(0, each) / most) * (size.width - 6)
  const y = size.height / 2
  return (
    <svg width={size.width} height={size.height} aria-hidden className="tt-fit-mark">
      <line x1={3} x2={size.width - 3} y1={y} y2={y} stroke="var(--line)" />
      <line x1={x(low)} x2={Math.max(x(low) + 2, x(high))} y1={y} y2={y} stroke="var(--shown)" strokeWidth={5} />
      <path d={`M${x(value)} ${y - 6}l5 6l-5 6l-5 -6z`} fill="var(--tug)" stroke="var(--panel)" />
    </svg>
  )
}
