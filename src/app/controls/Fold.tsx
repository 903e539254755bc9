import type { ReactNode } from 'react'

interface FoldProps {
  title: string
  /** Unfolded from the start. */
  open?: boolean
  className?: string
  children: ReactNode
}

/** A card of settings that are not needed every day: its title is there, the rest unfolds. */
export function Fold({ title, open = false, className = '', children }: FoldProps) {
  return (
    <details className={`tt-card tt-fold ${className}`} aria-label={title} open={open}>
      <summary>
        <h2>{title}</h2>
      </summary>
      {children}
    </details>
  )
}
