import type { ReactNode } from 'react'

/** A card of settings that are not needed every day: its title is there, the rest unfolds. `open`: unfolded from the start. */
export function Fold({ title, open = false, children }: { title: string; open?: boolean; children: ReactNode }) {
  return (
    <details className="tt-card tt-fold" aria-label={title} open={open}>
      <summary>
        <h2>{title}</h2>
      </summary>
      {children}
    </details>
  )
}
