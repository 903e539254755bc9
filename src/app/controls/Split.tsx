import { useRef } from 'react'

interface SplitProps {
  label: string
  /** The height of what is below it, px; null: as the style sheet has it. */
  height: number | null
  min: number
  max: number
  /** Its height as it is drawn now, px. */
  measure: () => number
  onChange: (height: number | null) => void
}

/** px for one press of an arrow key. */
const stepPx = 24

/**
 * The edge between two parts, one above the other: dragged, stepped with the arrow keys, reset with a double click or
 * Enter.
 */
export function Split({ label, height, min, max, measure, onChange }: SplitProps) {
  const from = useRef<{ y: number; height: number } | null>(null)
  const put = (next: number) => onChange(Math.round(Math.min(max, Math.max(min, next))))
  return (
    <div
      className="tt-split"
      role="separator"
      tabIndex={0}
      aria-orientation="horizontal"
      aria-label={label}
      data-explain={`${label}: drag it, or the arrow keys; double-click resets it`}
      aria-valuenow={height ?? min}
      aria-valuemin={min}
      aria-valuemax={max}
      aria-valuetext={height === null ? 'as it was' : `${height} px`}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        from.current = { y: event.clientY, height: measure() }
      }}
      onPointerMove={(event) => from.current && put(from.current.height + from.current.y - event.clientY)}
      onPointerUp={() => (from.current = null)}
      onPointerCancel={() => (from.current = null)}
      onDoubleClick={() => onChange(null)}
      onKeyDown={(event) => {
        const step = { ArrowUp: stepPx, ArrowDown: -stepPx }[event.key]
        if (step === undefined && event.key !== 'Enter') return
        event.preventDefault()
        if (step === undefined) onChange(null)
        else put(measure() + step)
      }}
    />
  )
}
