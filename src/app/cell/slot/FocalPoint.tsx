import { useRef } from 'react'

interface FocalPointProps {
  at: readonly [number, number]
  /** px of the page for the slot's box. */
  box: { left: number; top: number; width: number; height: number }
  onChange: (at: [number, number]) => void
}

const step = 0.05
const within = (share: number) => Math.round(Math.min(1, Math.max(0, share)) * 100) / 100

/**
 * The point of the picture that stays in view when its frame cuts it: dragged on the picture, or moved by the arrow
 * keys.
 */
export function FocalPoint({ at, box, onChange }: FocalPointProps) {
  const dragging = useRef(false)
  const room = useRef<HTMLDivElement>(null)
  return (
    <div ref={room} className="tt-focal-room" style={box}>
      <div
        className="tt-focal"
        role="slider"
        tabIndex={0}
        style={{ left: `${at[0] * 100}%`, top: `${at[1] * 100}%` }}
        aria-label="Focal point"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(at[0] * 100)}
        aria-valuetext={`${Math.round(at[0] * 100)} % across, ${Math.round(at[1] * 100)} % down`}
        data-explain="The part of the picture that stays in view"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId)
          dragging.current = true
        }}
        onPointerMove={(event) => {
          if (!dragging.current) return
          const { left, top, width, height } = room.current!.getBoundingClientRect()
          onChange([within((event.clientX - left) / width), within((event.clientY - top) / height)])
        }}
        onPointerUp={() => (dragging.current = false)}
        onKeyDown={(event) => {
          const [dx, dy] = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[
            event.key
          ] ?? [0, 0]
          if (dx === 0 && dy === 0) return
          event.preventDefault()
          onChange([within(at[0] + dx!), within(at[1] + dy!)])
        }}
      />
    </div>
  )
}
