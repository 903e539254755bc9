import { useState, type ReactNode } from 'react'

interface FoldProps {
  title: string
  /** Unfolded from the start, or from when this is so. It never folds by itself: that would take the focus away. */
  open?: boolean
  className?: string
  children: ReactNode
}

/** A card of settings that are not needed every day: its title is there, the rest unfolds. */
export function Fold({ title, open = false, className = '', children }: FoldProps) {
  const [unfolded, setUnfolded] = useState(open)
  if (open && !unfolded) setUnfolded(true)
  return (
    <details className={`tt-card tt-fold ${className}`} aria-label={title} open={unfolded}>
      <summary>
        <h2>{title}</h2>
      </summary>
      {children}
    </details>
  )
}
