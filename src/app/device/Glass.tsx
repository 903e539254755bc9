import { useRef } from 'react'
import type { Device } from '../../core/project/types.ts'
import { currentProject } from '../store/project-store.ts'
import { attachDevice, currentDevice, currentRun, startHand } from './device-store.ts'

/** Farther than any list is long, dp: the list stops at its end. */
const beyondAll = 1e12

/** A press that moves less than this is a tap, px. */
const tapPx = 4

/** The list itself: dragged by hand, scrolled by keys; a tap requests a failed picture again. */
export function Glass({
  name,
  device: { widthDp, heightDp },
  scale,
  readout,
}: {
  name: string
  device: Device
  /** px a dp. */
  scale: number
  readout: boolean
}) {
  const pressed = useRef<{ x: number; y: number } | null>(null)
  return (
    <div
      className="tt-glass"
      data-readout={readout ? '' : undefined}
      ref={attachDevice}
      tabIndex={0}
      role="group"
      aria-label={`${name}, the live list: drag it, or scroll it with the arrow and page keys; a failed picture is requested again by a tap, all of them with r`}
      style={{ width: widthDp, height: heightDp, zoom: scale }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        pressed.current = { x: event.clientX, y: event.clientY }
        withHand((hand) => hand.press(event.clientY / scale, event.timeStamp))
      }}
      onPointerMove={(event) =>
        event.buttons > 0 && withHand((hand) => hand.move(event.clientY / scale, event.timeStamp))
      }
      onPointerUp={(event) => {
        withHand((hand) => hand.release(event.timeStamp))
        const from = pressed.current
        if (from && Math.hypot(event.clientX - from.x, event.clientY - from.y) < tapPx)
          retryAt(event.clientX, event.clientY)
      }}
      onWheel={(event) => withHand((hand) => hand.nudge(event.deltaY / scale))}
      onKeyDown={(event) => {
        if (event.key === 'r' && !event.ctrlKey && !event.metaKey && currentHand()) currentRun()?.run.retryFailed(null)
        const steps: Record<string, number> = {
          ArrowDown: 80,
          ArrowUp: -80,
          PageDown: heightDp,
          PageUp: -heightDp,
          Home: -beyondAll,
          End: beyondAll,
        }
        const dp = steps[event.key]
        if (dp === undefined) return
        event.preventDefault()
        withHand((hand) => hand.nudge(dp))
      }}
    />
  )
}

/** A tap on a cell requests its failed pictures again. */
function retryAt(x: number, y: number): void {
  const cell = document
    .elementsFromPoint(x, y)
    .flatMap((element) => element.closest<HTMLElement>('.tt-cell[data-index]') ?? [])[0]
  // During a drive the script alone acts: a tap would make it a different one.
  if (cell && currentHand()) currentRun()?.run.retryFailed(Number(cell.dataset.cell))
}

/** The hand takes over the list; after a drive it starts again from where the drive left it. */
function withHand(act: (hand: NonNullable<ReturnType<typeof currentHand>>) => void): void {
  const hand = currentHand()
  const state = currentProject()
  if (hand) act(hand)
  else if (currentDevice().mode === 'still' && state) void startHand(state, true)
}

function currentHand() {
  const run = currentRun()
  return run?.hand ?? null
}
