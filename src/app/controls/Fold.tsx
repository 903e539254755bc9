import { useState, type ReactNode } from 'react'

interface FoldProps {
  title: string
  /** Unfolded from the start, or once this becomes true. It never folds by itself: that would lose the focus. */
  open?: boolean
  className?: string
  children: ReactNode
}

/** A card of settings that are not needed every day: only its title shows until it is unfolded. */
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
