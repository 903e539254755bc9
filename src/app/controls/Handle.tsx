import { useRef, type CSSProperties } from 'react'

interface HandleProps {
  label: string
  value: number
  min: number
  max: number
  text: string
  /** px of the pointer for one unit, along x or y. */
  pxPerUnit: number
  axis: 'x' | 'y'
  style: CSSProperties
  onChange: (value: number) => void
}

/** A handle on the thing itself: dragged with a pointer, stepped with the arrow keys. */
export function Handle({ label, value, min, max, text, pxPerUnit, axis, style, onChange }: HandleProps) {
  const from = useRef<{ at: number; value: number } | null>(null)
  const put = (next: number) => {
    const whole = Math.min(max, Math.max(min, Math.round(next)))
    if (whole !== value) onChange(whole)
  }
  return (
    <div
      className="tt-handle" role="slider" tabIndex={0} style={style} data-axis={axis}
      aria-label={label} aria-valuenow={value} aria-valuemin={min} aria-valuemax={max} aria-valuetext={text} title={`${label}: ${text}`}
      aria-orientation={axis === 'x' ? 'horizontal' : 'vertical'}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        from.current = { at: axis === 'x' ? event.clientX : event.clientY, value }
      }}
      onPointerMove={(event) => {
        if (!from.current) return
        put(from.current.value + ((axis === 'x' ? event.clientX : event.clientY) - from.current.at) / pxPerUnit)
      }}
      onPointerUp={() => (from.current = null)}
      onPointerCancel={() => (from.current = null)}
      onKeyDown={(event) => {
        const steps: Record<string, number> = { ArrowRight: 1, ArrowDown: axis === 'y' ? 1 : -1, ArrowLeft: -1, ArrowUp: axis === 'y' ? -1 : 1, PageUp: 5, PageDown: -5 }
        const step = steps[event.key]
        if (step === undefined) return
        event.preventDefault()
        put(value + step)
      }}
    />
  )
}
