import { useLayoutEffect, useRef, type CSSProperties } from 'react'
import { moveByHand } from '../store/hand.ts'
import { isDrawn } from '../store/project-state.ts'

interface HandleProps {
  label: string
  value: number
  min: number
  max: number
  text: string
  /** px of the pointer for one unit, along x or y; negative where the value grows against the axis. */
  pxPerUnit: number
  axis: 'x' | 'y'
  style: CSSProperties
  /** Values that it snaps to when it comes near: the edges of what is beside it. */
  snaps?: readonly number[]
  /** It is on the far side of what it moves, where another handle is on the near side. */
  far?: boolean
  onChange: (value: number) => void
}

/** The distance within which it snaps to a value, px of the pointer. */
const snapPx = 4

/** A handle in the picture itself: dragged with a pointer, stepped with the arrow keys. */
export function Handle({
  label,
  value,
  min,
  max,
  text,
  pxPerUnit,
  axis,
  style,
  snaps = [],
  far = false,
  onChange,
}: HandleProps) {
  const from = useRef<{ at: number; value: number; pxPerUnit: number } | null>(null)
  // The page may be drawn with a change a moment after it was made: the next step counts from the value that was set,
  // also when the page is drawn for another reason meanwhile, with the former value.
  const at = useRef(value)
  const drawn = useRef(value)
  useLayoutEffect(() => {
    if (value !== drawn.current || isDrawn()) at.current = value
    drawn.current = value
  })
  const put = (next: number) => {
    const whole = Math.min(max, Math.max(min, next))
    if (whole === at.current) return
    at.current = whole
    moveByHand(() => onChange(whole))
  }
  const drag = (raw: number) => {
    const near = snaps
      .filter((each) => Math.abs(each - raw) * Math.abs(pxPerUnit) <= snapPx)
      .sort((a, b) => Math.abs(a - raw) - Math.abs(b - raw))[0]
    put(near ?? Math.round(raw))
  }
  return (
    <div
      className="tt-handle"
      role="slider"
      tabIndex={0}
      style={style}
      data-axis={axis}
      data-far={far ? '' : undefined}
      data-text={text}
      data-snapped={snaps.includes(value) ? '' : undefined}
      aria-label={label}
      aria-valuenow={value}
      aria-valuemin={min}
      aria-valuemax={max}
      aria-valuetext={text}
      data-explain={`${label}: ${text}`}
      aria-orientation={axis === 'x' ? 'horizontal' : 'vertical'}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        // What it is on may be drawn at another scale while it is dragged: the drag keeps the scale that it began with.
        from.current = { at: axis === 'x' ? event.clientX : event.clientY, value: at.current, pxPerUnit }
      }}
      onPointerMove={(event) => {
        if (!from.current) return
        drag(
          from.current.value +
            ((axis === 'x' ? event.clientX : event.clientY) - from.current.at) / from.current.pxPerUnit,
        )
      }}
      onPointerUp={() => (from.current = null)}
      onPointerCancel={() => (from.current = null)}
      onKeyDown={(event) => {
        // Along its axis an arrow moves it the way it points; across it, up increases.
        const along = pxPerUnit < 0 ? -1 : 1
        const steps: Record<string, number> = {
          ArrowRight: axis === 'x' ? along : 1,
          ArrowLeft: axis === 'x' ? -along : -1,
          ArrowDown: axis === 'y' ? along : -1,
          ArrowUp: axis === 'y' ? -along : 1,
          PageUp: 5,
          PageDown: -5,
          Home: min - at.current,
          End: max - at.current,
        }
        const step = steps[event.key]
        if (step === undefined) return
        event.preventDefault()
        put(Math.round(at.current + step))
      }}
    />
  )
}
